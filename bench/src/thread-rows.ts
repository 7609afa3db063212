import { Worker } from 'node:worker_threads';
import { build } from 'esbuild';
import { fileURLToPath } from 'node:url';
import { BAND_ROWS, resultSamples, sharedRaster, type RenderWork } from '@able-plumb/core';
import { somePicture, typicalCorrection } from './kernel-rows';
import { inTurns, ratio, type Rows } from './timing';

const SIZE = { width: 6000, height: 4000 };

/** The whole file on one thread and on two, which take bands from one counter. */
export async function threadRows(rows: Rows): Promise<void> {
  const source = sharedRaster(somePicture(SIZE, 8));
  const { outputFiles } = await build({
    entryPoints: [fileURLToPath(new URL('./thread-worker.ts', import.meta.url))],
    bundle: true,
    write: false,
    platform: 'node',
    format: 'cjs',
  });
  const workers = [0, 1].map(() => new Worker(outputFiles[0]?.text ?? '', { eval: true }));
  const draw = async (filter: 'bilinear' | 'bicubic' | 'lanczos3', threads: number): Promise<number> => {
    const correction = typicalCorrection(SIZE);
    const work: RenderWork = {
      correction: { ...correction, output: { ...correction.output, filter } },
      source,
      arrival: null,
      channels: 3,
      out,
      rows: BAND_ROWS,
      nextBand: new Int32Array(new SharedArrayBuffer(4)),
    };
    const started = performance.now();
    await Promise.all(
      workers.slice(0, threads).map(
        (worker) =>
          new Promise((resolve) => {
            worker.once('message', resolve);
            worker.postMessage(work);
          }),
      ),
    );
    return performance.now() - started;
  };
  // as large as the picture, which is more than the result
  const out = resultSamples(source.data.length, 8, true);
  try {
    for (const filter of ['bilinear', 'bicubic', 'lanczos3'] as const) {
      const { one, two } = await inTurns({ one: () => draw(filter, 1), two: () => draw(filter, 2) }, 7);
      rows[`24 megapixels, ${filter}: two threads against one, times as quick`] = 1 / ratio(two, one);
    }
  } finally {
    await Promise.all(workers.map((worker) => worker.terminate()));
  }
}
