import { inject, Injectable } from '@angular/core';
import { composeWarp, outputPpi, resultChannels, resultSamples, type Correction, type Raster, type RenderWork } from '@able-plumb/core';
import { EXPORT_FORMATS, type ExportFormat } from '@able-plumb/codecs';
import { PictureClient } from './picture-client';
import { unpackError, type RenderReply, type RenderRequest } from './protocol';

/** How far an export is: rendering counts rows, encoding has no measure. */
export interface ExportProgress {
  readonly stage: 'rendering' | 'encoding';
  readonly share: number;
}

/** The user took the export back; nothing was written. */
export class ExportCancelled extends Error {
  constructor() {
    super('The export was cancelled; nothing was written.');
    this.name = 'ExportCancelled';
  }
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
    pictureId: string,
    correction: Correction,
    format: ExportFormat,
    signal: AbortSignal,
    onProgress: (progress: ExportProgress) => void,
  ): Promise<Blob> {
    onProgress({ stage: 'rendering', share: 0 });
    const { raster: source, metadata } = await this.pictures.ask('source', { pictureId });
    const size = composeWarp(correction, correction.picture).outputSize;
    const shared = crossOriginIsolated && source.data.buffer instanceof SharedArrayBuffer;
    const channels = resultChannels(source, correction, EXPORT_FORMATS[format.kind].alpha);
    const work: RenderWork = {
      correction,
      source,
      channels,
      out: resultSamples(size.width * size.height * channels, source.data instanceof Uint16Array ? 16 : 8, shared),
      nextBand: new Int32Array(shared ? new SharedArrayBuffer(4) : new ArrayBuffer(4)),
    };
    const threads = shared ? Math.min(MOST_THREADS, Math.max(1, navigator.hardwareConcurrency)) : 1;
    const workers = Array.from({ length: threads }, () => new Worker(new URL('./render.worker', import.meta.url), { type: 'module' }));
    const end = (): void => workers.forEach((worker) => worker.terminate());
    let rows = 0;
    const onRows = (more: number): void => {
      rows += more;
      onProgress({ stage: 'rendering', share: rows / size.height });
    };
    try {
      const results = await Promise.all(workers.map((worker) => ask(worker, { kind: 'render', work }, signal, onRows)));
      const rendered = results[0];
      if (rendered?.kind !== 'rendered') throw new Error('The render worker gave no result.');
      onProgress({ stage: 'encoding', share: 1 });
      const raster: Raster = { ...size, channels, data: rendered.out };
      const encoded = await ask(
        workers[0] as Worker,
        { kind: 'encode', raster, format, metadata, ppi: outputPpi(correction) },
        signal,
        onRows,
      );
      if (encoded.kind !== 'encoded') throw new Error('The render worker gave no file.');
      return new Blob([encoded.file], { type: EXPORT_FORMATS[format.kind].mime });
    } finally {
      end();
    }
  }
}

/** One request to a render worker; resolves with its last reply. */
function ask(worker: Worker, request: RenderRequest, signal: AbortSignal, onRows: (rows: number) => void): Promise<RenderReply> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) reject(new ExportCancelled());
    signal.addEventListener('abort', () => reject(new ExportCancelled()), { once: true });
    worker.onmessage = ({ data }: MessageEvent<RenderReply>): void => {
      if (data.kind === 'rows') onRows(data.rows);
      else if (data.kind === 'failed') reject(unpackError(data.error));
      else resolve(data);
    };
    worker.onerror = (event): void =>
      reject(new Error(`The export stopped: ${event.message || 'the browser ended it, probably for want of memory'}.`));
    worker.postMessage(request);
  });
}
