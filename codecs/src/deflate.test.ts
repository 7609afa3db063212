import { readFileSync } from 'node:fs';
import { deflateSync, inflateSync } from 'node:zlib';
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deflate, deflatePart, joinSums, NO_SUM, storedPart, ZLIB_HEAD, zlibTail } from './deflate';
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
          const packed = deflate(bytes);
          expect(Buffer.compare(inflateSync(packed), bytes)).toBe(0);
          expect(Buffer.compare(inflateShort(packed, length) as Uint8Array, bytes)).toBe(0);
          // never much longer than what goes in
          expect(packed.length).toBeLessThan(length * 1.01 + 250);
        },
      ),
      { numRuns: 150, seed: 11, endOnFailure: true },
    );
  });

  it('looks for what comes again nearly as well as zlib, and never for long where nothing does', () => {
    const rows = bytesOf(3000, 0, 3);
    const near = {
      noise: [bytesOf(500_000, 0, 4), 1.001],
      'noise of few levels': [bytesOf(500_000, 1, 4), 1.01],
      'few and many of one': [bytesOf(500_000, 2, 4), 1.08],
      runs: [bytesOf(500_000, 3, 4), 1.5],
      pattern: [Uint8Array.from({ length: 500_000 }, (_, i) => (i % 16) * 16), 1.5],
      'rows like the one above': [Uint8Array.from({ length: 900_000 }, (_, i) => rows[i % 3000] as number), 1.1],
      text: [readFileSync(new URL('../../README.md', import.meta.url)), 1.05],
    } as const;
    for (const [name, [bytes, most]] of Object.entries(near))
      expect(deflate(bytes).length / deflateSync(bytes).length, name).toBeLessThan(most);
  });

  it('gives parts that any thread can make, and that are one file joined in order', () => {
    const pieces = [0, 1, 5, 2, 4].map((kind, k) => bytesOf([70_000, 1, 0, 131_073, 20_000][k] as number, kind, k + 1));
    for (const make of [deflatePart, storedPart]) {
      let sum = NO_SUM;
      const parts = pieces.map((piece) => {
        const part = make(piece);
        sum = joinSums(sum, part.sum, piece.length);
        return part.data;
      });
      // zlib looks at the sum
      expect(Buffer.compare(inflateSync(Buffer.concat([ZLIB_HEAD, ...parts, zlibTail(sum)])), Buffer.concat(pieces))).toBe(0);
    }
  });
});
