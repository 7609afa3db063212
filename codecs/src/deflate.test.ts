import { constants, deflateSync, inflateSync } from 'node:zlib';
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deflate, isNoise } from './deflate';
import { inflateShort } from './unpack-short';

/** Bytes of many kinds: noise, noise of few levels, few bytes and many of one, runs, one value, each a power of two rarer than the next. */
function bytesOf(length: number, kind: number, seed: number): Uint8Array {
  let state = seed;
  const random = (): number => (state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  const kinds = [
    () => random() * 256,
    () => 128 + 30 * (random() + random() + random() + random() - 2),
    () => (random() < 0.97 ? 0 : random() * 256),
    (i: number) => i >> 5,
    () => 7,
    () => Math.min(40, -Math.log2(1 - random())),
  ];
  return Uint8Array.from({ length }, (_, i) => kinds[kind]?.(i) ?? 0);
}

describe('packing', () => {
  it('gives what zlib unpacks to the same bytes, whatever they are and however many', () => {
    fc.assert(
      fc.property(
        fc.oneof({ weight: 5, arbitrary: fc.integer({ min: 0, max: 5000 }) }, fc.constantFrom(131_071, 131_072, 131_073, 400_000)),
        fc.integer({ min: 0, max: 5 }),
        (length, kind) => {
          const bytes = bytesOf(length, kind, length + kind + 1);
          const packed = deflate(bytes) as Uint8Array;
          expect(Buffer.compare(inflateSync(packed), bytes)).toBe(0);
          expect(Buffer.compare(inflateShort(packed, length) as Uint8Array, bytes)).toBe(0);
          // never much longer than what goes in
          expect(packed.length).toBeLessThan(length * 1.01 + 250);
        },
      ),
      { numRuns: 150, seed: 11, endOnFailure: true },
    );
  });

  it('of noise is as short as zlib, which looks for what comes again', () => {
    const noise = bytesOf(500_000, 1, 4);
    expect((deflate(noise) as Uint8Array).length).toBeLessThan(deflateSync(noise).length * 1.01);
    expect((deflate(noise) as Uint8Array).length).toBeLessThan(deflateSync(noise, { strategy: constants.Z_HUFFMAN_ONLY }).length * 1.01);
    expect([0, 1, 2, 3, 4].map((kind) => isNoise(bytesOf(500_000, kind, 4)))).toEqual([true, true, false, false, false]);
    // a pattern that comes again is left to whom it is shorter with
    expect(isNoise(Uint8Array.from({ length: 500_000 }, (_, i) => (i % 16) * 16))).toBe(false);
  });
});
