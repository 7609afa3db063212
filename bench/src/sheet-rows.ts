import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { distance, findPieces, levelsOf, type Point, type Raster } from '@able-plumb/core';
import { encodeJpeg, readPictureInfo, readPixels } from '@able-plumb/codecs';
import { composeHeap, heapTruth, randomHeap } from '@able-plumb/demo/heaps';
import type { Rows } from './timing';

/** Heaps that were not looked at while numbers were set (that was done on 1 to 160); seeds. */
const FIRST = 201;
const HEAPS = 120;
const SHOWN = ['pump-hall-front', 'water-tower', 'reservoir', 'engine-hall', 'filter-gallery', 'stair', 'name-plate'];
const LID_NAMES = ['black', 'dark grey', 'grey', 'light grey', 'white', 'yellowed'];
const LID_LIGHT = [16, 52, 128, 212, 247, 238];

const demo = (name: string): string => fileURLToPath(new URL(`../../demo/job/${name}.jpg`, import.meta.url));

async function pixels(bytes: Uint8Array): Promise<Raster> {
  return readPixels(bytes, 'heap.jpg', await readPictureInfo(bytes, 'heap.jpg'));
}

/** Prints of composed heaps, as JPEG of quality 80, by lid: how many there are, how many are found within 0.5 mm and 0.05 degrees; the time for 35 megapixels. */
export async function sheetRows(rows: Rows): Promise<void> {
  const pictures = await Promise.all(
    SHOWN.map(async (name) => levelsOf(await pixels(new Uint8Array(readFileSync(demo(name)))), 1400).at(-1) as Raster),
  );
  const sums = new Map<string, number>();
  const add = (name: string, by = 1): void => void sums.set(name, (sums.get(name) ?? 0) + by);
  for (let seed = FIRST; seed < FIRST + HEAPS; seed += 1) {
    const ppi = [150, 200, 300][seed % 3] as number;
    const heap = randomHeap({ seed, pictures, ppi });
    const { pieces } = findPieces(await pixels(await encodeJpeg(composeHeap(heap), { quality: 80, chroma: '4:2:0' }, {})), ppi);
    const lid = LID_NAMES[LID_LIGHT.indexOf(heap.lid[0])] ?? '';
    for (const { corners, angleDeg } of heapTruth(heap)) {
      const middle = (of: readonly Point[]): Point => [of.reduce((s, p) => s + p[0] / 4, 0), of.reduce((s, p) => s + p[1] / 4, 0)];
      const found = [...pieces].sort(
        (a, b) => distance(middle(a.corners), middle(corners)) - distance(middle(b.corners), middle(corners)),
      )[0];
      const off = found ? Math.max(...corners.map((c) => Math.min(...found.corners.map((f) => distance(f, c))))) * (25.4 / ppi) : Infinity;
      const turned = found ? found.angleDeg - angleDeg : Infinity;
      add(`${lid} lid, prints`);
      if (off <= 1) add(`${lid} lid, corners within 1 mm`);
      if (off <= 0.5 && Math.abs(turned - 90 * Math.round(turned / 90)) <= 0.05) add(`${lid} lid, within 0.5 mm and 0.05 degrees`);
    }
    add('more pieces than prints', Math.max(0, pieces.length - heap.prints.length));
  }
  for (const [name, value] of [...sums].sort()) rows[`sheets: ${name}`] = value;
  const large = composeHeap(randomHeap({ seed: 302, pictures, ppi: 600 }));
  const times = Array.from({ length: 5 }, () => {
    const begun = performance.now();
    findPieces(large, 600);
    return performance.now() - begun;
  }).sort((p, q) => p - q);
  rows[`sheets: ${((large.width * large.height) / 1e6).toFixed(0)} megapixels, one thread, after decoding, ms`] = times[2] as number;
}
