import { Injectable } from '@angular/core';
import type { EdgeFit, FollowedEdge, LateralOutcome, LikelyBend, Point, Raster } from '@able-plumb/core';
import { Line, moved } from './line';
import { screenSpace } from './paint';
import type { Decoded, PreviewPixels, PreviewRequest, SourcePixels, StageWork } from './protocol';

/** So long decoded pixels wait for their picture to be opened, ms. */
const KEPT_MS = 10_000;

interface Waiting {
  readonly request: PreviewRequest;
  readonly resolve: (pixels: PreviewPixels | null) => void;
}

/** Talks to the stage's worker. Of waiting drafts for one purpose only the newest is drawn; replaced ones resolve to null. */
@Injectable({ providedIn: 'root' })
export class StageClient {
  private opened: Parameters<StageWork['open']> | null = null;
  /** Pixels that were decoded already, of the picture that is most likely opened next. */
  private decoded: { readonly pictureId: string; readonly picture: Decoded } | null = null;
  private readonly line = new Line<StageWork>(
    () => new Worker(new URL('./stage.worker', import.meta.url), { type: 'module' }),
    async (work) => this.opened && work.open(...this.opened),
  );
  private readonly busy = new Set<string>();
  private readonly waiting = new Map<string, Waiting>();
  /** Memory of the last draft for a purpose, once it was painted. */
  private readonly spare = new Map<string, ArrayBuffer>();

  /**
   * @returns what is wrong with its colour profile, in words; null for nothing
   * @throws PictureFileError
   */
  open(pictureId: string, name: string, file: Blob): Promise<string | null> {
    const opened = [pictureId, name, file, screenSpace()] as const;
    // a worker that is started again decodes them itself
    this.opened = [...opened, null];
    const decoded = this.decoded?.pictureId === pictureId ? this.decoded.picture : null;
    this.decoded = null;
    return this.line.call((work) => work.open(...opened, decoded));
  }

  /** Pixels of a picture that is most likely opened next, decoded elsewhere, in memory that threads share; kept until anything is opened, or a while. */
  keepDecoded(pictureId: string, picture: Decoded): void {
    const decoded = { pictureId, picture };
    this.decoded = decoded;
    // whoever has gone on to something else does not need them
    setTimeout(() => {
      if (this.decoded === decoded) this.decoded = null;
    }, KEPT_MS);
  }

  snap(pictureId: string, a: Point, b: Point, reachPx: number): Promise<readonly EdgeFit[]> {
    return this.line.call((work) => work.snap(pictureId, a, b, reachPx));
  }

  corners(pictureId: string, corners: readonly Point[], which: readonly number[], reachPx: number): Promise<readonly Point[]> {
    return this.line.call((work) => work.corners(pictureId, corners, which, reachPx));
  }

  follow(pictureId: string, a: Point, b: Point, reachPx: number, bend: LikelyBend | null): Promise<FollowedEdge | null> {
    return this.line.call((work) => work.follow(pictureId, a, b, reachPx, bend));
  }

  fringes(pictureId: string, centre: Point): Promise<LateralOutcome> {
    return this.line.call((work) => work.fringes(pictureId, centre) as Promise<LateralOutcome>);
  }

  copy(pictureId: string, longEdge: number): Promise<Raster | null> {
    return this.line.call((work) => work.copy(pictureId, longEdge));
  }

  searched(pictureId: string): Promise<Raster | null> {
    return this.line.call((work) => work.searched(pictureId));
  }

  source(pictureId: string): Promise<SourcePixels | null> {
    return this.line.call((work) => work.source(pictureId));
  }

  /** A draft for one purpose ('stage', 'loupe', 'small'); null when a newer one took its place. */
  preview(purpose: string, request: PreviewRequest): Promise<PreviewPixels | null> {
    return new Promise((resolve) => {
      this.waiting.get(purpose)?.resolve(null);
      this.waiting.set(purpose, { request, resolve });
      this.drain(purpose);
    });
  }

  /** A draft for one purpose that was painted and is not needed any more. */
  painted(purpose: string, { data }: PreviewPixels): void {
    this.spare.set(purpose, data.buffer);
  }

  private withSpare(purpose: string, request: PreviewRequest): PreviewRequest {
    const into = this.spare.get(purpose);
    if (!into) return request;
    this.spare.delete(purpose);
    return moved({ ...request, into }, [into]);
  }

  private drain(purpose: string): void {
    const next = this.waiting.get(purpose);
    if (!next || this.busy.has(purpose)) return;
    this.waiting.delete(purpose);
    this.busy.add(purpose);
    this.line
      .call((work) => work.preview(this.withSpare(purpose, next.request)))
      .then(next.resolve, () => next.resolve(null))
      .finally(() => {
        this.busy.delete(purpose);
        this.drain(purpose);
      });
  }
}
