import { existsSync } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, dirname, extname, isAbsolute, join } from 'node:path';
import type { Worker } from 'node:worker_threads';
import {
  appliedTo,
  composeWarp,
  fileName,
  freeName,
  PlumbError,
  stemOf,
  SURE_DEG,
  unknownWord,
  type Correction,
  type SuggestionKind,
} from '@able-plumb/core';
import * as z from 'zod';
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
import { readCorrection } from '../correction-file';
import { isSameFile, readBytes, readPictureFile } from '../files';
import { isEnding, noteBegun, noteWriter, partialOf } from '../partial-files';
import { startWorker } from '../start-worker';
import { parseArguments, textOption, UsageError, wholeOption, type Arguments } from '../usage';

const FORM = `batch CORRECTION PICTURE ... --out DIR [--format ${ENDINGS.join('|')}] [--name PATTERN] [--jobs N] [--resume] ${EXPORT_FORM}
     plumb batch --suggest KIND --sure DEG PICTURE ... [--out DIR] ...
     plumb batch [CORRECTION] --list FILE [--shard 3/16] ...`;

/** What happened to one picture of a batch. */
type Row = { readonly picture: string } & (
  | (Exported & { readonly suggestion?: unknown })
  | { readonly suggestion: unknown }
  | { readonly left: string }
  | { readonly skipped: true; readonly file: string }
  | { readonly error: string }
);

/** A picture as it was asked for. */
interface Asked {
  readonly picture: string;
  /** Its own; else the one for all. */
  readonly correction: string | null;
}

const KINDS: readonly SuggestionKind[] = ['eye-line', 'turn-middle', 'stand-plumb', 'front', 'return', 'sheet'];

/**
 * `batch CORRECTION PICTURE ... --out DIR`: the same correction on many pictures, several at a time; scaled for those of another size and
 * the same proportions. With `--suggest` each picture's own suggestion where it is sure enough, the others left with the reason. Pictures
 * from arguments or from a list, all of it or a part. A picture that fails stops none of the others.
 */
export async function batch(args: readonly string[]): Promise<unknown> {
  const values = ['out', 'format', 'name', 'jobs', 'suggest', 'sure', 'list', 'shard', ...EXPORT_VALUES];
  const parsed = parseArguments(args, values, ['resume', ...EXPORT_FLAGS]);
  const suggest = suggestOption(parsed);
  const folder = textOption(parsed, 'out') ?? null;
  const options = exportOptions(parsed);
  const ending = textOption(parsed, 'format');
  if (ending !== undefined) formatFor(ending, options, 8);
  const pattern = textOption(parsed, 'name') ?? '{name}';
  const unknown = unknownWord(pattern);
  if (unknown !== null) throw new UsageError(`--name: there is no {${unknown}}.`);
  const list = textOption(parsed, 'list');
  const onlyPictures = suggest !== null && list === undefined;
  const first = onlyPictures ? undefined : parsed.positions[0];
  const rest = onlyPictures ? parsed.positions : parsed.positions.slice(1);
  const asked = list === undefined ? rest.map((picture): Asked => ({ picture, correction: null })) : await readList(list);
  const needsOne = !suggest && asked.some(({ correction }) => correction === null);
  if (asked.length === 0 && list === undefined) throw new UsageError(`Use: plumb ${FORM}`);
  if ((list !== undefined && rest.length > 0) || (needsOne && first === undefined) || (folder === null && !suggest))
    throw new UsageError(`Use: plumb ${FORM}`);
  const forAll = first === undefined ? null : await readCorrection(first);
  const isOurs = shardOption(parsed);
  // rows come as they are done wherever somebody waits for many, or another program reads them
  const streams = suggest !== null || list !== undefined || parsed.options.has('shard') || parsed.options.has('resume');
  if (folder !== null)
    await mkdir(folder, { recursive: true }).catch((error: Error) => {
      throw new PlumbError('cannot-write', `${folder} cannot be made: ${error.message}.`);
    });

  const inputs = [...(first === undefined ? [] : [first]), ...asked.map(({ picture }) => picture)];
  const taken = new Set<string>();
  const rows = new Map<number, Row>();
  const done = (row: number, what: Row): void => {
    rows.set(row, what);
    if (streams) process.stdout.write(`${JSON.stringify(what)}\n`);
  };
  const tasks: { readonly row: number; readonly task: BatchTask }[] = [];
  for (const [i, { picture, correction: own }] of asked.entries()) {
    try {
      // the name of another part's picture may need its size, and so its correction
      const correction = own !== null && (isOurs(i) || ASKS_SIZE.test(pattern)) ? await readCorrection(own) : forAll;
      const kind = ending ?? extname(picture).slice(1);
      // names are given to the whole list, so that every part of it gives the same ones
      const stem = await stemFor(pattern, picture, i + 1, correction, options);
      const out = folder === null ? null : join(folder, freeName(stem, kind, taken));
      if (!isOurs(i)) continue;
      if (out !== null && parsed.options.has('resume') && existsSync(out)) {
        done(i, { picture, skipped: true, file: out });
        continue;
      }
      if (out !== null) await refuseOut(out, kind, picture, inputs, parsed.options.has('force'));
      tasks.push({ row: i, task: { correction, suggest, picture, out, ending: kind, options } });
    } catch (error) {
      if (isOurs(i)) done(i, { picture, error: (error as Error).message });
    }
  }
  await run(tasks, wholeOption(parsed, 'jobs', 1, 64) ?? availableParallelism(), done);
  const all = [...rows].sort(([p], [q]) => p - q).map(([, row]) => row);
  const count = (key: string): number => all.filter((row) => key in row).length;
  const written = count('file') - count('skipped');
  if (!streams) return { written, failed: count('error'), pictures: all };
  return {
    ...(folder === null ? { said: count('suggestion') } : { written }),
    ...(suggest ? { left: count('left') } : {}),
    ...(parsed.options.has('resume') ? { skipped: count('skipped') } : {}),
    failed: count('error'),
  };
}

