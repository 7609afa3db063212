/* Tables of baseline JPEG: those of ITU-T T.81, annex K, and the scale of qualities that libjpeg made common. */

/** Where each of the 64 values of a block, row by row, stands in the file's order. */
export const ZIGZAG: readonly number[] = [
  0, 1, 5, 6, 14, 15, 27, 28, 2, 4, 7, 13, 16, 26, 29, 42, 3, 8, 12, 17, 25, 30, 41, 43, 9, 11, 18, 24, 31, 40, 44, 53, 10, 19, 23, 32, 39,
  45, 52, 54, 20, 22, 33, 38, 46, 51, 55, 60, 21, 34, 37, 47, 50, 56, 59, 61, 35, 36, 48, 49, 57, 58, 62, 63,
];

/** Tables K.1 and K.2: steps of brightness and of colour, row by row. */
const STEPS: readonly (readonly number[])[] = [
  [
    16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51, 87, 80, 62, 18, 22,
    37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121, 120, 101, 72, 92, 95, 98, 112, 100, 103, 99,
  ],
  [
    17, 18, 24, 47, 99, 99, 99, 99, 18, 21, 26, 66, 99, 99, 99, 99, 24, 26, 56, 99, 99, 99, 99, 99, 47, 66, 99, 99, 99, 99, 99, 99, 99, 99,
    99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99,
  ],
];

/**
 * Steps of quantisation, row by row, of brightness and of colour.
 * @param quality 1..100; 50 gives the tables as they stand, 100 steps of one
 */
export function stepsOf(quality: number): readonly (readonly number[])[] {
  const percent = quality < 50 ? Math.floor(5000 / quality) : 200 - 2 * quality;
  return STEPS.map((table) => table.map((step) => Math.min(255, Math.max(1, Math.floor((step * percent + 50) / 100)))));
}

/** A Huffman table as it stands in a file: how many codes there are of each length from 1 to 16, and what they stand for. */
export interface HuffmanTable {
  /** Class (0 for means, 1 for the others) times 16 plus number. */
  readonly id: number;
  readonly counts: readonly number[];
  readonly symbols: readonly number[];
}

/** What the others of a block stand for: a run of zeros times 16, plus the size of what follows; those of the short codes first. */
const bytes = (hex: string): number[] => (hex.match(/../g) as string[]).map((byte) => parseInt(byte, 16));

const SIZES = Array.from({ length: 12 }, (_, size) => size);

/** Tables K.3 to K.6. */
export const HUFFMAN: readonly HuffmanTable[] = [
  { id: 0x00, counts: [0, 1, 5, 1, 1, 1, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0], symbols: SIZES },
  {
    id: 0x10,
    counts: [0, 2, 1, 3, 3, 2, 4, 3, 5, 5, 4, 4, 0, 0, 1, 125],
    symbols: bytes(
      '01020300041105122131410613516107227114328191a1082342b1c11552d1f02433627282090a161718191a25262728292a3435363738393a43444546474849' +
        '4a535455565758595a636465666768696a737475767778797a838485868788898a92939495969798999aa2a3a4a5a6a7a8a9aab2b3b4b5b6b7b8b9bac2c3c4c5' +
        'c6c7c8c9cad2d3d4d5d6d7d8d9dae1e2e3e4e5e6e7e8e9eaf1f2f3f4f5f6f7f8f9fa',
    ),
  },
  { id: 0x01, counts: [0, 3, 1, 1, 1, 1, 1, 1, 1, 1, 1, 0, 0, 0, 0, 0], symbols: SIZES },
  {
    id: 0x11,
    counts: [0, 2, 1, 2, 4, 4, 3, 4, 7, 5, 4, 4, 0, 1, 2, 119],
    symbols: bytes(
      '000102031104052131061241510761711322328108144291a1b1c109233352f0156272d10a162434e125f11718191a262728292a35363738393a434445464748' +
        '494a535455565758595a636465666768696a737475767778797a82838485868788898a92939495969798999aa2a3a4a5a6a7a8a9aab2b3b4b5b6b7b8b9bac2c3' +
        'c4c5c6c7c8c9cad2d3d4d5d6d7d8d9dae2e3e4e5e6e7e8e9eaf2f3f4f5f6f7f8f9fa',
    ),
  },
];

/** Codes by what they stand for: the code times 32 plus its length (T.81, annex C). */
export function codesOf({ counts, symbols }: HuffmanTable): Uint32Array {
  const codes = new Uint32Array(256);
  let code = 0;
  let next = 0;
  counts.forEach((count, i) => {
    for (let k = 0; k < count; k += 1, next += 1, code += 1) codes[symbols[next] as number] = code * 32 + i + 1;
    code *= 2;
  });
  return codes;
}
