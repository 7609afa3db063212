import { PlumbError } from '@able-plumb/core';
import { HELP, UsageError } from './usage';

/** What a verb does with its arguments: one JSON value. */
export type Verb = (args: readonly string[]) => Promise<unknown>;

/**
 * Runs one of some verbs and writes what comes of it.
 * @returns the exit code
 */
export async function runVerb(verbs: Readonly<Record<string, () => Promise<Verb>>>, [verb, ...args]: readonly string[]): Promise<number> {
  try {
    const load = verb !== undefined && Object.hasOwn(verbs, verb) ? verbs[verb] : undefined;
    if (!load) throw new UsageError(`There is no verb "${verb}".`);
    const run = await load();
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
