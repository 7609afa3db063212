import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { composeWarp, correctionSchema, fillEmpty, levelsOf, newCorrection, type Raster } from '@able-plumb/core';
import { readPictureInfo, readPixels, writePicture } from '@able-plumb/codecs';
import { PYTHON } from './peer';
import type { Rows } from './timing';

const DEMO = ['pump-hall-front', 'water-tower', 'reservoir', 'engine-hall', 'filter-gallery', 'stair', 'name-plate'];
/** Photographs of Debian's opencv-doc, where that is installed. */
const PHOTOS = [
  'fruits.jpg',
  'leuvenA.jpg',
  'squirrel_cls.jpg',
  'aloeL.jpg',
  'board.jpg',
  'home.jpg',
  'messi5.jpg',
  'rubberwhale1.png',
  'building.jpg',
  'butterfly.jpg',
];
const PHOTO_FOLDER = '/usr/share/doc/opencv-doc/examples/data/';

/** What is hidden: 3 to 12 % of a picture; whether a pixel is, by its place as shares of the sides. */
const HIDDEN: Readonly<Record<string, (u: number, v: number) => boolean>> = {
  'top left corner': (u, v) => u / 0.32 + v / 0.32 < 1,
  'bottom right corner': (u, v) => (1 - u) / 0.3 + (1 - v) / 0.3 < 1,
  'top strip': (_, v) => v < 0.06,
  'right strip': (u) => u > 0.96,
  'two wedges': (u, v) => v < u * 0.06 || 1 - v < (1 - u) * 0.06,
};

/** What is put side by side in the documentation, from the left: hidden, ours, Telea's, Navier-Stokes. */
const BESIDE = [
  ['reservoir', 'top left corner'],
  ['stair', 'right strip'],
  ['name-plate', 'top strip'],
] as const;
const BESIDE_FILE = fileURLToPath(new URL('../../docs/filled-beside.png', import.meta.url));
const BESIDE_PX = 300;

/** Four small pictures of one part in a row. */
function besideEachOther(folder: string, { width, height }: Raster, mask: Uint8Array): Raster {
  const read = (name: string): Raster => ({ width, height, channels: 3, data: new Uint8Array(readFileSync(join(folder, name))) });
  const truth = read('truth');
  const hidden: Raster = { ...truth, data: (truth.data as Uint8Array).map((v, k) => (mask[Math.floor(k / 3)] === 255 ? 140 : v)) };
  const shown = [hidden, read('ours'), read('telea'), read('flow')].map((raster) => levelsOf(raster, BESIDE_PX).at(-1) as Raster);
  const { width: w, height: h } = shown[0] as Raster;
  const across = w * 4 + 12;
  const data = new Uint8Array(across * h * 3).fill(255);
  shown.forEach((raster, i) => {
    for (let y = 0; y < h; y += 1) data.set(raster.data.subarray(y * w * 3, (y + 1) * w * 3), (y * across + i * (w + 4)) * 3);
  });
  return { width: across, height: h, channels: 3, data };
}

/** Rows of pictures one below the other. */
function below(rows: readonly Raster[]): Raster {
  const width = Math.max(...rows.map((row) => row.width));
  const height = rows.reduce((sum, row) => sum + row.height + 4, 0);
  const data = new Uint8Array(width * height * 3).fill(255);
  let top = 0;
  for (const row of rows) {
    for (let y = 0; y < row.height; y += 1) data.set(row.data.subarray(y * row.width * 3, (y + 1) * row.width * 3), (top + y) * width * 3);
    top += row.height + 4;
  }
  return { width, height, channels: 3, data };
}

async function pixelsOf(file: string): Promise<Raster> {
  const bytes = new Uint8Array(readFileSync(file));
  return readPixels(bytes, file, await readPictureInfo(bytes, file));
}

function emptied(source: Raster, hidden: (u: number, v: number) => boolean): Raster {
  const { width, height, channels, data } = source;
  const out = new Uint8Array(width * height * 4);
  for (let k = 0; k < width * height; k += 1) {
    if (hidden(((k % width) + 0.5) / width, (Math.floor(k / width) + 0.5) / height)) continue;
    for (let c = 0; c < 3; c += 1) out[k * 4 + c] = data[k * channels + c] as number;
    out[k * 4 + 3] = 255;
  }
  return { width, height, channels: 4, data: out };
}

