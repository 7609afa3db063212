import { startWasm, WASM_PAGE, type WasmMemory } from '@able-plumb/core';
import { UNPACK_BASE64 } from './unpack-bytes';

/** What kernel/assembly/unpack.ts exports; pointers are byte offsets into its memory. */
interface UnpackExports {
  inflate(from: number, to: number, out: number, outEnd: number): number;
  lzw(from: number, to: number, out: number, outEnd: number): number;
}

interface Kernel {
  readonly exports: UnpackExports;
  readonly memory: WasmMemory;
}

/** Longer pieces are the platform's, whose streams take a while to be made and are as quick then; bytes that come out. */
export const MOST_QUICK = 1 << 20;
/** Packed ones may be longer than what comes out: LZW of noise takes 12 bits for little more than a byte. */
const MOST_PACKED = 1.5 * MOST_QUICK + 65_536;
/** Behind the kernel's tables. */
const PACKED = WASM_PAGE;
const OUT = PACKED + MOST_PACKED;
const PAGES = Math.ceil((OUT + MOST_QUICK) / WASM_PAGE) + 1;

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<UnpackExports>(UNPACK_BASE64, PAGES)) : here);

/** The kernel's memory with a piece in it; null where that or what comes out does not fit. */
function roomFor(packed: Uint8Array, most: number): { readonly exports: UnpackExports; readonly bytes: Uint8Array<ArrayBuffer> } | null {
  if (most > MOST_QUICK || packed.length > MOST_PACKED) return null;
  const kernelHere = kernel();
  if (!kernelHere) return null;
  const bytes = new Uint8Array(kernelHere.memory.buffer);
  bytes.set(packed, PACKED);
  return { exports: kernelHere.exports, bytes };
}

/**
 * Unpacks a short piece of zlib data (RFC 1950) at once.
 * @param most bytes that may come out
 * @returns what came out, its sum checked; null for a long piece, one that is not sound, one of which more comes out, and where WebAssembly
 *   is missing: the platform's stream then says what is to be said
 */
export function inflateShort(packed: Uint8Array, most: number): Uint8Array<ArrayBuffer> | null {
  const memory = packed.length < 6 ? null : roomFor(packed, most);
  const length = memory ? memory.exports.inflate(PACKED, PACKED + packed.length, OUT, OUT + most) : -1;
  return memory && length >= 0 ? memory.bytes.slice(OUT, OUT + length) : null;
}

/**
 * Unpacks a short piece of LZW as TIFF writes it (TIFF 6.0, section 13) at once. Stops where `out` is full or the data end.
 * @returns bytes written; null, and nothing written, for a long piece, one with a code that was never given, and where WebAssembly is missing
 */
export function lzwShort(packed: Uint8Array, out: Uint8Array): number | null {
  const memory = roomFor(packed, out.length);
  const length = memory ? memory.exports.lzw(PACKED, PACKED + packed.length, OUT, OUT + out.length) : -1;
  if (!memory || length < 0) return null;
  out.set(memory.bytes.subarray(OUT, OUT + length));
  return length;
}
