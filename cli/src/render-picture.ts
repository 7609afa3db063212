import { Worker } from 'node:worker_threads';
import {
  composeWarp,
  renderBands,
  resultChannels,
  resultSamples,
  sharedRaster,
  type Correction,
  type Raster,
  type RenderWork,
} from '@able-plumb/core';

/** Renders a correction at full size on `threads` threads, in bands from one shared counter. */
export async function renderPicture(correction: Correction, source: Raster, formatHasAlpha: boolean, threads: number): Promise<Raster> {
  const size = composeWarp(correction, correction.picture).outputSize;
  const channels = resultChannels(source, correction, formatHasAlpha);
  const out = resultSamples(size.width * size.height * channels, source.data instanceof Uint16Array ? 16 : 8, true);
  const work: RenderWork = {
    correction,
    source: threads === 1 ? source : sharedRaster(source),
    channels,
    out,
    nextBand: new Int32Array(new SharedArrayBuffer(4)),
  };
  if (threads === 1) renderBands(work);
  else await Promise.all(Array.from({ length: threads }, () => runWorker(work)));
  return { ...size, channels, data: out };
}

function runWorker(work: RenderWork): Promise<void> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./worker-entry.mjs', import.meta.url), { workerData: { entry: './render-worker.ts', work } });
    worker.once('message', () => resolve());
    worker.once('error', reject);
  });
}
