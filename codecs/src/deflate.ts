import { startWasm, WASM_PAGE, type WasmMemory } from '@able-plumb/core';
import { joinBytes } from './bytes';
import { DEFLATE_BASE64 } from './deflate-bytes';

/** What kernel/assembly/deflate.ts exports; pointers are byte offsets into its memory. */
interface DeflateExports {
  adler(from: number, to: number, before: number): number;
  look(from: number, to: number, tokens: number, counts: number): number;
  write(tokens: number, count: number, codes: number): void;
  put(value: number, count: number): void;
  putTo(to: number): void;
  putEnd(): number;
  fillByte(): void;
}

interface Kernel {
  readonly exports: DeflateExports;
  readonly memory: WasmMemory;
}

/** Bytes that have codes of their own: few enough to differ from others, and many enough for these to be short. */
const BLOCK = 1 << 17;
/** Symbols of lengths and bytes, and of the lengths of codes (RFC 1951, 3.2.5 to 3.2.7). */
const [LENGTHS, CODE_LENGTHS] = [286, 19];
const END = 256;
const [MOST_BITS, MOST_CODE_BITS] = [15, 7];
/** The order in which lengths of the codes of code lengths come (3.2.7). */
const ORDER = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15];

/* Layout of the kernel's memory. */
const COUNTS = WASM_PAGE;
const CODES = COUNTS + 4 * LENGTHS;
const IN = CODES + 4 * LENGTHS;
const TOKENS = IN + BLOCK + 16;
const OUT = TOKENS + 4 * BLOCK;
const PAGES = Math.ceil((OUT + 2 * BLOCK + 4096) / WASM_PAGE);

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<DeflateExports>(DEFLATE_BASE64, PAGES)) : here);

/** Bytes that come to this share of themselves or more hold little that comes again. */
const NOISE_SHARE = 0.6;

/**
 * Whether bytes are mostly noise, as far as a piece from their middle says: {@link deflate} then takes a third of the time of the platform's,
 * which looks for what comes again, and is as short within some percent.
 */
export function isNoise(bytes: Uint8Array): boolean {
  const from = Math.max(0, (bytes.length - BLOCK) >> 1);
  const piece = bytes.subarray(from, from + BLOCK);
  return (deflate(piece)?.length ?? 0) >= NOISE_SHARE * piece.length;
}

/**
 * Packs bytes as zlib data (RFC 1950), looking for nothing that comes again but runs of one byte.
 * @returns null where WebAssembly is missing
 */
export function deflate(bytes: Uint8Array): Uint8Array<ArrayBuffer> | null {
  const kernelHere = kernel();
  if (!kernelHere) return null;
  const { exports, memory } = kernelHere;
  const inside = new Uint8Array(memory.buffer);
  const parts: Uint8Array<ArrayBuffer>[] = [Uint8Array.of(0x78, 0x01)];
  let sum = 1;
  for (let from = 0, last = false; !last; from += BLOCK) {
    const block = bytes.subarray(from, from + BLOCK);
    last = from + BLOCK >= bytes.length;
    inside.set(block, IN);
    sum = exports.adler(IN, IN + block.length, sum);
    exports.putTo(OUT);
    putBlock(kernelHere, block.length, last);
    if (last) exports.fillByte();
    parts.push(inside.slice(OUT, exports.putEnd()));
  }
  parts.push(Uint8Array.of(sum >>> 24, sum >>> 16, sum >>> 8, sum));
  return joinBytes(parts);
}

/** One block with codes of its own (3.2.7). */
function putBlock({ exports, memory }: Kernel, length: number, last: boolean): void {
  const words = new Uint32Array(memory.buffer);
  const counts = words.subarray(COUNTS >> 2, (COUNTS >> 2) + LENGTHS).fill(0);
  const tokens = exports.look(IN, IN + length, TOKENS, COUNTS);
  counts[END] = 1;
  const ofSymbols = codeLengths(counts, MOST_BITS);
  // the only distance is 1
  const lengths = [...ofSymbols, 1];
  const ofLengths = new Uint32Array(CODE_LENGTHS);
  for (const bits of lengths) ofLengths[bits] = (ofLengths[bits] as number) + 1;
  const lengthsOfThese = codeLengths(ofLengths, MOST_CODE_BITS);
  const codesOfThese = codesOf(lengthsOfThese);
  exports.put(last ? 1 : 0, 1);
  exports.put(2, 2);
  exports.put(LENGTHS - 257, 5);
  exports.put(0, 5);
  exports.put(CODE_LENGTHS - 4, 4);
  for (const symbol of ORDER) exports.put(lengthsOfThese[symbol] as number, 3);
  for (const bits of lengths) exports.put((codesOfThese[bits] as number) & 0xffff, lengthsOfThese[bits] as number);
  const codes = codesOf(ofSymbols);
  words.set(codes, CODES >> 2);
  exports.write(TOKENS, tokens, CODES);
  const end = codes[END] as number;
  exports.put(end & 0xffff, end >>> 16);
}

/** Lengths of the shortest codes for symbols that are needed so often (Huffman), none longer than so many bits. */
function codeLengths(counts: Uint32Array, most: number): number[] {
  const lengths = Array.from(counts, () => 0);
  const needed = Array.from(counts.keys()).filter((symbol) => counts[symbol]);
  if (needed.length === 1) lengths[needed[0] as number] = 1;
  if (needed.length < 2) return lengths;
  for (let shift = 0; ; shift += 1) {
    const leaves = needed
      .map((symbol) => ({ symbol, weight: (counts[symbol] as number) >> shift || 1 }))
      .sort((a, b) => a.weight - b.weight);
    // pairs come out in the order of their weights: two queues are enough
    const weights = leaves.map(({ weight }) => weight);
    const parents: number[] = [];
    let [leaf, pair] = [0, leaves.length];
    const lightest = (): number =>
      leaf < leaves.length && (pair >= weights.length || (weights[leaf] as number) <= (weights[pair] as number)) ? leaf++ : pair++;
    while (weights.length < 2 * leaves.length - 1) {
      const [a, b] = [lightest(), lightest()];
      parents[a] = parents[b] = weights.length;
      weights.push((weights[a] as number) + (weights[b] as number));
    }
    const depths: number[] = [];
    for (let node = weights.length - 1; node >= 0; node -= 1)
      depths[node] = node === weights.length - 1 ? 0 : (depths[parents[node] as number] as number) + 1;
    if (leaves.some((_, k) => (depths[k] as number) > most)) continue;
    leaves.forEach(({ symbol }, k) => (lengths[symbol] = depths[k] as number));
    return lengths;
  }
}

/** The codes of symbols whose codes have these lengths (3.2.2), first bit lowest, with 65536 times their lengths. */
function codesOf(lengths: readonly number[]): Uint32Array {
  const first: number[] = [];
  for (let bits = 1, code = 0; bits <= MOST_BITS; bits += 1) {
    first[bits] = code;
    code = (code + lengths.filter((length) => length === bits).length) << 1;
  }
  return Uint32Array.from(lengths, (bits) => {
    if (bits === 0) return 0;
    let code = first[bits] as number;
    first[bits] = code + 1;
    let turned = 0;
    for (let k = 0; k < bits; k += 1, code >>= 1) turned = (turned << 1) | (code & 1);
    return turned | (bits << 16);
  });
}
