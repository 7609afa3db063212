import { expect, it } from 'vitest';
import * as fc from 'fast-check';
import { composeWarp, newCorrection, parseCorrection, prepareSource, renderRows, rowsNeeded, type Raster } from '../index';

const SIZE = { width: 900, height: 640 };

/** Noise, of which rows from one on are something else. */
function noise(until: number, other: number): Raster {
  const data = new Uint8Array(SIZE.width * SIZE.height * 3);
  let state = 7;
  for (let k = 0; k < data.length; k += 1) {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    data[k] = k < until * SIZE.width * 3 ? state >> 23 : other;
  }
  return { ...SIZE, channels: 3, data };
}

it('a band is drawn to the bit from the rows that it needs, whatever the others hold: stances, lenses, filters, sizes', () => {
  const whole = noise(SIZE.height, 0);
  let [told, bands] = [0, 0];
  const angle = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
  fc.assert(
    fc.property(
      fc.record({
        adjust: fc.record({ roll: angle(30), tilt: angle(30), swing: angle(25) }),
        k1: angle(0.12),
        filter: fc.constantFrom('bilinear', 'bicubic', 'lanczos3'),
        size: fc.constantFrom({ kind: 'natural' }, { kind: 'long-edge', px: 300 }, { kind: 'long-edge', px: 1500 }),
        flipX: fc.boolean(),
      }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      ({ adjust, k1, filter, size, flipX }, at) => {
        const base = newCorrection({ name: 'noise', ...SIZE, focal35: 24 });
        const correction = parseCorrection({
          ...base,
          stance: { ...base.stance, adjust, flipX },
          lens: { ...base.lens, model: { kind: 'radial', cx: 450, cy: 320, k1 } },
          crop: { ...base.crop, edges: 'keep' },
          output: { ...base.output, filter, size },
        });
        const warp = composeWarp(correction, SIZE);
        const count = Math.ceil(warp.outputSize.height / 64);
        const from = Math.min(count - 1, Math.floor(at * count)) * 64;
        const to = Math.min(warp.outputSize.height, from + 64);
        const rows = rowsNeeded(correction, warp, from, to);
        bands += 1;
        if (rows < SIZE.height) told += 1;
        const drawn = (source: Raster): Uint8Array | Uint16Array =>
          renderRows(prepareSource(source, warp, 'encoded'), warp, correction, 3, from, to);
        expect(Buffer.compare(drawn(noise(rows, 200)) as Uint8Array, drawn(whole) as Uint8Array)).toBe(0);
      },
    ),
    { numRuns: 60, seed: 31 },
  );
  // most bands do not need all of the picture
  expect(told / bands).toBeGreaterThan(0.4);
});
