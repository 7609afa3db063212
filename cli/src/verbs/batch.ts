import { existsSync } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, extname, join } from 'node:path';
import type { Worker } from 'node:worker_threads';
import { appliedTo, composeWarp, fileName, freeName, PlumbError, stemOf, unknownWord, type Correction } from '@able-plumb/core';
import type { BatchTask, BatchReply } from '../batch-worker';
import {
  ENDINGS,
  EXPORT_FLAGS,
  EXPORT_FORM,
  EXPORT_VALUES,
  exportOptions,
  formatFor,
  withOptions,
  type Exported,
  type ExportOptions,
} from '../export-picture';
import { isSameFile, readCorrection, readPictureFile } from '../files';
import { noteBegun, partialOf } from '../partial-files';
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

  const inputs = [correctionPath, ...pictures];
  const taken = new Set<string>();
  const rows: Row[] = [];
  const tasks: { readonly row: number; readonly task: BatchTask }[] = [];
  for (const [i, picture] of pictures.entries()) {
    try {
      const stem = await stemFor(pattern, picture, i + 1, correction, options);
      const own = ending ?? extname(picture).slice(1);
      const out = join(folder, freeName(stem, own, taken));
      await refuseOut(out, own, picture, inputs, parsed.options.has('force'));
      tasks.push({ row: i, task: { correction, picture, out, ending: own, options } });
      rows.push({ picture, error: '' });
    } catch (error) {
      rows.push({ picture, error: (error as Error).message });
    }
  }

  const workers = Math.min(tasks.length, wholeOption(parsed, 'jobs', 1, 64) ?? availableParallelism());
  let next = 0;
  const work = async (): Promise<void> => {
    let worker: Worker | null = null;
    try {
      for (let taking = tasks[next]; taking; taking = tasks[next]) {
        next += 1;
        const { picture, out } = taking.task;
        noteBegun(out);
        worker ??= startWorker('batch-worker');
        const reply = await ask(worker, taking.task);
        // one that died is not asked again
        if ('died' in reply) {
          await worker.terminate();
          worker = null;
          await rm(partialOf(out), { force: true });
        }
        rows[taking.row] = 'exported' in reply ? { picture, ...reply.exported } : { picture, error: reply.error };
        process.stderr.write(`${'exported' in reply ? `written: ${reply.exported.file}` : `failed: ${reply.error}`}\n`);
      }
    } finally {
      await worker?.terminate();
    }
  };
  await Promise.all(Array.from({ length: workers }, work));
  const failed = rows.filter((row) => 'error' in row).length;
  return { written: rows.length - failed, failed, pictures: rows };
}

/** The name of a picture's file; what the picture says of itself is read only where the name asks for it. */
async function stemFor(pattern: string, picture: string, number: number, asked: Correction, options: ExportOptions): Promise<string> {
  const name = basename(picture);
  const words = { name: stemOf(name), number, job: '', delivery: '' };
  if (!/\{(width|height|date)\}/.test(pattern)) return fileName(pattern, { ...words, width: 0, height: 0, takenAt: null });
  const { info } = await readPictureFile(picture);
  const correction = withOptions(appliedTo(asked, { name, width: info.width, height: info.height }).correction, options);
  const { width, height } = composeWarp(correction, correction.picture).outputSize;
  return fileName(pattern, { ...words, width, height, takenAt: info.takenAt });
}

/** @throws PlumbError where a file may not be written under this name */
async function refuseOut(out: string, ending: string, picture: string, inputs: readonly string[], force: boolean): Promise<void> {
  if (!ENDINGS.includes(ending.toLowerCase()))
    throw new PlumbError('ending', `${basename(picture)}: nothing is written in the format of its ending.`, 'Add --format.');
  if (!existsSync(out)) return;
  for (const input of inputs)
    if (await isSameFile(input, out))
      throw new PlumbError('overwrites-input', `${out} is one of the inputs; originals are never overwritten.`);
  if (!force) throw new PlumbError('exists', `${out} exists already.`, 'Choose another folder or name, or add --force.');
}

/** What a worker makes of a task; one that ends before it answers is told for its picture. */
function ask(worker: Worker, task: BatchTask): Promise<BatchReply | { readonly error: string; readonly died: true }> {
  return new Promise((done) => {
    const died = (why: string): void => answer({ error: `${task.picture}: the thread that worked on it ended (${why}).`, died: true });
    const onError = (error: Error): void => died(error.message);
    const onExit = (code: number): void => died(`code ${code}`);
    const answer = (reply: BatchReply | { readonly error: string; readonly died: true }): void => {
      worker.off('message', answer).off('error', onError).off('exit', onExit);
      done(reply);
    };
    worker.on('message', answer).on('error', onError).on('exit', onExit);
    worker.postMessage(task);
  });
}
