import { inject, Injectable } from '@angular/core';
import type { Correction, Said } from '@able-plumb/core';
import { Line } from './line';
import type { FindWork } from './protocol';
import { StageClient } from './stage-client';

/** A picture that is asked what it says. */
export interface Asking {
  readonly pictureId: string;
  readonly name: string;
  readonly correction: Correction;
  /** Its file; asked for when its turn comes. Null when it is lost. */
  readonly file: () => Promise<Blob | null>;
}

interface Waiting {
  readonly asking: Asking;
  readonly resolve: (said: Said | null) => void;
  readonly reject: (error: unknown) => void;
}

/** Most threads that find. */
const MOST_THREADS = 4;

/** Asks pictures what they say, several at a time, the newest first. */
@Injectable({ providedIn: 'root' })
export class FindClient {
  private readonly stage = inject(StageClient);
  private readonly lines: Line<FindWork>[] = [];
  private readonly idle: Line<FindWork>[] = [];
  private readonly waiting = new Map<string, Waiting>();

  /**
   * What a picture says; null when it was asked anew, or no longer, before its turn.
   * @param first before all that wait
   */
  ask(asking: Asking, first: boolean): Promise<Said | null> {
    this.forget(asking.pictureId);
    return new Promise((resolve, reject) => {
      this.waiting.set(asking.pictureId, { asking, resolve, reject });
      if (first) this.hurry(asking.pictureId);
      this.next();
    });
  }

  /** A picture that waits comes before all others. */
  hurry(pictureId: string): void {
    const mine = this.waiting.get(pictureId);
    if (!mine) return;
    const others = [...this.waiting].filter(([id]) => id !== pictureId);
    this.waiting.clear();
    for (const [id, waiting] of [[pictureId, mine] as const, ...others]) this.waiting.set(id, waiting);
  }

  /** A picture is asked no longer; one whose turn has come answers still. */
  forget(pictureId: string): void {
    this.waiting.get(pictureId)?.resolve(null);
    this.waiting.delete(pictureId);
  }

  private next(): void {
    const [id] = this.waiting.keys();
    const waiting = id === undefined ? undefined : this.waiting.get(id);
    const line = waiting && (this.idle.pop() ?? this.another());
    if (id === undefined || !waiting || !line) return;
    this.waiting.delete(id);
    this.answer(line, waiting.asking)
      .then(waiting.resolve, waiting.reject)
      .finally(() => {
        this.idle.push(line);
        this.next();
      });
    this.next();
  }

  private another(): Line<FindWork> | undefined {
    if (this.lines.length >= Math.min(MOST_THREADS, navigator.hardwareConcurrency || 1)) return undefined;
    const line = new Line<FindWork>(() => new Worker(new URL('./find.worker', import.meta.url), { type: 'module' }));
    this.lines.push(line);
    return line;
  }

  private async answer(line: Line<FindWork>, { pictureId, name, correction, file }: Asking): Promise<Said> {
    // what lies open on the stage is not decoded again
    const pixels = await this.stage.searched(pictureId);
    if (pixels) return line.call((work) => work.inPixels(pixels, correction));
    const blob = await file();
    if (!blob) throw new Error(`The file of ${name} is no longer in this browser.`);
    return line.call((work) => work.inFile(name, blob, correction));
  }
}
