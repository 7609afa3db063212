import { inject, Injectable } from '@angular/core';
import { composeWarp, outputPpi, type Correction, type ExportFormat, type KeptMetadata } from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
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
    const warp = composeWarp(correction, correction.picture);
    const { height } = warp.outputSize;
    onProgress({ stage: 'opening', share: 0 });
    const threads = crossOriginIsolated ? Math.min(MOST_THREADS, Math.max(1, navigator.hardwareConcurrency)) : 1;
    const start = (): Worker => new Worker(new URL('./render.worker', import.meta.url), { type: 'module' });
    const leader = start();
    const helpers = Array.from({ length: threads - 1 }, start);
    let rows = 0;
    const onReply = (reply: RenderReply): void => {
      if (reply.kind === 'filling') onProgress({ stage: 'filling', share: reply.share });
      else if (reply.kind === 'rows') {
        rows += reply.rows;
        onProgress({ stage: 'rendering', share: rows / height });
      }
    };
    const ask = <K extends RenderReply['kind']>(worker: Worker, request: RenderRequest, answer: K, ports: MessagePort[] = []) =>
      asked(worker, request, answer, signal, onReply, ports);
    try {
      const channels = helpers.map(() => new MessageChannel());
      const ports = channels.map(({ port1 }) => port1);
      const lead: RenderRequest = {
        kind: 'lead',
        source: await this.pixels(source),
        correction,
        crop: warp.crop,
        alpha: EXPORT_FORMATS[format.kind].alpha,
        helpers: ports,
      };
      await Promise.all([
        ask(leader, lead, 'rendered', ports),
        ...channels.map(({ port2 }, i) => ask(helpers[i] as Worker, { kind: 'help', leader: port2 }, 'rendered', [port2])),
      ]);
      for (const helper of helpers) helper.terminate();
      if (correction.crop.edges === 'fill') await ask(leader, { kind: 'fill' }, 'filled');
      onProgress({ stage: 'encoding', share: 1 });
      const { colour, sharpen } = correction.output;
      const { file } = await ask(
        leader,
        { kind: 'encode', format, notes: { kept, ppi: outputPpi(correction), colour, sharpen } },
        'encoded',
      );
      return new Blob([file], { type: EXPORT_FORMATS[format.kind].mime });
    } finally {
      for (const worker of [leader, ...helpers]) worker.terminate();
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

/** One request to a render worker; resolves with its last reply, which must be of the kind that answers it. */
function asked<K extends RenderReply['kind']>(
  worker: Worker,
  request: RenderRequest,
  answer: K,
  signal: AbortSignal,
  onReply: (reply: RenderReply) => void,
  ports: MessagePort[],
): Promise<RenderReply & { kind: K }> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) reject(new ExportCancelled());
    const cancelled = (): void => reject(new ExportCancelled());
    // a listener that stayed would hold this answer, pixels and all, until the last picture of a queue is written
    const settled = (): void => signal.removeEventListener('abort', cancelled);
    signal.addEventListener('abort', cancelled, { once: true });
    worker.onmessage = ({ data }: MessageEvent<RenderReply>): void => {
      if (data.kind === 'rows' || data.kind === 'filling') {
        onReply(data);
        return;
      }
      settled();
      if (data.kind === 'failed') reject(unpackError(data.error));
      else if (data.kind === answer) resolve(data as RenderReply & { kind: K });
      else reject(new Error(`The render worker said "${data.kind}" where "${answer}" was due.`));
    };
    worker.onerror = (event): void => {
      settled();
      reject(new Error(`The export stopped: ${event.message || 'the browser ended it, probably for want of memory'}.`));
    };
    worker.postMessage(request, ports);
  });
}
