import { expect, it } from 'vitest';
import * as fc from 'fast-check';
import {
  composeWarp,
  newCorrection,
  parseCorrection,
  prepareSource,
  renderRows,
  rowsRead,
  type Raster,
  type RowSpan,
  type Source,
} from '../index';

const SIZE = { width: 900, height: 640 };

/** Noise, of which rows outside of a span are something else. */
function noise({ from, to }: RowSpan, other: number): Raster {
  const data = new Uint8Array(SIZE.width * SIZE.height * 3);
  let state = 7;
  for (let k = 0; k < data.length; k += 1) {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    const row = Math.floor(k / (3 * SIZE.width));
    data[k] = row >= from && row < to ? state >> 23 : other;
  }
  return { ...SIZE, channels: 3, data };
}

/** The rows of a span alone, each where it lies in a window of so many rows. */
function windowOf({ data, ...rest }: Raster, { from, to }: RowSpan, held: number): Source {
  const row = 3 * SIZE.width;
  const kept = new Uint8Array(held * row).fill(99);
  for (let y = from; y < to; y += 1) kept.set(data.subarray(y * row, (y + 1) * row), (y % held) * row);
  return { ...rest, data: kept, held };
}

it('a band is drawn to the bit from the rows that it reads, whatever the others hold, or where no others are: stances, lenses, filters, sizes', () => {
  const whole = noise({ from: 0, to: SIZE.height }, 0);
  let [told, bands] = [0, 0];
  const angle = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
  fc.assert(
    fc.property(
      fc.record({
        adjust: fc.record({ roll: angle(30), tilt: angle(30), swing: angle(25) }),
        k1: angle(0.12),
        apart: fc.constantFrom(0, 0.003),
        filter: fc.constantFrom('bilinear', 'bicubic', 'lanczos3'),
        size: fc.constantFrom({ kind: 'natural' }, { kind: 'long-edge', px: 300 }, { kind: 'long-edge', px: 1500 }),
        flipX: fc.boolean(),
      }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      ({ adjust, k1, apart, filter, size, flipX }, at) => {
        const base = newCorrection({ name: 'noise', ...SIZE, focal35: 24 });
        const correction = parseCorrection({
          ...base,
          stance: { ...base.stance, adjust, flipX },
          lens: { ...base.lens, model: { kind: 'radial', cx: 450, cy: 320, k1 }, lateral: { red: 1 + apart, blue: 1 - apart } },
          crop: { ...base.crop, edges: 'keep' },
          output: { ...base.output, filter, size },
        });
        const warp = composeWarp(correction, SIZE);
        const count = Math.ceil(warp.outputSize.height / 64);
        const from = Math.min(count - 1, Math.floor(at * count)) * 64;
        const to = Math.min(warp.outputSize.height, from + 64);
        const rows = rowsRead(correction, warp, from, to);
        bands += 1;
        if (rows.to - rows.from < SIZE.height) told += 1;
        const drawn = (source: Raster): Uint8Array | Uint16Array =>
          renderRows(prepareSource(source, warp, 'encoded'), warp, correction, 3, from, to);
        const expected = drawn(whole) as Uint8Array;
        expect(Buffer.compare(drawn(noise(rows, 200)) as Uint8Array, expected)).toBe(0);
        const held = Math.max(1, rows.to - rows.from);
        expect(Buffer.compare(drawn(windowOf(whole, rows, held)) as Uint8Array, expected)).toBe(0);
      },
    ),
    { numRuns: 60, seed: 31 },
  );
  // most bands do not need all of the picture
  expect(told / bands).toBeGreaterThan(0.4);
});
