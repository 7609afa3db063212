import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { endCleanlyOnSignals } from './partial-files';
import { runVerb, type Verb } from './run-verb';
import { HELP } from './usage';

/** The verbs that compute; each is loaded when it is asked for. */
const VERBS: Readonly<Record<string, () => Promise<Verb>>> = {
  solve: async () => (await import('./verbs/solve')).solve,
  map: async () => (await import('./verbs/map')).map,
  trim: async () => (await import('./verbs/trim')).trim,
  apply: async () => (await import('./verbs/apply')).apply,
  suggest: async () => (await import('./verbs/suggest')).suggest,
  batch: async () => (await import('./verbs/batch')).batch,
  split: async () => (await import('./verbs/split')).split,
  calibrate: async () => (await import('./verbs/calibrate')).calibrate,
};

export async function run(args: readonly string[]): Promise<number> {
  const [verb] = args;
  if (verb === undefined || verb === '--help' || verb === 'help') {
    process.stderr.write(HELP);
    return verb === undefined ? 2 : 0;
  }
  endCleanlyOnSignals();
  useNodeCodecs();
  useNativeJpeg();
  return runVerb(VERBS, args);
}
