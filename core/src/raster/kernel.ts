import type { FilterName } from '../correction/schema';
import { FILTERS } from './filters';
import { KERNEL_BASE64 } from './kernel-bytes';

/** What kernel/assembly exports; pointers are byte offsets into its memory. */
export interface KernelExports {
  decode(
    from: number,
    fromStride: number,
    to: number,
    toStride: number,
    width: number,
    height: number,
    channels: number,
    wide: number,
  ): void;
  repeatBorder(
    first: number,
    stride: number,
    width: number,
    height: number,
    left: number,
    right: number,
    above: number,
    below: number,
  ): void;
  tile(
    window: number,
    windowStride: number,
    outStride: number,
    outChannels: number,
    outWide: number,
    alphaIn: number,
    hasBehind: number,
    r: number,
    g: number,
    b: number,
    left: number,
    top: number,
    right: number,
    bottom: number,
  ): void;
  cell(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    cx: number,
    cy: number,
    dx: number,
    dy: number,
    step: number,
    columns: number,
    rows: number,
    tapsX: number,
    tapsY: number,
    tableX: number,
    tableY: number,
    scratch: number,
    out: number,
    pixelBytes: number,
    tested: number,
  ): void;
}

/** The platform's WebAssembly, as far as it is used here: the computation knows neither the page's types nor Node's. */
declare const WebAssembly:
  | {
      readonly Module: new (bytes: Uint8Array) => object;
      readonly Memory: new (size: { initial: number }) => { readonly buffer: ArrayBuffer };
      readonly Instance: new (module: object, imports: object) => { readonly exports: unknown };
    }
  | undefined;
declare const atob: (text: string) => string;

/* Layout of the kernel's memory, bytes. */
export const SCRATCH = 65_536;
export const OUT = SCRATCH + 16_384;
export const TILE_WIDTH = 128;
export const TILE_HEIGHT = 64;
const OUT_BYTES = (TILE_WIDTH * 8 + 16) * TILE_HEIGHT;
export const WINDOW = OUT + OUT_BYTES;
export const PIXEL_BYTES = 16;
export const MOST_WINDOW_PX = 450_000;
/** Positions in the window have 13 bits before the point. */
export const MOST_WINDOW_SIDE = 8000;
export const STAGING = WINDOW + MOST_WINDOW_PX * PIXEL_BYTES;
const TABLES = STAGING + MOST_WINDOW_PX * 8 + 16;
const TABLE_BYTES = 6_000_000;
const PAGE = 65_536;

/** As in the kernel. */
const PHASES = 256;

export interface Kernel {
  readonly exports: KernelExports;
  readonly bytes: Uint8Array;
  readonly floats: Float32Array;
  /** By filter, then by widening and reach. */
  readonly tables: Readonly<Record<FilterName, Map<number, WeightTable>>>;
  freeTable: number;
}

export interface WeightTable {
  readonly taps: number;
  readonly at: number;
}

let kernel: Kernel | null | undefined;

/** The kernel of this thread, made when first asked for; null where WebAssembly with SIMD is missing. */
export function kernelHere(): Kernel | null {
  if (kernel !== undefined) return kernel;
  kernel = null;
  try {
    if (typeof WebAssembly === 'undefined') return null;
    const code = Uint8Array.from(atob(KERNEL_BASE64), (c) => c.charCodeAt(0));
    const memory = new WebAssembly.Memory({ initial: Math.ceil((TABLES + TABLE_BYTES) / PAGE) });
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(code), { env: { memory } });
    kernel = {
      exports: exports as KernelExports,
      bytes: new Uint8Array(memory.buffer),
      floats: new Float32Array(memory.buffer),
      tables: { bilinear: new Map(), bicubic: new Map(), mitchell: new Map(), lanczos3: new Map() },
      freeTable: TABLES,
    };
  } catch {
    // an old engine, or one that is forbidden to compile: the plain version does the work
  }
  return kernel;
}

/** Whether exports are resampled by the quick kernel here, or by the plain version. */
export const kernelName = (): 'simd' | 'plain' => (kernelHere() ? 'simd' : 'plain');

/**
 * Weights of a filter widened by a factor, in the kernel's memory: for each phase a row of 2 `reach` taps whose sum is one, padded to a
 * multiple of four.
 */
export function tableFor(here: Kernel, name: FilterName, widened: number, reach: number): WeightTable {
  const tables = here.tables[name];
  const key = widened * 1024 + reach;
  const known = tables.get(key);
  if (known) return known;
  const filter = FILTERS[name];
  const taps = 2 * reach;
  const row = (taps + 3) & ~3;
  const size = (PHASES + 1) * row * 4;
  if (here.freeTable + size > TABLES + TABLE_BYTES) {
    for (const old of Object.values(here.tables)) old.clear();
    here.freeTable = TABLES;
  }
  const table: WeightTable = { taps, at: here.freeTable };
  here.freeTable += size;
  for (let p = 0; p <= PHASES; p += 1) {
    const at = (table.at >> 2) + p * row;
    const weights = Array.from({ length: taps }, (_, k) => filter.weight((k - (reach - 1) - p / PHASES) / widened));
    const sum = weights.reduce((total, w) => total + w, 0);
    for (let k = 0; k < row; k += 1) here.floats[at + k] = k < taps ? (weights[k] as number) / sum : 0;
  }
  tables.set(key, table);
  return table;
}
