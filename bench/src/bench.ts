/* Speed and accuracy, measured in one run; writes bench/results.json. */
import { readFileSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  composeWarp,
  halveRaster,
  kernelName,
  newCorrection,
  newReference,
  parseCorrection,
  previewPixels,
  resampleRows,
  resampleRowsFast,
  solveCorrection,
  withReferences,
  type FilterName,
  type Point,
  type PositionMap,
  type Raster,
} from '@able-plumb/core';
import { previewFrames } from './preview-frames';
import { referenceFigures } from './reference';

const ROWS = 256;
const REPEATS = 7;
const WARMING = 3;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] as number;

function timed(work: () => void): number {
  const times: number[] = [];
  // before, so that compilers are done
  for (let i = 0; i < WARMING; i += 1) work();
  for (let i = 0; i < REPEATS; i += 1) {
    const started = performance.now();
    work();
    times.push(performance.now() - started);
  }
  return median(times);
}

const size = { width: 6000, height: 4000 };
const source: Raster = {
  ...size,
  channels: 3,
  data: new Uint8Array(size.width * size.height * 3).map((_, i) => (i * 31 + (i >> 9)) & 255),
};
// two degrees of roll, twelve of tilt and a barrel lens
const opened = newCorrection({ name: 'bench', ...size, focal35: 24 });
const correction = parseCorrection({
  ...opened,
  stance: { ...opened.stance, adjust: { roll: 2, tilt: 12, swing: 0 } },
  lens: { on: true, model: { kind: 'radial', cx: 3000, cy: 2000, k1: -0.05, k2: 0.01 } },
});
const warp = composeWarp(correction, size);
const width = warp.outputSize.width;
const band = source.data.slice(0, width * ROWS * 3);
const rows: Record<string, number> = {};
const copyMs = timed(() => void band.slice());
rows['plain copy of the same bytes, ns a pixel'] = (copyMs * 1e6) / (width * ROWS);

/* One thread, a band of the middle: the kernel, the plain version, and OpenCV where Debian's python3-opencv is installed. */
const FROM_ROW = Math.floor(warp.outputSize.height / 2);
const perPixel = (resample: typeof resampleRows, filter: FilterName, from: Raster = source): number => {
  const request = { source: from, map: warp.outputToPicture, filter, width, background: 'transparent' as const, outChannels: 3 as const };
  const length = width * 64 * 3;
  const into = from.data instanceof Uint16Array ? new Uint16Array(length) : new Uint8Array(length);
  const ms = timed(() => {
    for (let y = FROM_ROW; y < FROM_ROW + ROWS; y += 64) resample({ ...request, into, fromRow: y, toRow: y + 64 });
  });
  return (ms * 1e6) / (width * ROWS);
};
// once all round, so that compilers and memory have settled
for (const filter of ['bilinear', 'bicubic', 'mitchell', 'lanczos3'] as const) perPixel(resampleRowsFast, filter);
const reference = referenceFigures(source, warp.outputToPicture, width, FROM_ROW, ROWS, REPEATS);
for (const [filter, peer] of [
  ['bilinear', 'linear'],
  ['bicubic', 'cubic'],
  ['mitchell', 'cubic'],
  ['lanczos3', 'lanczos4'],
] as const) {
  const quick = perPixel(resampleRowsFast, filter);
  rows[`kernel (${kernelName()}), ${filter}, ns a pixel`] = quick;
  rows[`plain version, ${filter}, ns a pixel`] = perPixel(resampleRows, filter);
  if (reference) rows[`kernel against OpenCV remap ${peer} (its map for free), ${filter}, ratio`] = quick / reference[peer];
}
/* The same in 16 bits. */
const deep: Raster = { ...size, channels: 3, data: Uint16Array.from(source.data, (v, i) => v * 257 + (i & 255)) };
const deepReference = referenceFigures(deep, warp.outputToPicture, width, FROM_ROW, ROWS, REPEATS);
for (const [filter, peer] of [
  ['bicubic', 'cubic'],
  ['lanczos3', 'lanczos4'],
] as const) {
  const quick = perPixel(resampleRowsFast, filter, deep);
  rows[`kernel (${kernelName()}), ${filter}, 16 bit, ns a pixel`] = quick;
  if (deepReference) rows[`kernel against OpenCV remap ${peer} (its map for free), ${filter}, 16 bit, ratio`] = quick / deepReference[peer];
}
/* The whole file with the lens against without it, each with its own pixels; in turns, so that a machine that slows down tells nothing. */
const bare = composeWarp(parseCorrection({ ...correction, lens: { on: false } }), size);
const turns = Array.from({ length: 9 }, () =>
  [warp, bare].map(({ outputToPicture, outputSize }) => {
    const started = performance.now();
    const [from, filter] = [Math.floor(outputSize.height / 2), 'lanczos3' as const];
    for (let y = from; y < from + ROWS; y += 64)
      resampleRowsFast({
        source,
        map: outputToPicture,
        filter,
        width: outputSize.width,
        background: 'transparent',
        outChannels: 3,
        fromRow: y,
        toRow: y + 64,
      });
    return ((performance.now() - started) / ROWS) * outputSize.height;
  }),
);
rows['drawing the file with the lens against without it, lanczos3, ratio'] =
  median(turns.map((t) => t[0] as number)) / median(turns.map((t) => t[1] as number));
