import { inject, Injectable, signal } from '@angular/core';
import { JobKeeper } from '../keeper/job-keeper';
import { ExportCancelled, ExportClient, type ExportProgress } from '../work/export-client';
import type { PlannedFile } from './export-plan';
import type { ExportTarget } from './export-target';

/** One file of a queue and what has become of it. */
export interface QueuedFile {
  readonly label: string;
  readonly state: 'waiting' | 'working' | 'written' | 'failed' | 'cancelled';
  /** The name it got, or why it failed. */
  readonly line: string;
  readonly bytes: number;
}

/** Pictures of up to so many px are made two at a time. */
const SMALL = 30e6;

/** The files of one export: each large picture has the whole machine, and memory holds one at a time; small ones are made two at a time. */
@Injectable({ providedIn: 'root' })
export class ExportQueue {
  private readonly exporter = inject(ExportClient);
  private readonly keeper = inject(JobKeeper);
  private abort: AbortController | null = null;
  /** Files are handed over one after the other. */
  private putting: Promise<unknown> = Promise.resolve();

  readonly files = signal<readonly QueuedFile[]>([]);
  readonly progress = signal<ExportProgress | null>(null);
  readonly running = signal(false);
  /** How long the last export took, ms. */
  readonly took = signal(0);
  /** What stopped the whole export, beside single files. */
  readonly trouble = signal<string | null>(null);

  /** Writes files to a target; one that fails stops none of the others. */
  async run(planned: readonly PlannedFile[], target: ExportTarget): Promise<void> {
    if (this.running()) return;
    const started = performance.now();
    this.running.set(true);
    this.trouble.set(null);
    const abort = new AbortController();
    this.abort = abort;
    this.files.set(planned.map(({ label }) => ({ label, state: 'waiting', line: '', bytes: 0 })));
    try {
      const waiting = planned.entries();
      const together = this.together(planned);
      const one = async (): Promise<void> => {
        for (const [i, file] of waiting) {
          if (abort.signal.aborted) this.note(i, { state: 'cancelled' });
          else await this.write(i, file, target, abort.signal, Math.max(1, Math.floor(this.exporter.threads / together)));
        }
      };
      await Promise.all(Array.from({ length: together }, one));
      await target.finish();
    } catch (error) {
      this.trouble.set(`What was written could not be handed over: ${(error as Error).message}. The originals and your settings are safe.`);
    } finally {
      this.took.set(performance.now() - started);
      this.progress.set(null);
      this.running.set(false);
      this.abort = null;
    }
  }

  cancel(): void {
    this.abort?.abort();
  }

  clear(): void {
    if (!this.running()) this.files.set([]);
  }

  /** How many are made at a time: where they are small, each thread does all of one, and none waits for another to decode. */
  private together(planned: readonly PlannedFile[]): number {
    const small = planned.every((file) => 'trouble' in file || file.picture.width * file.picture.height <= SMALL);
    return small && planned.length > 1 ? Math.min(2, this.exporter.threads) : 1;
  }

  private async write(i: number, file: PlannedFile, target: ExportTarget, signal: AbortSignal, threads: number): Promise<void> {
    if ('trouble' in file) {
      this.note(i, { state: 'failed', line: file.trouble });
      return;
    }
    this.note(i, { state: 'working' });
    const { picture, correction, format, kept, stem, ending } = file;
    try {
      const source = { pictureId: picture.id, name: picture.name, file: () => this.keeper.original(picture.id) };
      const onProgress = (progress: ExportProgress): void => this.progress.set(progress);
      const blob = await this.exporter.export(source, correction, format, kept, signal, onProgress, threads);
      const put = this.putting.then(() => target.put(stem, ending, blob));
      this.putting = put.catch(() => undefined);
      const name = await put;
      this.note(i, { state: 'written', line: name, bytes: blob.size });
    } catch (error) {
      if (error instanceof ExportCancelled) this.note(i, { state: 'cancelled', line: error.message });
      else this.note(i, { state: 'failed', line: (error as Error).message });
    }
  }

  private note(i: number, change: Partial<QueuedFile>): void {
    this.files.update((files) => files.map((file, k) => (k === i ? { ...file, ...change } : file)));
  }
}
