import { inject, Injectable } from '@angular/core';
import {
  composeWarp,
  outputPpi,
  resultChannels,
  resultSamples,
  type Correction,
  type ExportFormat,
  type KeptMetadata,
  type Raster,
  type RenderWork,
  withFoundCrop,
} from '@able-plumb/core';
import { EXPORT_FORMATS } from '@able-plumb/codecs';
import { PictureClient } from './picture-client';
import { unpackError, type RenderReply, type RenderRequest, type SourcePixels } from './protocol';

/** How far an export is: rendering counts rows, opening and encoding have no measure. */
export interface ExportProgress {
  readonly stage: 'opening' | 'rendering' | 'encoding';
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
  private readonly pictures = inject(PictureClient);

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
    const size = warp.outputSize;
    onProgress({ stage: 'opening', share: 0 });
    const threads = crossOriginIsolated ? Math.min(MOST_THREADS, Math.max(1, navigator.hardwareConcurrency)) : 1;
    const workers = Array.from({ length: threads }, () => new Worker(new URL('./render.worker', import.meta.url), { type: 'module' }));
    const first = workers[0] as Worker;
    let rows = 0;
    const onRows = (more: number): void => {
      rows += more;
      onProgress({ stage: 'rendering', share: rows / size.height });
    };
    const ask = <K extends RenderReply['kind']>(worker: Worker, request: RenderRequest, answer: K): Promise<RenderReply & { kind: K }> =>
      asked(worker, request, answer, signal, onRows);
    try {
      const { raster, metadata } = await this.pixels(source, (request) => ask(first, request, 'decoded'));
      onProgress({ stage: 'rendering', share: 0 });
      const shared = crossOriginIsolated && raster.data.buffer instanceof SharedArrayBuffer;
      const channels = resultChannels(raster, correction, EXPORT_FORMATS[format.kind].alpha);
      const work: RenderWork = {
        correction: withFoundCrop(correction, warp),
        source: raster,
        channels,
        out: resultSamples(size.width * size.height * channels, raster.data instanceof Uint16Array ? 16 : 8, shared),
        nextBand: new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4)),
      };
      const used = shared ? workers : [first];
      const [rendered] = await Promise.all(used.map((worker) => ask(worker, { kind: 'render', work }, 'rendered')));
      onProgress({ stage: 'encoding', share: 1 });
      const result: Raster = { ...size, channels, data: (rendered as RenderReply & { kind: 'rendered' }).out };
      const notes = { metadata, kept, ppi: outputPpi(correction) };
      const { file } = await ask(first, { kind: 'encode', raster: result, format, notes }, 'encoded');
      return new Blob([file], { type: EXPORT_FORMATS[format.kind].mime });
    } finally {
      workers.forEach((worker) => worker.terminate());
    }
  }

  /** The pixels of the picture as it lies open, or decoded from its file. */
  private async pixels(source: ExportSource, decode: (request: RenderRequest) => Promise<SourcePixels>): Promise<SourcePixels> {
    const open = await this.pictures.ask('source', { pictureId: source.pictureId });
    if (open) return open;
    const file = await source.file();
    if (!file) throw new Error(`The file of ${source.name} is no longer in this browser.`);
    return decode({ kind: 'decode', name: source.name, file });
  }
}

/** One request to a render worker; resolves with its last reply, which must be of the kind that answers it. */
function asked<K extends RenderReply['kind']>(
  worker: Worker,
  request: RenderRequest,
  answer: K,
  signal: AbortSignal,
  onRows: (rows: number) => void,
): Promise<RenderReply & { kind: K }> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) reject(new ExportCancelled());
    const cancelled = (): void => reject(new ExportCancelled());
    // a listener that stayed would hold this answer, pixels and all, until the last picture of a queue is written
    const settled = (): void => signal.removeEventListener('abort', cancelled);
    signal.addEventListener('abort', cancelled, { once: true });
    worker.onmessage = ({ data }: MessageEvent<RenderReply>): void => {
      if (data.kind === 'rows') {
        onRows(data.rows);
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
    worker.postMessage(request);
  });
}