const frame = { width: 772, height: 704 };
// as the stage does: from the proxy whose pixels are about as large as the view's
const proxy = halveRaster(halveRaster(halveRaster(source)));
const viewMap: PositionMap = (x, y, out) => {
  if (!warp.outputToPicture(x * 8, y * 6, out)) return false;
  out[0] = (out[0] as number) / 8;
  out[1] = (out[1] as number) / 8;
  return true;
};
rows['draft of one stage (772 x 704) from its proxy, ms'] = timed(() => void previewPixels(proxy, viewMap, frame));
rows['composing one warp with its trim, ms'] = timed(() => void composeWarp(correction, size));

/* Solving: the pump hall's known edges, twice over with half a pixel of pointing error, twenty lines. */
const here = dirname(fileURLToPath(import.meta.url));
const root = join(here, '../..');
const truth = JSON.parse(readFileSync(join(root, 'demo/job/pump-hall-front.truth.json'), 'utf8')) as {
  readonly edges: readonly { readonly a: Point; readonly b: Point }[];
};
const hall = newCorrection({ name: 'hall', ...size, focal35: 20 });
let noise = 5;
const off = (p: Point): Point => {
  const next = (): number => ((noise = (noise * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff - 0.5) * 1.7;
  return [p[0] + next(), p[1] + next()];
};
const lines = Array.from({ length: 20 }, (_, i) => truth.edges[i % truth.edges.length] as (typeof truth.edges)[number]);
const drawn = lines.reduce((c, { a, b }) => withReferences(c, [...c.references, newReference(c, off(a), off(b))]), hall);
rows['solving twenty lines, focal length known, ms'] = timed(() => void solveCorrection(drawn, size));
const unknown = parseCorrection({ ...drawn, camera: { ...drawn.camera, focalFrom: 'references' } });
rows['solving twenty lines and the focal length, ms'] = timed(() => void solveCorrection(unknown, size));

/* A slider dragged on the bench. */
const frames = await previewFrames(root);
for (const [megapixels, { medianMs, p95Ms, longestTaskMs }] of Object.entries(frames)) {
  rows[`slider to picture at 1280 x 800, ${megapixels} megapixels, median ms`] = medianMs;
  rows[`slider to picture at 1280 x 800, ${megapixels} megapixels, 95th percentile ms`] = p95Ms;
  rows[`longest task of the page meanwhile, ${megapixels} megapixels, ms (0: none over 50)`] = longestTaskMs;
}

for (const [name, value] of Object.entries(rows)) process.stdout.write(`${value.toFixed(2).padStart(10)}  ${name}\n`);
writeFileSync(
  join(here, '../results.json'),
  `${JSON.stringify({ date: new Date().toISOString().slice(0, 10), machine: `${cpus().length} x ${cpus()[0]?.model ?? 'unknown'}, Node.js ${process.versions.node}`, rows }, null, 1)}\n`,
);
