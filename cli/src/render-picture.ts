import type { Worker } from 'node:worker_threads';
import {
  composeWarp,
  drawnToBeFilled,
  filledChannels,
  fillRendered,
  fills,
  renderBands,
  resultChannels,
  resultSamples,
  sharedRaster,
  type Correction,
  type FilledResult,
  type Raster,
  type RenderWork,
  withFoundCrop,
} from '@able-plumb/core';
import type { RenderTask } from './render-worker';
import { startWorker } from './start-worker';

/** Threads that draw one correction, and get ready while the picture is being decoded. */
export interface Renderer {
  /** The correction at full size, in bands from one shared counter; filled where it asks for that. */
  render(source: Raster, formatHasAlpha: boolean): Promise<FilledResult>;
  stop(): Promise<void>;
}

/** @param threads the caller's own is one of them */
export function startRenderer(correction: Correction, threads: number): Renderer {
  // what cannot be composed is told before any thread is there to keep the process going
  const warp = composeWarp(correction, correction.picture);
  const workers = Array.from({ length: threads - 1 }, () => startWorker('render-worker'));
  const failures = workers.map(
    (worker) =>
      new Promise<never>((_, reject) =>
        worker.once('error', reject).once('exit', () => reject(new Error('a thread ended before its work'))),
      ),
  );
  // one that cannot start says so when it is asked to draw
  for (const failure of failures) failure.catch(() => undefined);
  const filling = fills(correction, warp);
  const found = withFoundCrop(filling ? drawnToBeFilled(correction) : correction, warp);
  for (const worker of workers) tell(worker, { prepare: found });
  return {
    render: async (source, formatHasAlpha) => {
      const { width, height } = warp.outputSize;
      const channels = filling ? filledChannels(source) : resultChannels(source, correction, formatHasAlpha);
      const work: RenderWork = {
        correction: found,
        source: workers.length > 0 ? sharedRaster(source) : source,
        channels,
        out: resultSamples(width * height * channels, source.data instanceof Uint16Array ? 16 : 8, true),
        nextBand: new Int32Array(new SharedArrayBuffer(4)),
      };
      const others = workers.map((worker, i) => Promise.race([draw(worker, work), failures[i]]));
      renderBands(work, undefined, warp);
      await Promise.all(others);
      const drawn: Raster = { width, height, channels, data: work.out };
      return filling ? fillRendered(drawn, correction, warp, source, formatHasAlpha) : { raster: drawn, share: 0 };
    },
    stop: async () => {
      await Promise.all(workers.map((worker) => worker.terminate()));
    },
  };
}

const tell = (worker: Worker, task: RenderTask): void => worker.postMessage(task);

const draw = (worker: Worker, work: RenderWork): Promise<void> =>
  new Promise((resolve) => {
    worker.once('message', () => resolve());
    tell(worker, { work });
  });
