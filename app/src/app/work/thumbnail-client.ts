import { Injectable } from '@angular/core';
import type { Correction } from '@able-plumb/core';
import type { Judged } from './judge';
import { Line } from './line';
import type { PreviewPixels, ThumbnailRequest, ThumbnailWork } from './protocol';

interface Waiting {
  readonly request: ThumbnailRequest;
  readonly resolve: (pixels: PreviewPixels | null) => void;
  readonly reject: (error: unknown) => void;
}

/** Small results for lists, one at a time; what is no longer looked at when its turn comes is left out. */
@Injectable({ providedIn: 'root' })
export class ThumbnailClient {
  private readonly line = new Line<ThumbnailWork>(() => new Worker(new URL('./thumbnail.worker', import.meta.url), { type: 'module' }));
  private readonly waiting = new Map<string, Waiting>();
  private busy = false;

  warm(): void {
    this.line.warm();
  }

  /** A small result; null when the picture was asked for anew, or is forgotten, before its turn. */
  draw(request: ThumbnailRequest): Promise<PreviewPixels | null> {
    this.forget(request.pictureId);
    return new Promise((resolve, reject) => {
      this.waiting.set(request.pictureId, { request, resolve, reject });
      this.next();
    });
  }

  judge(corrections: readonly Correction[]): Promise<readonly Judged[]> {
    return this.line.call((work) => work.judge(corrections));
  }

  /** The picture is no longer in sight. */
  forget(pictureId: string): void {
    this.waiting.get(pictureId)?.resolve(null);
    this.waiting.delete(pictureId);
  }

  private next(): void {
    if (this.busy) return;
    // the one asked for last is the one that is looked at now
    const last = [...this.waiting.keys()].at(-1);
    const call = last === undefined ? undefined : this.waiting.get(last);
    if (!call || last === undefined) return;
    this.waiting.delete(last);
    this.busy = true;
    this.line
      .call((work) => work.draw(call.request))
      .then(call.resolve, call.reject)
      .finally(() => {
        this.busy = false;
        this.next();
      });
  }
}
