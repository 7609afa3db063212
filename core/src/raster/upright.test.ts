import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kernelName, orientRaster, putUpright, uprightSize } from '../index';
import { putPlainly } from './upright';

describe('the right way up', () => {
  it('turns stored pixels the right way up for all eight orientation values (CIPA DC-008)', () => {
    // upright: 3 wide, 2 high, numbered in reading order; stored forms worked out from the standard's table by hand
    const upright = [1, 2, 3, 4, 5, 6];
    const stored: Record<number, readonly [number, readonly number[]]> = {
      1: [3, [1, 2, 3, 4, 5, 6]],
      2: [3, [3, 2, 1, 6, 5, 4]],
      3: [3, [6, 5, 4, 3, 2, 1]],
      4: [3, [4, 5, 6, 1, 2, 3]],
      5: [2, [1, 4, 2, 5, 3, 6]],
      6: [2, [3, 6, 2, 5, 1, 4]],
      7: [2, [6, 3, 5, 2, 4, 1]],
      8: [2, [4, 1, 5, 2, 6, 3]],
    };
    for (const [value, [width, data]] of Object.entries(stored)) {
      const result = orientRaster({ width, height: 6 / width, channels: 1, data: Uint8Array.from(data) }, Number(value));
      const plain = new Uint8Array(6);
      putPlainly(plain, Uint8Array.from(data), 0, { width, height: 6 / width }, 1, Number(value));
      expect([...plain]).toEqual(upright);
      expect([result.width, result.height, ...result.data], `orientation ${value}`).toEqual([3, 2, ...upright]);
    }
  });

  it('puts rows where the plain version does, however many at a time, of every kind of pixel', () => {
    expect(kernelName()).not.toBe('plain');
    fc.assert(
      fc.property(
        fc.record({
          width: fc.oneof(fc.integer({ min: 1, max: 40 }), fc.constant(1365)),
          height: fc.oneof(fc.integer({ min: 1, max: 40 }), fc.constant(600)),
          channels: fc.integer({ min: 1, max: 4 }),
          wide: fc.boolean(),
          orientation: fc.integer({ min: 1, max: 8 }),
          atOnce: fc.integer({ min: 1, max: 600 }),
        }),
        ({ width, height, channels, wide, orientation, atOnce }) => {
          const length = width * height * channels;
          const blank = (): Uint8Array | Uint16Array => (wide ? new Uint16Array(length) : new Uint8Array(length));
          const rows = blank().map((_, k) => Math.imul(k + 1, 40503) >> 7);
          const [plain, quick] = [blank(), blank()];
          putPlainly(plain, rows, 0, { width, height }, channels, orientation);
          for (let y = 0; y < height; y += atOnce)
            putUpright(
              quick,
              rows.subarray(y * width * channels, (y + atOnce) * width * channels),
              y,
              { width, height },
              channels,
              orientation,
            );
          expect(Buffer.compare(new Uint8Array(quick.buffer), new Uint8Array(plain.buffer))).toBe(0);
          expect(Math.abs(uprightSize({ width, height }, orientation).width - width) > 0).toBe(orientation >= 5 && width !== height);
        },
      ),
      { numRuns: 120, seed: 3, endOnFailure: true },
    );
  });

  it('refuses values that do not exist', () => {
    expect(() => orientRaster({ width: 1, height: 1, channels: 1, data: new Uint8Array(1) }, 9)).toThrow(
      'The orientation value 9 does not exist.',
    );
  });
});
