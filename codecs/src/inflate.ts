import { startWasm, WASM_PAGE, type WasmMemory } from '@able-plumb/core';
import { INFLATE_BASE64 } from './inflate-bytes';

/** What kernel/assembly/inflate.ts exports; pointers are byte offsets into its memory. */
interface InflateExports {
  inflate(from: number, to: number, out: number, outEnd: number): number;
}

interface Kernel {
  readonly exports: InflateExports;
  readonly memory: WasmMemory;
}

/** Longer pieces are the platform's, whose streams take a while to be made and are as quick then; bytes that come out. */
export const MOST_QUICK = 1 << 20;
/** Packed ones may be a little longer than what comes out. */
const MOST_PACKED = MOST_QUICK + 65_536;
/** Behind the kernel's tables. */
const PACKED = WASM_PAGE;
const OUT = PACKED + MOST_PACKED;
const PAGES = Math.ceil((OUT + MOST_QUICK) / WASM_PAGE) + 1;

let here: Kernel | null | undefined;
const kernel = (): Kernel | null => (here === undefined ? (here = startWasm<InflateExports>(INFLATE_BASE64, PAGES)) : here);

/**
 * Unpacks a short piece of zlib data (RFC 1950) at once.
 * @param most bytes that may come out
 * @returns what came out, its sum checked; null for a long piece, one that is not sound, one of which more comes out, and where WebAssembly
 *   is missing: the platform's stream then says what is to be said
 */
export function inflateShort(packed: Uint8Array, most: number): Uint8Array<ArrayBuffer> | null {
  if (most > MOST_QUICK || packed.length < 6 || packed.length > MOST_PACKED) return null;
  const kernelHere = kernel();
  if (!kernelHere) return null;
  const memory = new Uint8Array(kernelHere.memory.buffer);
  memory.set(packed, PACKED);
  const length = kernelHere.exports.inflate(PACKED, PACKED + packed.length, OUT, OUT + most);
  return length < 0 ? null : memory.slice(OUT, OUT + length);
}
