import { runVerb } from './run-verb';
import { info } from './verbs/info';

/** The verb that only looks at a file's head: a bundle of its own, a twentieth of the other. */
export const run = (args: readonly string[]): Promise<number> => runVerb({ info: async () => info }, args);
