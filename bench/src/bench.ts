/* Speed and accuracy, measured in one run; writes bench/results.json. */
import { readFileSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  composeWarp,
  newCorrection,
  newReference,
  parseCorrection,
  previewPixels,
  resampleRows,
  solveCorrection,
  withReferences,
  withRollAdjust,
  type FilterName,
  type Point,
  type Raster,
} from '@able-plumb/core';
import { previewFrames } from './preview-frames';

const ROWS = 256;
const REPEATS = 5;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] as number;

function timed(work: () => void): number {
  const times: number[] = [];
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
const correction = withRollAdjust(newCorrection({ name: 'bench', ...size, focal35: 24 }), 1.48);
const warp = composeWarp(correction, size);
const width = warp.outputSize.width;
const band = source.data.slice(0, width * ROWS * 3);
const rows: Record<string, number> = {};
const copyMs = timed(() => void band.slice());
rows['plain copy of the same bytes, ns a pixel'] = (copyMs * 1e6) / (width * ROWS);
for (const filter of ['bilinear', 'bicubic', 'mitchell', 'lanczos3'] as readonly FilterName[]) {
  const ms = timed(
    () =>
      void resampleRows({
        source,
        map: warp.outputToPicture,
        filter,
        width,
        fromRow: 1000,
        toRow: 1000 + ROWS,
        background: 'transparent',
        outChannels: 3,
      }),
  );
  rows[`plain kernel, ${filter}, one thread, ns a pixel`] = (ms * 1e6) / (width * ROWS);
}
const frame = { width: 772, height: 704 };
rows['draft of one stage (772 x 704), ms'] = timed(
  () => void previewPixels(source, (x, y, out) => warp.outputToPicture(x * 7, y * 5, out), frame),
);
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
