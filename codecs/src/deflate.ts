import { growTo, startWasm, WASM_PAGE, type WasmMemory } from '@able-plumb/core';
import { joinBytes } from './bytes';
import { DEFLATE_BASE64 } from './deflate-bytes';

/** What kernel/assembly/deflate.ts exports; pointers are byte offsets into its memory. */
interface DeflateExports {
  adler(from: number, to: number, before: number): number;
  look(from: number, to: number, tokens: number, counts: number, heads: number, chains: number): number;
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
/** Symbols of lengths and bytes, of distances, and of the lengths of codes (RFC 1951, 3.2.5 to 3.2.7). */
const [LENGTHS, DISTANCES, CODE_LENGTHS] = [286, 30, 19];
const END = 256;
const [MOST_BITS, MOST_CODE_BITS] = [15, 7];
/** The order in which lengths of the codes of code lengths come (3.2.7). */
const ORDER = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15];

/* Layout of the kernel's memory. */
const COUNTS = WASM_PAGE;
const CODES = COUNTS + 4 * (LENGTHS + DISTANCES);
const HEADS = CODES + 4 * (LENGTHS + DISTANCES);
const CHAINS = HEADS + 4 * (1 << 15);
const TOKENS = CHAINS + 4 * (1 << 15);
const OUT = TOKENS + 4 * BLOCK;
const IN = OUT + 2 * BLOCK + 4096;
/** Bytes beyond what goes in, which may be read. */
const BEYOND = 40;
const PAGES = Math.ceil((IN + BLOCK + BEYOND) / WASM_PAGE);

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<DeflateExports>(DEFLATE_BASE64, PAGES)) : here);

/** What begins zlib data (RFC 1950): windows of 32 kB, packed quickly. */
export const ZLIB_HEAD = Uint8Array.of(0x78, 0x01);
/** A last block with nothing in it (RFC 1951, 3.2.6). */
const EMPTY_LAST = Uint8Array.of(3, 0);
/** Sum of no bytes. */
export const NO_SUM: number = 1;

/** A part of zlib data that ends at a byte and is not its last. */
export interface PackedPart {
  readonly data: Uint8Array<ArrayBuffer>;
  /** Adler-32 of the bytes that went in (RFC 1950). */
  readonly sum: number;
}

/** What ends zlib data after parts. @param sum of all that went in */
export const zlibTail = (sum: number): Uint8Array => Uint8Array.of(...EMPTY_LAST, sum >>> 24, sum >>> 16, sum >>> 8, sum);

const ADLER = 65521;

/** The sum of bytes and of as many as `length` behind them, from the sums of both (RFC 1950, 8.2, for many bytes at once). */
export function joinSums(before: number, after: number, length: number): number {
  const [a, b] = [before & 0xffff, before >>> 16];
  const low = (a + (after & 0xffff) + ADLER - 1) % ADLER;
  // the first sum stood before every byte of the second
  const high = (b + (after >>> 16) + (length % ADLER) * ((a + ADLER - 1) % ADLER)) % ADLER;
  return ((high << 16) | low) >>> 0;
}

/** Packs bytes as zlib data (RFC 1950). */
export function deflate(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const { data, sum } = deflatePart(bytes);
  return joinBytes([ZLIB_HEAD, data, zlibTail(sum)]);
}

/** Packs bytes as a part of zlib data, which any thread can do by itself; stored as they are where WebAssembly is missing. */
export function deflatePart(bytes: Uint8Array): PackedPart {
  const kernelHere = kernel();
  if (!kernelHere) return storedPart(bytes);
  const { exports, memory } = kernelHere;
  growTo(memory, IN + bytes.length + BEYOND);
  const inside = new Uint8Array(memory.buffer);
  inside.set(bytes, IN);
  inside.fill(0, HEADS, CHAINS);
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const end = IN + bytes.length;
  for (let from = IN; from < end; from += BLOCK) {
    exports.putTo(OUT);
    putBlock(kernelHere, from, Math.min(end, from + BLOCK));
    // an empty stored block ends at a byte (RFC 1951, 3.2.4)
    if (from + BLOCK >= end) {
      exports.put(0, 3);
      exports.fillByte();
      exports.put(0xffff0000, 32);
    }
    parts.push(inside.slice(OUT, exports.putEnd()));
  }
  return { data: joinBytes(parts), sum: exports.adler(IN, end, NO_SUM) >>> 0 };
}

/** Most bytes of a stored block (RFC 1951, 3.2.4), and of those whose sums cannot run over. */
const STORED = 0xffff;
const SUMMED = 5552;

/** {@link deflatePart} of bytes as they are. */
export function storedPart(bytes: Uint8Array): PackedPart {
  const parts: Uint8Array[] = [];
  for (let from = 0; from < bytes.length; from += STORED) {
    const block = bytes.subarray(from, from + STORED);
    const n = block.length;
    parts.push(Uint8Array.of(0, n, n >> 8, ~n, ~n >> 8), block);
  }
  let [a, b] = [1, 0];
  for (let from = 0; from < bytes.length; from += SUMMED) {
    for (const byte of bytes.subarray(from, from + SUMMED)) b += a += byte;
    [a, b] = [a % ADLER, b % ADLER];
  }
  return { data: joinBytes(parts), sum: ((b << 16) | a) >>> 0 };
}

/** One block with codes of its own (3.2.7), not the last. */
function putBlock({ exports, memory }: Kernel, from: number, to: number): void {
  const words = new Uint32Array(memory.buffer);
  const counts = words.subarray(COUNTS >> 2, (COUNTS >> 2) + LENGTHS + DISTANCES).fill(0);
  const tokens = exports.look(from, to, TOKENS, COUNTS, HEADS, CHAINS);
  counts[END] = 1;
  const ofSymbols = codeLengths(counts.subarray(0, LENGTHS), MOST_BITS);
  const ofDistances = codeLengths(counts.subarray(LENGTHS), MOST_BITS);
  // one code at least (3.2.7)
  if (!ofDistances.some((bits) => bits > 0)) ofDistances[0] = 1;
  const lengths = [...ofSymbols, ...ofDistances];
  const ofLengths = new Uint32Array(CODE_LENGTHS);
  for (const bits of lengths) ofLengths[bits] = (ofLengths[bits] as number) + 1;
  const lengthsOfThese = codeLengths(ofLengths, MOST_CODE_BITS);
  const codesOfThese = codesOf(lengthsOfThese);
  exports.put(0, 1);
  exports.put(2, 2);
  exports.put(LENGTHS - 257, 5);
  exports.put(DISTANCES - 1, 5);
  exports.put(CODE_LENGTHS - 4, 4);
  for (const symbol of ORDER) exports.put(lengthsOfThese[symbol] as number, 3);
  for (const bits of lengths) exports.put((codesOfThese[bits] as number) & 0xffff, lengthsOfThese[bits] as number);
  const codes = codesOf(ofSymbols);
  words.set(codes, CODES >> 2);
  words.set(codesOf(ofDistances), (CODES >> 2) + LENGTHS);
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
