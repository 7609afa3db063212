import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { composeHeap, heapTruth, randomHeap, type Heap } from '../../../demo/src/heaps';
import { newCorrection } from '../correction/new-correction';
import type { Correction } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { distance, type Point } from '../picture/point';
import { levelsOf, type Raster } from '../raster/raster';
import { resampleRows } from '../raster/resample';
import { findPieces, type FoundPiece } from './find-pieces';

type Corners = readonly Point[];
const job = (name: string): URL => new URL(`../../../demo/job/${name}`, import.meta.url);

async function decoded(file: Buffer | URL): Promise<Raster> {
  const input = file instanceof URL ? readFileSync(file) : file;
  const { data, info } = await sharp(input).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) };
}

const asJpeg = ({ width, height, data }: Raster, quality: number): Promise<Buffer> =>
  sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
    .jpeg({ quality })
    .toBuffer();

const truthOf = (name: string): { prints: { corners: Corners; inner?: Corners; angleDeg: number }[] } =>
  JSON.parse(readFileSync(job(`${name}.truth.json`), 'utf8')) as never;

const middle = (corners: Corners): Point => [corners.reduce((sum, p) => sum + p[0], 0) / 4, corners.reduce((sum, p) => sum + p[1], 0) / 4];
const nearest = (pieces: readonly FoundPiece[], corners: Corners): FoundPiece | undefined =>
  [...pieces].sort((a, b) => distance(middle(a.corners), middle(corners)) - distance(middle(b.corners), middle(corners)))[0];
/** The furthest that a corner lies off, whichever corner is the first. */
const worst = (found: Corners, corners: Corners): number => Math.max(...corners.map((c) => Math.min(...found.map((f) => distance(f, c)))));
const offSquare = (deg: number): number => Math.abs(deg - 90 * Math.round(deg / 90));

describe('prints on a scan', () => {
  it('of the demo job are found: dark lid or light, white borders, two of them 0.7 mm apart', async () => {
    for (const name of ['prints-sheet', 'loose-prints']) {
      const { prints } = truthOf(name);
      const { pieces, silent } = findPieces(await decoded(job(`${name}.jpg`)), 300);
      expect(silent).toBeNull();
      expect(pieces).toHaveLength(prints.length);
      for (const { corners, inner, angleDeg } of prints) {
        const found = nearest(pieces, corners) as FoundPiece;
        expect(Math.abs(found.angleDeg - angleDeg)).toBeLessThan(0.02);
        expect(worst(found.corners, corners)).toBeLessThan((0.5 * 300) / 25.4);
        if (inner) expect(worst(found.inner as Corners, inner)).toBeLessThan(2);
      }
      // row by row, each from the left
      const tops = pieces.map(({ corners }) => middle(corners));
      expect(tops[0]?.[0]).toBeLessThan(tops[1]?.[0] as number);
      expect(tops.at(-1)?.[1]).toBeGreaterThan(tops[0]?.[1] as number);
    }
  });

  it('of composed heaps are found within 0.5 mm and 0.05 degrees, and nothing is invented', async () => {
    const pictures = await Promise.all(
      ['pump-hall-front', 'water-tower', 'reservoir', 'engine-hall', 'filter-gallery'].map(
        async (name) => levelsOf(await decoded(job(`${name}.jpg`)), 1400).at(-1) as Raster,
      ),
    );
    let [all, hit, extra] = [0, 0, 0];
    const missed: string[] = [];
    const inDeviations: number[] = [];
    // none of these was looked at while numbers were set
    for (let seed = 601; seed <= 610; seed += 1) {
      const ppi = [150, 200][seed % 2] as number;
      const heap = randomHeap({ seed, pictures, ppi });
      const { pieces } = findPieces(await decoded(await asJpeg(composeHeap(heap), 80)), ppi);
      for (const { corners, angleDeg } of heapTruth(heap)) {
        const found = nearest(pieces, corners);
        const off = found ? worst(found.corners, corners) * (25.4 / ppi) : Infinity;
        all += 1;
        if (found && off <= 1) inDeviations.push(offSquare(found.angleDeg - angleDeg) / found.sdDeg);
        if (found && off <= 0.5 && offSquare(found.angleDeg - angleDeg) <= 0.05) hit += 1;
        else missed.push(`${seed}: ${off.toFixed(2)} mm`);
      }
      extra += Math.max(0, pieces.length - heap.prints.length);
    }
    expect(extra).toBe(0);
    // errors scatter within what is said of them
    const sorted = inDeviations.sort((p, q) => p - q);
    expect(sorted[Math.floor(0.68 * sorted.length)]).toBeLessThan(1);
    expect(sorted.filter((z) => z > 2).length / sorted.length).toBeLessThan(0.06);
    expect(hit / all, missed.join(', ')).toBeGreaterThanOrEqual(0.94);
  });

  it('of a photographed sheet are found by their corners', async () => {
    const scan = await decoded(job('prints-sheet.jpg'));
    const { width, height } = scan;
    const plain = newCorrection({ name: '', width, height, focal35: 35 });
    const tilted: Correction = {
      ...plain,
      stance: { ...plain.stance, tilt: 9, swing: -7, roll: 1.5 },
      crop: { ...plain.crop, edges: 'keep' },
    };
    const warp = composeWarp(tilted, { width, height });
    const size = warp.outputSize;
    const data = resampleRows({
      source: scan,
      // the table goes on beyond the scan as its border is
      map: (x, y, out) => {
        if (!warp.outputToPicture(x, y, out)) return false;
        out[0] = Math.min(width - 2, Math.max(2, out[0] as number));
        out[1] = Math.min(height - 2, Math.max(2, out[1] as number));
        return true;
      },
      filter: 'bicubic',
      width: size.width,
      fromRow: 0,
      toRow: size.height,
      background: 'transparent',
      outChannels: 3,
    });
    const { pieces } = findPieces({ ...size, channels: 3, data: data as Uint8Array }, null, true);
    expect(pieces).toHaveLength(5);
    for (const { corners } of truthOf('prints-sheet').prints) {
      const there = corners.map((c) => warp.toOutput(c[0], c[1]) as Point);
      expect(worst((nearest(pieces, there) as FoundPiece).corners, there)).toBeLessThan((0.5 * 300) / 25.4);
    }
  });

  it('are not invented from a lid, dust, one picture that fills the scan, or next to nothing', async () => {
    const bare: Heap = {
      widthMm: 200,
      heightMm: 140,
      ppi: 150,
      lid: [236, 235, 231],
      grain: 1,
      noise: 2,
      falloff: 0.06,
      sideShadow: 0.2,
      printShadow: 0.3,
      dust: 300,
      seed: 5,
      prints: [],
    };
    expect(findPieces(composeHeap(bare), 150)).toEqual({ pieces: [], silent: 'Nothing but the lid is seen.' });
    const whole = findPieces(await decoded(job('filter-gallery.jpg')), null);
    expect(whole.pieces).toEqual([]);
    expect(whole.silent).not.toBeNull();
    for (const [width, height] of [
      [1, 1],
      [40, 3000],
      [64, 64],
    ] as const)
      expect(findPieces({ width, height, channels: 1, data: new Uint8Array(width * height).fill(9) }, null).pieces).toEqual([]);
  });
});
