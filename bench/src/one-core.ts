import { execFileSync } from 'node:child_process';
import { cpus } from 'node:os';

/**
 * Puts the main threads of processes onto the first core while something is measured, where that can be done (util-linux): cores of a
 * shared machine may be of different speed at a time.
 */
export async function onOneCore(pids: readonly number[], work: () => Promise<void>): Promise<void> {
  const place = (cores: string): void => {
    for (const pid of pids) {
      try {
        execFileSync('taskset', ['-p', '-c', cores, String(pid)], { stdio: 'ignore' });
      } catch {
        // they run where they are put
      }
    }
  };
  place('0');
  try {
    await work();
  } finally {
    place(`0-${cpus().length - 1}`);
  }
}