function fill(raster: Raster): number {
  const { width, height } = raster;
  const correction = correctionSchema.parse({
    ...newCorrection({ name: 'x', width, height, focal35: 28 }),
    crop: { edges: 'fill', around: 'frame' },
  });
  const warp = composeWarp(correction, { width, height });
  const begun = performance.now();
  fillEmpty(raster, correction, warp, false);
  return performance.now() - begun;
}

/**
 * Known parts of pictures hidden and filled, against OpenCV's two inpainting methods (Telea 2004; Navier-Stokes, Bertalmio and others 2001)
 * on the same pixels: how far means of squares of 16 px are from the truth in colour, and in the strength of their gradients. And the time
 * for 24 megapixels with 5 % to fill.
 */
export async function fillRows(rows: Rows, peer: boolean): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'plumb-fill-'));
  const beside: Raster[] = [];
  const groups = [
    ['demo', DEMO.map((name) => fileURLToPath(new URL(`../../demo/job/${name}.jpg`, import.meta.url)))],
    ['photographs', PHOTOS.map((name) => PHOTO_FOLDER + name).filter((file) => existsSync(file))],
  ] as const;
  for (const [group, files] of peer ? groups : []) {
    const sums = [0, 0, 0, 0, 0, 0];
    let [cases, colour, gradient] = [0, 0, 0];
    for (const file of files) {
      const source = levelsOf(await pixelsOf(file), 1200).at(-1) as Raster;
      for (const [place, hidden] of Object.entries(HIDDEN)) {
        const raster = emptied(source, hidden);
        const mask = Uint8Array.from({ length: raster.width * raster.height }, (_, k) => 255 - (raster.data[4 * k + 3] as number));
        fill(raster);
        const rgb = ({ channels, data }: Raster): Uint8Array =>
          Uint8Array.from({ length: (data.length / channels) * 3 }, (_, k) => data[Math.floor(k / 3) * channels + (k % 3)] as number);
        for (const [name, data] of [
          ['truth', rgb(source)],
          ['mask', mask],
          ['ours', rgb(raster)],
        ] as const)
          writeFileSync(join(folder, name), data);
        const script = fileURLToPath(new URL('./peer_fill.py', import.meta.url));
        const said = execFileSync(PYTHON, [script, folder, String(raster.width), String(raster.height)]).toString();
        const n = JSON.parse(said) as [number, number, number, number, number, number];
        if (group === 'demo' && BESIDE.some(([shown, part]) => file.includes(shown) && part === place))
          beside.push(besideEachOther(folder, raster, mask));
        n.forEach((value, i) => (sums[i] = (sums[i] as number) + value));
        cases += 1;
        if (n[0] <= Math.min(n[2], n[4])) colour += 1;
        if (n[1] <= Math.min(n[3], n[5])) gradient += 1;
      }
    }
    rows[`fill: ${group}, cases`] = cases;
    rows[`fill: ${group}, gradients nearer than both`] = gradient;
    rows[`fill: ${group}, colours nearer than both`] = colour;
    for (const [i, name] of [
      'ours, colour',
      'ours, gradient',
      'Telea, colour',
      'Telea, gradient',
      'Navier-Stokes, colour',
      'Navier-Stokes, gradient',
    ].entries())
      rows[`fill: ${group}, ${name}`] = (sums[i] as number) / Math.max(1, cases);
  }
  rmSync(folder, { recursive: true });
  if (beside.length > 0) writeFileSync(BESIDE_FILE, await writePicture(below(beside), { kind: 'png', bits: 8 }));
  const large = await pixelsOf(fileURLToPath(new URL('../../demo/job/pump-hall-front.jpg', import.meta.url)));
  const times = Array.from({ length: 3 }, () => fill(emptied(large, (u, v) => u / 0.32 + v / 0.32 < 1))).sort((p, q) => p - q);
  rows['fill: 24 megapixels, 5 % empty, one thread, ms'] = times[1] as number;
}
