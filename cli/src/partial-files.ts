import { rmSync } from 'node:fs';
import type { Worker } from 'node:worker_threads';

/** Where a file is written until it is complete. */
export const partialOf = (out: string): string => `${out}.part-${process.pid}`;

const begun = new Set<string>();

/** Notes that a file is being written, so that nothing half-written stays when the command is interrupted. */
export function noteBegun(out: string): void {
  begun.add(partialOf(out));
}

const writers = new Set<Worker>();
let ending = false;

/** Notes a thread that writes files: it is ended before what is half-written is removed, as it might begin another in between. */
export function noteWriter(writer: Worker): Worker {
  writers.add(writer.once('exit', () => writers.delete(writer)));
  return writer;
}

/** Whether the command is being ended by an interrupt. */
export const isEnding = (): boolean => ending;

/** Ends the command on an interrupt, without what is half-written; exit code 128 and the signal's number, as shells have it. */
export function endCleanlyOnSignals(): void {
  const end = async (code: number): Promise<never> => {
    ending = true;
    await Promise.all([...writers].map((writer) => writer.terminate()));
    for (const file of begun) rmSync(file, { force: true });
    process.stderr.write('Interrupted. What was complete before is there; nothing is half-written.\n');
    process.exit(code);
  };
  process.on('SIGINT', () => void end(130));
  process.on('SIGTERM', () => void end(143));
}
