import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import {
  correctionSchema,
  composeWarp,
  estimateLateral,
  newCorrection,
  prepareSource,
  renderRows,
  type Point,
  type Raster,
} from '../index';

const size = { width: 1800, height: 1200 };
const centre: Point = [900, 600];

/** The engine hall at half size, sharp and without fringes. */
let clean: Raster;
beforeAll(async () => {
  const file = readFileSync(new URL('../../../demo/job/engine-hall.jpg', import.meta.url));
  const { data } = await sharp(file).resize(size.width, size.height).raw().toBuffer({ resolveWithObject: true });
  clean = { ...size, channels: 3, data: new Uint8Array(data) };
});

/** A picture through a correction that only changes the sizes of its colours. */
function through(raster: Raster, red: number, blue: number): Raster {
  const blank = newCorrection({ name: 'x', ...size, focal35: 28 });
  const correction = correctionSchema.parse({ ...blank, lens: { ...blank.lens, lateral: { red, blue } } });
  const warp = composeWarp(correction, size);
  expect(warp.outputSize).toEqual(size);
  return { ...size, channels: 3, data: renderRows(prepareSource(raster, warp), warp, correction, 3, 0, size.height) };
}

describe('lateral colour', () => {
  it('is found from the edges of a picture to 0.1 px in the corner, and is gone after the correction', () => {
    const corner = Math.hypot(...centre);
    const before = estimateLateral(clean, centre).found!;
    // the images of the colours made smaller and larger: what a lens would do, in reverse
    const fringed = through(clean, 1 / 1.0011, 1 / 0.9993);
    const { found } = estimateLateral(fringed, centre);
    expect(found!.places).toBeGreaterThan(200);
    expect(Math.abs((found!.red - before.red - 0.0011) * corner)).toBeLessThan(0.1);
    expect(Math.abs((found!.blue - before.blue + 0.0007) * corner)).toBeLessThan(0.1);
    expect(Math.abs(before.redPx)).toBeLessThan(0.15);
    expect(Math.abs(before.bluePx)).toBeLessThan(0.15);
    const after = estimateLateral(through(fringed, found!.red, found!.blue), centre).found!;
    expect(Math.abs(after.redPx)).toBeLessThan(0.08);
    expect(Math.abs(after.bluePx)).toBeLessThan(0.08);
  });

  it('moves red outwards where its image is larger: a white square’s corner keeps its place in green', () => {
    const data = new Uint8Array(size.width * size.height * 3).fill(20);
    for (let j = 100; j < 1100; j += 1)
      for (let i = 100; i < 1700; i += 1) data.fill(220, (j * size.width + i) * 3, (j * size.width + i) * 3 + 3);
    const { data: out } = through({ ...size, channels: 3, data }, 1.005, 1);
    const row = (600 * size.width + 100) * 3;
    const crossing = (channel: number): number => {
      for (let i = -10; i < 10; i += 1) {
        const [a, b] = [out[row + i * 3 + channel]!, out[row + (i + 1) * 3 + channel]!];
        if (a < 120 && b >= 120) return i + (120 - a) / (b - a);
      }
      return NaN;
    };
    // the red image is taken to be larger, so it is shrunk: its edge at x = 100 comes from 100 + 4 px farther in
    expect(crossing(1)).toBeCloseTo(-0.5, 1);
    expect(crossing(0) - crossing(1)).toBeCloseTo(800 - 800 / 1.005, 1);
    expect(crossing(2)).toBe(crossing(1));
  });

  it('says why there is nothing to be found: grey, plain', () => {
    expect(estimateLateral({ ...size, channels: 1, data: new Uint8Array(size.width * size.height) }, centre).why).toMatch(/grey/);
    expect(estimateLateral({ ...size, channels: 3, data: new Uint8Array(size.width * size.height * 3).fill(90) }, centre).why).toMatch(
      /Too few/,
    );
  });
});
