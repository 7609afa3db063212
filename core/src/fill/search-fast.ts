import { growTo, startWasm, type WasmMemory } from '../raster/start-wasm';
import type { Level } from './level';
import { SEARCH_BASE64 } from './search-bytes';
import { plainSearch, waysOf, type Search } from './search';

/** What kernel/assembly/fill.ts exports; pointers are byte offsets into its memory. */
interface SearchExports {
  lay(
    pixels: number,
    matches: number,
    far: number,
    shifts: number,
    marks: number,
    width: number,
    height: number,
    up: number,
    aside: number,
  ): void;
  measure(targets: number, count: number): void;
  search(targets: number, count: number, forward: number, seed: number, radius: number, mirrors: number): number;
}

let here: { readonly exports: SearchExports; readonly memory: WasmMemory } | null = null;

/** Before the first array: nothing lies at 0. A patch at a picture's end is read a little beyond it. */
const MARGIN = 64;

/** The search of {@link plainSearch} by WebAssembly where there is one; the same to the bit. */
export function search(level: Level, seed: number): Search {
  here ??= startWasm<SearchExports>(SEARCH_BASE64, 2);
  if (!here) return plainSearch(level, seed);
  const { memory, exports } = here;
  const { width, height, pixels, field, distances, biases, flags, targets } = level;
  const { climb, stray } = waysOf(level);
  const count = width * height;
  let end = MARGIN;
  const room = (bytes: number): number => {
    const at = end;
    end += (bytes + MARGIN + 15) & ~15;
    return at;
  };
  const at = {
    pixels: room(count * 4),
    field: room(count * 4),
    distances: room(count * 4),
    biases: room(count * 4),
    flags: room(count),
    targets: room(targets.length * 4),
  };
  growTo(memory, end);
  new Uint8Array(memory.buffer).set(pixels, at.pixels);
  new Uint8Array(memory.buffer).set(flags, at.flags);
  const words = (place: number, length: number): Int32Array => new Int32Array(memory.buffer, place, length);
  words(at.field, count).set(field);
  words(at.targets, targets.length).set(targets);
  exports.lay(at.pixels, at.field, at.distances, at.biases, at.flags, width, height, climb, stray);
  let state = seed >>> 0 || 1;
  return {
    measure: () => exports.measure(at.targets, targets.length),
    round: (forward, radius, mirrors) => {
      state = exports.search(at.targets, targets.length, forward ? 1 : 0, state, radius, mirrors ? 1 : 0) >>> 0;
    },
    read() {
      field.set(words(at.field, count));
      distances.set(words(at.distances, count));
      biases.set(words(at.biases, count));
    },
    write: () => new Uint8Array(memory.buffer).set(pixels, at.pixels),
  };
}
