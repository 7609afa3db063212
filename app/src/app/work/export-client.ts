import { inject, Injectable } from '@angular/core';
import { composeWarp, outputPpi, type Correction, type ExportFormat, type KeptMetadata } from '@able-plumb/core';
import { StageClient } from './stage-client';
import { unpackError, type RenderReply, type RenderRequest, type SourcePixels } from './protocol';

/** How far an export is: rendering counts rows, filling rounds; opening and encoding have no measure. */
export interface ExportProgress {
  readonly stage: 'opening' | 'rendering' | 'filling' | 'encoding';
  readonly share: number;
}

/** The user took the export back; nothing was written. */
export class ExportCancelled extends Error {
  constructor() {
    super('The export was cancelled; nothing was written.');
    this.name = 'ExportCancelled';
  }
}

/** A picture to be exported: its pixels as they lie open, or its file. */
export interface ExportSource {
  readonly pictureId: string;
  readonly name: string;
  readonly file: () => Promise<Blob | null>;
}

const MOST_THREADS = 8;

/** Workers that make one file after the other: one leads, the others help. */
interface Crew {
  readonly leader: Worker;
  readonly helpers: readonly Worker[];
  /** Pixels that have gone through it. */
  spent: number;
  /** One of it ended by itself. */
  broken: boolean;
}

/** Pixels after which a crew is ended: its memory then goes at once, not when the browser tidies up. */
const MOST_SPENT = 100e6;
/** How long a crew waits for the next picture, ms. */
const IDLE_MS = 30_000;

/** Exports pictures at full size in workers of their own. */
@Injectable({ providedIn: 'root' })
export class ExportClient {
  private readonly pictures = inject(StageClient);
  private idle: Crew[] = [];
  private ending: ReturnType<typeof setTimeout> | undefined;

  /** How many threads there are for exports. */
  readonly threads = crossOriginIsolated ? Math.min(MOST_THREADS, Math.max(1, navigator.hardwareConcurrency)) : 1;

  /** Starts workers, so that they are there when the first picture comes. */
  warm(): void {
    if (!this.idle.some((crew) => this.fits(crew, this.threads))) this.rest(begun(this.threads));
  }

  /**
   * @param signal aborting it ends the workers at once
   * @param threads for this picture; all of them by default
   * @throws ExportCancelled, PlumbError
   */
  async export(
    source: ExportSource,
    correction: Correction,
    format: ExportFormat,
    kept: KeptMetadata,
    signal: AbortSignal,
    onProgress: (progress: ExportProgress) => void,
    threads = this.threads,
  ): Promise<Blob> {
    const { crop, outputSize } = composeWarp(correction, correction.picture);
    onProgress({ stage: 'opening', share: 0 });
    let rows = 0;
    const onReply = (reply: RenderReply): void => {
      if (reply.kind === 'filling') onProgress({ stage: 'filling', share: reply.share });
      else if (reply.kind === 'drawn') onProgress({ stage: 'encoding', share: 1 });
      else if (reply.kind === 'rows') {
        rows += reply.rows;
        onProgress({ stage: 'rendering', share: rows / outputSize.height });
      }
    };
    const crew = this.crewOf(threads);
    const { colour, sharpen } = correction.output;
    try {
      const request: RenderRequest = {
        kind: 'make',
        source: await this.pixels(source),
        correction,
        crop,
        format,
        notes: { kept, ppi: outputPpi(correction), colour, sharpen },
      };
      const file = await made(crew, request, signal, onReply);
      crew.spent += correction.picture.width * correction.picture.height;
      if (crew.spent < MOST_SPENT) this.rest(crew);
      else end(crew);
      return file;
    } catch (error) {
      end(crew);
      throw error;
    }
  }

  /** One that waits, or a new one. */
  private crewOf(threads: number): Crew {
    const at = this.idle.findIndex((crew) => this.fits(crew, threads));
    return at < 0 ? begun(threads) : (this.idle.splice(at, 1)[0] as Crew);
  }

  private fits({ broken, helpers }: Crew, threads: number): boolean {
    return !broken && helpers.length === threads - 1;
  }

  private rest(crew: Crew): void {
    this.idle.push(crew);
    clearTimeout(this.ending);
    this.ending = setTimeout(() => {
      for (const waiting of this.idle) end(waiting);
      this.idle = [];
    }, IDLE_MS);
  }

  /** The pixels of the picture as it lies open, or its file. */
  private async pixels({ pictureId, name, file }: ExportSource): Promise<SourcePixels | { name: string; file: Blob }> {
    const open = await this.pictures.source(pictureId);
    if (open) return open;
    const stored = await file();
    if (!stored) throw new Error(`The file of ${name} is no longer in this browser.`);
    return { name, file: stored };
  }
}

function begun(threads: number): Crew {
  const start = (): Worker => new Worker(new URL('./render.worker', import.meta.url), { type: 'module' });
  const [leader, helpers] = [start(), Array.from({ length: threads - 1 }, start)];
  const ports = helpers.map((helper) => {
    const { port1, port2 } = new MessageChannel();
    helper.postMessage({ kind: 'help', leader: port2 } satisfies RenderRequest, [port2]);
    return port1;
  });
  leader.postMessage({ kind: 'lead', helpers: ports } satisfies RenderRequest, ports);
  const crew: Crew = { leader, helpers, spent: 0, broken: false };
  for (const worker of [leader, ...helpers]) worker.onerror = () => (crew.broken = true);
  return crew;
}

function end({ leader, helpers }: Crew): void {
  for (const worker of [leader, ...helpers]) worker.terminate();
}

/** The file that a crew makes; whoever of it fails ends the export. */
function made(crew: Crew, request: RenderRequest, signal: AbortSignal, onReply: (reply: RenderReply) => void): Promise<Blob> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) return reject(new ExportCancelled());
    const cancelled = (): void => reject(new ExportCancelled());
    // a listener that stayed would hold this crew until the last picture of a queue is written
    const settled = (): void => signal.removeEventListener('abort', cancelled);
    signal.addEventListener('abort', cancelled, { once: true });
    for (const worker of [crew.leader, ...crew.helpers]) {
      worker.onmessage = ({ data }: MessageEvent<RenderReply>): void => {
        if (data.kind === 'made' || data.kind === 'failed') settled();
        if (data.kind === 'made') resolve(data.file);
        else if (data.kind === 'failed') reject(unpackError(data.error));
        else onReply(data);
      };
      worker.onerror = (event): void => {
        crew.broken = true;
        settled();
        reject(new Error(`The export stopped: ${event.message || 'the browser ended it, probably for want of memory'}.`));
      };
    }
    crew.leader.postMessage(request);
  });
}
