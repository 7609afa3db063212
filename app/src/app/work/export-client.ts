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

/** Exports one picture at full size in workers of its own. */
@Injectable({ providedIn: 'root' })
export class ExportClient {
  private readonly pictures = inject(StageClient);

  /**
   * @param signal aborting it ends the workers at once
   * @throws ExportCancelled, PlumbError
   */
  async export(
    source: ExportSource,
    correction: Correction,
    format: ExportFormat,
    kept: KeptMetadata,
    signal: AbortSignal,
    onProgress: (progress: ExportProgress) => void,
  ): Promise<Blob> {
    const { crop, outputSize } = composeWarp(correction, correction.picture);
    onProgress({ stage: 'opening', share: 0 });
    const threads = crossOriginIsolated ? Math.min(MOST_THREADS, Math.max(1, navigator.hardwareConcurrency)) : 1;
    const start = (): Worker => new Worker(new URL('./render.worker', import.meta.url), { type: 'module' });
    const leader = start();
    const helpers = Array.from({ length: threads - 1 }, start);
    const end = (workers: readonly Worker[]): void => workers.forEach((worker) => worker.terminate());
    let rows = 0;
    const onReply = (reply: RenderReply): void => {
      if (reply.kind === 'filling') onProgress({ stage: 'filling', share: reply.share });
      else if (reply.kind === 'drawn') {
        end(helpers);
        onProgress({ stage: 'encoding', share: 1 });
      } else if (reply.kind === 'rows') {
        rows += reply.rows;
        onProgress({ stage: 'rendering', share: rows / outputSize.height });
      }
    };
    const over = new AbortController();
    const watch: Watch = { signal, over: over.signal, onReply };
    try {
      const channels = helpers.map(() => new MessageChannel());
      const ports = channels.map(({ port1 }) => port1);
      // they start while the picture is being fetched
      const helping = channels.map(({ port2 }, i) => made(helpers[i] as Worker, { kind: 'help', leader: port2 }, watch, [port2]));
      for (const help of helping) help.catch(() => undefined);
      const { colour, sharpen } = correction.output;
      const lead: RenderRequest = {
        kind: 'lead',
        source: await this.pixels(source),
        correction,
        crop,
        format,
        notes: { kept, ppi: outputPpi(correction), colour, sharpen },
        helpers: ports,
      };
      // a helper answers only where it fails
      return await Promise.race([made(leader, lead, watch, ports), ...helping]);
    } finally {
      over.abort();
      end([leader, ...helpers]);
    }
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

/** How an export is watched: taken back, over, and what is said of it meanwhile. */
interface Watch {
  readonly signal: AbortSignal;
  readonly over: AbortSignal;
  readonly onReply: (reply: RenderReply) => void;
}

/** One request to a render worker; resolves with the file that it makes. */
function made(worker: Worker, request: RenderRequest, { signal, over, onReply }: Watch, ports: MessagePort[]): Promise<Blob> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) reject(new ExportCancelled());
    const cancelled = (): void => reject(new ExportCancelled());
    // a listener that stayed would hold this worker until the last picture of a queue is written
    signal.addEventListener('abort', cancelled, { once: true, signal: over });
    worker.onmessage = ({ data }: MessageEvent<RenderReply>): void => {
      if (data.kind === 'made') resolve(data.file);
      else if (data.kind === 'failed') reject(unpackError(data.error));
      else onReply(data);
    };
    worker.onerror = (event): void => {
      reject(new Error(`The export stopped: ${event.message || 'the browser ended it, probably for want of memory'}.`));
    };
    worker.postMessage(request, ports);
  });
}
