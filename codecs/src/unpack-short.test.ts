import { constants, deflateSync } from 'node:zlib';
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { readTiffHeader } from './tiff-header';
import { unpackLzw } from './tiff-unpack';
import { inflateShort, lzwShort, MOST_QUICK } from './unpack-short';

/** Bytes of many kinds: noise, few levels, runs, one value, waves with grain, mostly nothing. */
function bytesOf(length: number, kind: number, seed: number): Uint8Array {
  let state = seed;
  const random = (): number => (state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  const kinds = [
    () => random() * 256,
    () => random() * 4,
    (i: number) => i >> 4,
    () => 7,
    (i: number) => 128 + 40 * Math.sin(i / 30) + random() * 6,
    () => (random() < 0.9 ? 0 : random() * 256),
  ];
  return Uint8Array.from({ length }, (_, i) => kinds[kind]?.(i) ?? 0);
}

describe('unpacking short pieces at once', () => {
  it('gives what zlib packed, in every way that it packs; and of damaged, short and too long pieces what went in, or nothing', () => {
    const { Z_DEFAULT_STRATEGY, Z_FIXED, Z_HUFFMAN_ONLY, Z_RLE } = constants;
    let refused = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40_000 }),
        fc.integer({ min: 0, max: 5 }),
        fc.record({
          level: fc.integer({ min: 0, max: 9 }),
          strategy: fc.constantFrom(Z_DEFAULT_STRATEGY, Z_FIXED, Z_HUFFMAN_ONLY, Z_RLE),
          memLevel: fc.integer({ min: 1, max: 9 }),
          windowBits: fc.integer({ min: 9, max: 15 }),
        }),
        fc.tuple(fc.double({ min: 0, max: 1, noNaN: true, maxExcluded: true }), fc.integer({ min: 0, max: 7 })),
        (length, kind, how, [where, bit]) => {
          const bytes = bytesOf(length, kind, length + 1);
          const packed = new Uint8Array(deflateSync(bytes, how));
          const same = (out: Uint8Array | null): boolean => out !== null && Buffer.compare(out, bytes) === 0;
          expect(same(inflateShort(packed, length))).toBe(true);
          // a little more room than is needed, and bytes behind
          expect(same(inflateShort(new Uint8Array([...packed, 1, 2, 3]), length + 9))).toBe(true);
          if (length > 0) expect(inflateShort(packed, length - 1)).toBeNull();
          const hurt = packed.slice();
          hurt[Math.floor(where * hurt.length)]! ^= 1 << bit;
          for (const piece of [hurt, packed.subarray(0, Math.floor(where * packed.length))]) {
            const out = inflateShort(piece, length);
            if (!out) refused += 1;
            else expect(same(out)).toBe(true);
          }
        },
      ),
      { numRuns: 300, seed: 5, endOnFailure: true },
    );
    expect(refused).toBeGreaterThan(500);
    // long ones are the platform's
    expect(inflateShort(new Uint8Array(deflateSync(new Uint8Array(MOST_QUICK + 1))), MOST_QUICK + 1)).toBeNull();
  });

  it('unpacks LZW as the plain version does: what libtiff packed, whole, cut short, with too little room, damaged', async () => {
    const size = 300;
    for (let kind = 0; kind < 6; kind += 1) {
      const pixels = bytesOf(size * size, kind, kind + 3);
      const raw = { width: size, height: size, channels: 1 } as const;
      const file = new Uint8Array(
        await sharp(pixels, { raw }).toColourspace('b-w').tiff({ compression: 'lzw', predictor: 'none' }).toBuffer(),
      );
      const { layout } = readTiffHeader(file, 'a.tif');
      const pieces = layout.offsets.map((at, k) => file.subarray(at, at + (layout.counts[k] as number)));
      const rows = layout.blockHeight * size;
      const unpacked = pieces.map((piece, k) => {
        const out = new Uint8Array(Math.min(rows, pixels.length - k * rows));
        expect(lzwShort(piece, out)).toBe(out.length);
        return out;
      });
      expect(Buffer.compare(Buffer.concat(unpacked), pixels)).toBe(0);
      const [piece] = pieces as [Uint8Array];
      fc.assert(
        fc.property(
          fc.nat(piece.length - 1),
          fc.nat(255),
          fc.nat(piece.length),
          fc.integer({ min: 1, max: rows }),
          (at, value, cut, room) => {
            const hurt = piece.slice(0, cut);
            if (at < cut) hurt[at] = value;
            const [quick, plain] = [new Uint8Array(room), new Uint8Array(room)];
            let length: number | null = null;
            try {
              length = unpackLzw(hurt, plain);
            } catch {
              plain.fill(0);
            }
            expect(lzwShort(hurt, quick)).toBe(length);
            expect(Buffer.compare(quick, plain)).toBe(0);
          },
        ),
        { numRuns: 100, seed: 7, endOnFailure: true },
      );
    }
    expect(lzwShort(new Uint8Array(9), new Uint8Array(MOST_QUICK + 1))).toBeNull();
  });
});
