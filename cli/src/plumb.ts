import { PlumbError } from '@able-plumb/core';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { endCleanlyOnSignals } from './partial-files';
import { UsageError } from './usage';
import { apply } from './verbs/apply';
import { batch } from './verbs/batch';
import { calibrate } from './verbs/calibrate';
import { info } from './verbs/info';
import { map } from './verbs/map';
import { solve } from './verbs/solve';
import { split } from './verbs/split';
import { suggest } from './verbs/suggest';
import { trim } from './verbs/trim';

/** The verbs of the command line; each takes its arguments and returns one JSON value. */
const VERBS: Readonly<Record<string, (args: readonly string[]) => Promise<unknown>>> = {
  info,
  solve,
  map,
  trim,
  apply,
  suggest,
  batch,
  split,
  calibrate,
};

const HELP = `plumb VERB ...

  info PICTURE                                   what a picture file says of itself
  solve CORRECTION                               the lens from traced edges, the stance from the references, with a report
  map CORRECTION --points FILE [--inverse]       picture positions to the output file, or back
  trim CORRECTION                                the crop as its answers give it
  apply CORRECTION PICTURE --out FILE            full-quality export (.jpg, .png, .tif, .webp)
  suggest PICTURE [--correction FILE]            what the picture itself says of how its camera stood
  batch CORRECTION PICTURE ... --out DIR         the same correction on many pictures, several at a time
  batch --suggest KIND --sure DEG PICTURE ...    each picture's own suggestion where it is that sure; without --out only said
        --list FILE [--shard 3/16] [--resume]    pictures from JSON lines; that part of them; what is there already is skipped
  split SHEET [--out DIR]                        the prints on a scan as files of their own; only found without --out
  calibrate PICTURE ... --board 9x6              a lens profile from pictures of a checkerboard (inner corners across x down)

One JSON value on standard output; a line for each picture before it where pictures come from a list or by suggestion. Exit 0: done; 1: the work failed; 2: wrong use.
`;

async function main(): Promise<number> {
  const [verb, ...args] = process.argv.slice(2);
  if (verb === undefined || verb === '--help' || verb === 'help') {
    process.stderr.write(HELP);
    return verb === undefined ? 2 : 0;
  }
  endCleanlyOnSignals();
  useNodeCodecs();
  useNativeJpeg();
  try {
    const run = Object.hasOwn(VERBS, verb) ? VERBS[verb] : undefined;
    if (!run) throw new UsageError(`There is no verb "${verb}".`);
    const result = await run(args);
    process.stdout.write(`${JSON.stringify(result)}\n`);
    return nothingWritten(result) ? 1 : 0;
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`${error.message}\n\n${HELP}`);
      return 2;
    }
    process.stderr.write(`${error instanceof PlumbError ? error.message : ((error as Error).stack ?? String(error))}\n`);
    return 1;
  }
}

/** Whether many pictures were asked for and not one came of it: none was written, none was there already, none was left with a reason. */
function nothingWritten(result: unknown): boolean {
  if (typeof result !== 'object' || result === null || !('failed' in result)) return false;
  const count = (name: string): unknown => (result as Readonly<Record<string, unknown>>)[name];
  return count('failed') !== 0 && ['written', 'said', 'left', 'skipped'].every((name) => (count(name) ?? 0) === 0);
}

process.exitCode = await main();
