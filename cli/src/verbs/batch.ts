import { existsSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, extname, join, resolve } from 'node:path';
import type { Worker } from 'node:worker_threads';
import { fileName, freeName, PlumbError, stemOf, unknownWord } from '@able-plumb/core';
import type { BatchTask, BatchReply } from '../batch-worker';
import { ENDINGS, EXPORT_FLAGS, EXPORT_FORM, EXPORT_VALUES, exportOptions, formatFor, type Exported } from '../export-picture';
import { readCorrection } from '../files';
import { startWorker } from '../start-worker';
import { parseArguments, textOption, UsageError, wholeOption } from '../usage';

const FORM = `batch CORRECTION PICTURE ... --out DIR [--format ${ENDINGS.join('|')}] [--name PATTERN] [--jobs N] ${EXPORT_FORM}`;

/** One picture of a batch: what was written, or why not. */
type Row = { readonly picture: string } & (Exported | { readonly error: string });

/**
 * `batch CORRECTION PICTURE ... --out DIR`: the same correction on many pictures, several at a time; scaled for those of another size and
 * the same proportions. A picture that fails stops none of the others.
 */
export async function batch(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['out', 'format', 'name', 'jobs', ...EXPORT_VALUES], EXPORT_FLAGS);
  const [correctionPath, ...pictures] = parsed.positions;
  const folder = textOption(parsed, 'out');
  if (correctionPath === undefined || pictures.length === 0 || folder === undefined) throw new UsageError(`Use: plumb ${FORM}`);
  const options = exportOptions(parsed);
  const ending = textOption(parsed, 'format');
  if (ending !== undefined) formatFor(ending, options, 8);
  const pattern = textOption(parsed, 'name') ?? '{name}';
  const unknown = unknownWord(pattern);
  if (unknown !== null) throw new UsageError(`--name: there is no {${unknown}}.`);
  const correction = await readCorrection(correctionPath);
  await mkdir(folder, { recursive: true }).catch((error: Error) => {
    throw new PlumbError('cannot-write', `${folder} cannot be made: ${error.message}.`);
  });

  const inputs = new Set([correctionPath, ...pictures].map((path) => resolve(path)));
  const taken = new Set<string>();
  const rows: Row[] = [];
  const tasks: { readonly row: number; readonly task: BatchTask }[] = [];
  pictures.forEach((picture, i) => {
    const name = basename(picture);
    const stem = fileName(pattern, {
      name: stemOf(name),
      number: i + 1,
      job: '',
      delivery: '',
      width: correction.picture.width,
      height: correction.picture.height,
      takenAt: null,
    });
    const own = ending ?? extname(name).slice(1);
    const out = join(folder, freeName(stem, own, taken));
    const refused = inputs.has(resolve(out))
      ? `${out} is one of the inputs; originals are never overwritten.`
      : existsSync(out) && !parsed.options.has('force')
        ? `${out} exists already. Choose another folder or name, or add --force.`
        : ENDINGS.includes(own.toLowerCase())
          ? null
          : `${name}: nothing is written in the format of its ending. Add --format.`;
    rows.push({ picture, error: refused ?? '' });
    if (refused === null) tasks.push({ row: i, task: { correction, picture, out, ending: own, options } });
  });

  const workers = Math.min(tasks.length, wholeOption(parsed, 'jobs', 1, 64) ?? availableParallelism());
  let next = 0;
  const work = async (): Promise<void> => {
    const worker = startWorker('batch-worker');
    try {
      for (;;) {
        const taking = tasks[next];
        if (!taking) return;
        next += 1;
        const { picture } = taking.task;
        const reply = await ask(worker, taking.task);
        rows[taking.row] = 'error' in reply ? { picture, error: reply.error } : { picture, ...reply.exported };
        process.stderr.write(`${'error' in reply ? `failed: ${reply.error}` : `written: ${reply.exported.file}`}\n`);
      }
    } finally {
      await worker.terminate();
    }
  };
  await Promise.all(Array.from({ length: workers }, work));
  const failed = rows.filter((row) => 'error' in row).length;
  return { written: rows.length - failed, failed, pictures: rows };
}

function ask(worker: Worker, task: BatchTask): Promise<BatchReply> {
  return new Promise((done) => {
    worker.once('message', done);
    worker.once('error', (error) => done({ error: `${task.picture}: ${error.message}.` }));
    worker.postMessage(task);
  });
}
