import { rmSync } from 'node:fs';

/** Where a file is written until it is complete. */
export const partialOf = (out: string): string => `${out}.part-${process.pid}`;

const begun = new Set<string>();

/** Notes that a file is being written, so that nothing half-written stays when the command is interrupted. */
export function noteBegun(out: string): void {
  begun.add(partialOf(out));
}

/** Ends the command on an interrupt, without what is half-written; exit code 128 and the signal's number, as shells have it. */
export function endCleanlyOnSignals(): void {
  const end = (code: number) => (): never => {
    for (const file of begun) rmSync(file, { force: true });
    process.stderr.write('Interrupted. What was complete before is there; nothing is half-written.\n');
    process.exit(code);
  };
  process.on('SIGINT', end(130));
  process.on('SIGTERM', end(143));
}
