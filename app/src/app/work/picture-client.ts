import { Injectable } from '@angular/core';
import {
  unpackError,
  type PictureRequestKind,
  type PictureRequests,
  type PreviewPixels,
  type PreviewRequest,
  type Reply,
} from './protocol';

interface Waiting {
  readonly request: PreviewRequest;
  readonly resolve: (pixels: PreviewPixels | null) => void;
}

/** Talks to the picture worker. Of waiting previews for one purpose only the newest is drawn; replaced ones resolve to null. */
@Injectable({ providedIn: 'root' })
export class PictureClient {
  private readonly worker = new Worker(new URL('./picture.worker', import.meta.url), { type: 'module' });
  private readonly pending = new Map<number, { resolve: (value: never) => void; reject: (error: Error) => void }>();
  private readonly busy = new Set<string>();
  private readonly waiting = new Map<string, Waiting>();
  private lastId = 0;

  constructor() {
    this.worker.addEventListener('message', ({ data }: MessageEvent<Reply>) => {
      const call = this.pending.get(data.id);
      this.pending.delete(data.id);
      if (data.body.ok) call?.resolve(data.body.value as never);
      else call?.reject(unpackError(data.body.error));
    });
    this.worker.addEventListener('error', (event) => {
      const error = new Error(`The picture worker stopped: ${event.message}`);
      this.pending.forEach((call) => call.reject(error));
      this.pending.clear();
    });
  }

  ask<K extends PictureRequestKind>(kind: K, ask: PictureRequests[K]['ask']): Promise<PictureRequests[K]['answer']> {
    this.lastId += 1;
    const id = this.lastId;
    return new Promise((resolve, reject) => {
      this.pending.set(id, { resolve, reject });
      this.worker.postMessage({ id, body: { kind, ask } });
    });
  }

  /** A draft for one purpose ('stage', 'loupe', 'small'); null when a newer one took its place. */
  preview(purpose: string, request: PreviewRequest): Promise<PreviewPixels | null> {
    return new Promise((resolve) => {
      this.waiting.get(purpose)?.resolve(null);
      this.waiting.set(purpose, { request, resolve });
      this.drain(purpose);
    });
  }

  private drain(purpose: string): void {
    const next = this.waiting.get(purpose);
    if (!next || this.busy.has(purpose)) return;
    this.waiting.delete(purpose);
    this.busy.add(purpose);
    this.ask('preview', next.request)
      .then(next.resolve, () => next.resolve(null))
      .finally(() => {
        this.busy.delete(purpose);
        this.drain(purpose);
      });
  }
}