/** Which suggestion is taken, and how sure it has to be: 0.15 degrees where nothing is said. */
function suggestOption(parsed: Arguments): BatchTask['suggest'] {
  const kind = textOption(parsed, 'suggest');
  const sure = textOption(parsed, 'sure');
  if (kind === undefined) {
    if (sure !== undefined) throw new UsageError('--sure needs --suggest.');
    return null;
  }
  if (!(KINDS as readonly string[]).includes(kind)) throw new UsageError(`--suggest is one of ${KINDS.join(', ')}.`);
  const sureDeg = sure === undefined ? SURE_DEG : Number(sure);
  if (!(sureDeg > 0 && sureDeg <= 1)) throw new UsageError(`--sure must be degrees above 0 and up to 1, not "${sure}".`);
  return { kind: kind as SuggestionKind, sureDeg };
}

/** Whether a picture of the list is in the part that is asked for: every so manieth, from the so manieth on. */
function shardOption(parsed: Arguments): (index: number) => boolean {
  const text = textOption(parsed, 'shard');
  if (text === undefined) return () => true;
  const [part, of] = (/^(\d+)\/(\d+)$/.exec(text)?.slice(1) ?? []).map(Number);
  if (part === undefined || of === undefined || part < 1 || part > of)
    throw new UsageError(`--shard is a part of a whole, such as 3/16, not "${text}".`);
  return (index) => index % of === part - 1;
}

const listRow = z.strictObject({ picture: z.string().min(1), correction: z.string().min(1).optional() });

/** Pictures from JSON lines, paths from where the list lies. */
async function readList(path: string): Promise<Asked[]> {
  const lines = new TextDecoder().decode(await readBytes(path)).split('\n');
  const from = (name: string): string => (isAbsolute(name) ? name : join(dirname(path), name));
  return lines.flatMap((line, i): Asked[] => {
    if (line.trim() === '') return [];
    const read = ((): unknown => {
      try {
        return JSON.parse(line);
      } catch {
        return null;
      }
    })();
    const row = listRow.safeParse(read);
    if (!row.success)
      throw new PlumbError(
        'list',
        `Line ${i + 1} of ${path} is no picture: it has to be {"picture": "FILE"}, with "correction": "FILE" where it has its own.`,
        'Nothing was done.',
      );
    return [{ picture: from(row.data.picture), correction: row.data.correction === undefined ? null : from(row.data.correction) }];
  });
}

/** Works on all of them, several at a time. */
async function run(
  tasks: readonly { readonly row: number; readonly task: BatchTask }[],
  jobs: number,
  done: (row: number, what: Row) => void,
): Promise<void> {
  let next = 0;
  const work = async (): Promise<void> => {
    let worker: Worker | null = null;
    try {
      for (let taking = tasks[next]; taking; taking = tasks[next]) {
        next += 1;
        const { picture, out } = taking.task;
        if (out !== null) noteBegun(out);
        worker ??= noteWriter(startWorker('batch-worker'));
        const reply = await ask(worker, taking.task);
        // one that died is not asked again
        if ('died' in reply) {
          await worker.terminate();
          worker = null;
          if (out !== null) await rm(partialOf(out), { force: true });
        }
        done(taking.row, rowOf(picture, reply));
        process.stderr.write(`${progress(picture, reply)}\n`);
      }
    } finally {
      await worker?.terminate();
    }
  };
  await Promise.all(Array.from({ length: Math.min(tasks.length, jobs) }, work));
}

function rowOf(picture: string, reply: BatchReply): Row {
  if ('exported' in reply) return { picture, ...reply.exported, ...('suggestion' in reply ? { suggestion: reply.suggestion } : {}) };
  if ('error' in reply) return { picture, error: reply.error };
  return 'left' in reply ? { picture, left: reply.left } : { picture, suggestion: reply.suggestion };
}

function progress(picture: string, reply: BatchReply): string {
  if ('exported' in reply) return `written: ${reply.exported.file}`;
  if ('error' in reply) return `failed: ${reply.error}`;
  return 'left' in reply ? `left: ${picture}: ${reply.left}` : `said: ${picture}`;
}

/** A name that says something of the picture itself. */
const ASKS_SIZE = /\{(width|height|date)\}/;

/** The name of a picture's file; what the picture says of itself is read only where the name asks for it. */
async function stemFor(
  pattern: string,
  picture: string,
  number: number,
  asked: Correction | null,
  options: ExportOptions,
): Promise<string> {
  const name = basename(picture);
  const words = { name: stemOf(name), number, job: '', delivery: '' };
  if (!ASKS_SIZE.test(pattern)) return fileName(pattern, { ...words, width: 0, height: 0, takenAt: null });
  const { info } = await readPictureFile(picture);
  const size = { name, width: info.width, height: info.height };
  // what a picture will say of itself is not known yet: its own size
  if (!asked) return fileName(pattern, { ...words, width: size.width, height: size.height, takenAt: info.takenAt });
  const correction = withOptions(appliedTo(asked, size).correction, options);
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
    const onExit = (code: number): void => {
      if (!isEnding()) died(`code ${code}`);
    };
    const answer = (reply: BatchReply | { readonly error: string; readonly died: true }): void => {
      worker.off('message', answer).off('error', onError).off('exit', onExit);
      done(reply);
    };
    worker.on('message', answer).on('error', onError).on('exit', onExit);
    worker.postMessage(task);
  });
}
