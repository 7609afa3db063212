import type { FilterName } from '../correction/schema';
import { FILTERS } from './filters';
import { KERNEL_BASE64 } from './kernel-bytes';
import { startWasm, WASM_PAGE } from './start-wasm';
import { fromLight, lightOf, rootTable } from './transfer';

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
    light: number,
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
    light: number,
    stored: number,
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

/** The export that turns pictures. */
export interface TurnExports {
  gather(from: number, along: number, down: number, to: number, columns: number, rows: number, pixelBytes: number): void;
}

type DecodeWhole = (from: number, fromStride: number, to: number, toStride: number, width: number, height: number) => void;

/** The exports for opaque pictures, in whole numbers. */
export interface WholeExports {
  decode8: DecodeWhole;
  decode16: DecodeWhole;
  repeatBorderWhole(...args: [...Parameters<KernelExports['repeatBorder']>, wide: number]): void;
  pairRows: DecodeWhole;
  pairRows16: DecodeWhole;
  decodeGrey(...args: [...Parameters<DecodeWhole>, wide: number]): void;
  decodeLight(...args: [...Parameters<DecodeWhole>, channels: number, light: number]): void;
  multiplyByAlpha: DecodeWhole;
  divideByAlpha(first: number, stride: number, columns: number, rows: number): void;
  decodeAlpha(...args: [...Parameters<WholeExports['decodeLight']>, whole: number]): void;
  storeAlpha(
    first: number,
    stride: number,
    width: number,
    rows: number,
    channels: number,
    behind: number,
    red: number,
    green: number,
    blue: number,
    stored: number,
    whole: number,
  ): void;
  storeLight(first: number, stride: number, samples: number, rows: number, alpha: number, stored: number): void;
  planePairs(...args: [...Parameters<DecodeWhole>, planes: number, planeBytes: number, wide: number, samples: number]): void;
  joinPlanes(
    red: number,
    green: number,
    blue: number,
    stride: number,
    to: number,
    toStride: number,
    columns: number,
    rows: number,
    pixelBytes: number,
    wide: number,
  ): void;
  tileWhole(
    nodes: number,
    nodeColumns: number,
    nodeRows: number,
    firstNode: number,
    bent: number,
    step: number,
    columns: number,
    rows: number,
    kernels: number,
    kernelColumns: number,
    window: number,
    stride: number,
    left: number,
    top: number,
    width: number,
    height: number,
    out: number,
    outStride: number,
    pixelBytes: number,
    nothing: number,
    nothingHigh: number,
    wide: number,
  ): void;
}

/* Layout of the kernel's memory, bytes. */
export const SCRATCH = 65_536;
/** Nodes of a tile's warp grid, then the kernels of its cells. */
export const NODES = SCRATCH + 16_384;
export const CELLS = NODES + 550_000;
export const CELL_BYTES = 16;
export const OUT = CELLS + 16_384;
export const TILE_WIDTH = 128;
/** In whole numbers; and as much of it as is interleaved at a time. */
export const TILE_WIDTH_WHOLE = 512;
export const PAIRED_WIDTH = 128;
/** Of many taps, of which pixels lie farther apart in the source. */
export const PAIRED_WIDTH_MANY = 64;
export const TILE_HEIGHT = 64;
const OUT_BYTES = (TILE_WIDTH_WHOLE * 8 + 32) * TILE_HEIGHT;
/** Three colours that are drawn each by itself. */
export const OUT_PLANES = OUT + OUT_BYTES;
export const PLANE_BYTES = (TILE_WIDTH_WHOLE * 2 + 32) * TILE_HEIGHT;
export const WINDOW = OUT_PLANES + 3 * PLANE_BYTES;
export const PIXEL_BYTES = 16;
export const MOST_WINDOW_PX = 450_000;
/** Positions in the window have 13 bits before the point. */
export const MOST_WINDOW_SIDE = 8000;
export const STAGING = WINDOW + MOST_WINDOW_PX * PIXEL_BYTES + 64;
/** The window of four samples a pixel, before its rows are paired. */
export const SAMPLES = STAGING + MOST_WINDOW_PX * 8 + 64;
const TABLES = SAMPLES + MOST_WINDOW_PX * 8 + 64;
const TABLE_BYTES = 6_000_000;
/** As much room as the tables of one tile can need. */
const TILE_TABLE_BYTES = 2_000_000;
/** Transfer curves, for 8 and for 16 bits: beside the tables, which come and go. */
const CURVES = TABLES + TABLE_BYTES;
const CURVE_BYTES = 300_000;
/** The same in whole numbers: light of samples of 8 bits as words, and their samples. */
const LIGHT_WORDS = CURVES + 2 * CURVE_BYTES;
const LIGHT_STORED = LIGHT_WORDS + 2 * 256;

/** As in the kernel: for floats, and for whole numbers, whose weights sum to these for 8 and 16 bits; 2^15 itself is no word. */
const PHASES = 256;
const PHASES_WHOLE = 512;
const ONE8 = 16_384;
const ONE16 = -32_768;
/** Taps of a kernel in whole numbers that has as many across as down and a way of its own. */
export const FEW_TAPS = 8;

export interface Kernel {
  readonly exports: KernelExports & WholeExports & TurnExports;
  readonly bytes: Uint8Array;
  readonly floats: Float32Array;
  readonly doubles: Float64Array;
  readonly words: Int16Array;
  readonly integers: Int32Array;
  /** By filter, widening and reach. */
  readonly tables: Map<string, WeightTable>;
  readonly wholeTables: Map<string, WeightTable>;
  /** By the largest sample. */
  readonly curves: Map<number, CurveTables>;
  freeTable: number;
  /** Whether the curve is there in whole numbers. */
  light: boolean;
}

export interface WeightTable {
  readonly taps: number;
  readonly at: number;
}

let kernel: Kernel | null | undefined;

/** The kernel of this thread, made when first asked for; null where WebAssembly with SIMD is missing. */
export function kernelHere(): Kernel | null {
  if (kernel !== undefined) return kernel;
  const started = startWasm<Kernel['exports']>(KERNEL_BASE64, Math.ceil((LIGHT_STORED + 65_536) / WASM_PAGE));
  kernel = null;
  if (!started) return kernel;
  const { buffer } = started.memory;
  kernel = {
    exports: started.exports,
    bytes: new Uint8Array(buffer),
    floats: new Float32Array(buffer),
    doubles: new Float64Array(buffer),
    words: new Int16Array(buffer),
    integers: new Int32Array(buffer),
    tables: new Map(),
    wholeTables: new Map(),
    curves: new Map(),
    freeTable: TABLES,
    light: false,
  };
  return kernel;
}

/** Whether exports are resampled by the quick kernel here, or by the plain version. */
export const kernelName = (): 'simd' | 'plain' => (kernelHere() ? 'simd' : 'plain');

/** Before a tile: where too little room is left for its tables, all are made anew when they are asked for. */
export function makeRoom(here: Kernel, size = TILE_TABLE_BYTES): void {
  if (here.freeTable + size <= TABLES + TABLE_BYTES) return;
  here.tables.clear();
  here.wholeTables.clear();
  here.freeTable = TABLES;
}

/** Room for a table. */
function roomFor(here: Kernel, size: number): number {
  makeRoom(here, size);
  const at = here.freeTable;
  here.freeTable += size;
  return at;
}

/** Weights of 2 `reach` taps at a phase 0..1, whose sum is one. */
function weightsAt(name: FilterName, widened: number, reach: number, phase: number): readonly number[] {
  const weights = Array.from({ length: 2 * reach }, (_, k) => FILTERS[name].weight((k - (reach - 1) - phase) / widened));
  const sum = weights.reduce((total, w) => total + w, 0);
  return weights.map((w) => w / sum);
}

/**
 * Weights of a filter widened by a factor, in the kernel's memory: for each phase a row of 2 `reach` taps whose sum is one, padded to a
 * multiple of four.
 */
export function tableFor(here: Kernel, name: FilterName, widened: number, reach: number): WeightTable {
  const key = `${name} ${widened} ${reach}`;
  const known = here.tables.get(key);
  if (known) return known;
  const taps = 2 * reach;
  const row = (taps + 3) & ~3;
  const table: WeightTable = { taps, at: roomFor(here, (PHASES + 1) * row * 4) };
  for (let p = 0; p <= PHASES; p += 1) here.floats.set(weightsAt(name, widened, reach, p / PHASES), (table.at >> 2) + p * row);
  here.tables.set(key, table);
  return table;
}

/**
 * The same for pictures in whole numbers, i16 whose sum is exact: up to {@link FEW_TAPS} taps eight a phase, nothing beyond its taps; of more as many.
 */
export function wholeTableFor(here: Kernel, name: FilterName, widened: number, reach: number, wide: 0 | 1): WeightTable {
  const key = `${wide} ${name} ${widened} ${reach}`;
  const known = here.wholeTables.get(key);
  if (known) return known;
  const one = wide ? ONE16 : ONE8;
  const row = Math.max(FEW_TAPS, 2 * reach);
  const table: WeightTable = { taps: 2 * reach, at: roomFor(here, PHASES_WHOLE * row * 2) };
  for (let p = 0; p < PHASES_WHOLE; p += 1) {
    const weights = weightsAt(name, widened, reach, p / PHASES_WHOLE);
    const whole = weights.map((w) => Math.round(w * one));
    // what rounding leaves goes to the greatest, where it counts least
    const greatest = weights.indexOf(Math.max(...weights));
    whole[greatest] = (whole[greatest] as number) + one - whole.reduce((sum, w) => sum + w, 0);
    here.words.fill(0, (table.at >> 1) + p * row, (table.at >> 1) + (p + 1) * row);
    here.words.set(whole, (table.at >> 1) + p * row);
  }
  here.wholeTables.set(key, table);
  return table;
}

/** Where tables of the transfer curve lie: light of each sample, stored values over the root of the light. */
export interface CurveTables {
  readonly light: number;
  readonly stored: number;
}

/** The transfer curve in the kernel's memory, for samples up to `top`. */
export function curveFor(here: Kernel, top: number): CurveTables {
  const known = here.curves.get(top);
  if (known) return known;
  const [light, stored] = [lightOf(top), rootTable(top)];
  const at = CURVES + (top === 255 ? 0 : CURVE_BYTES);
  const tables: CurveTables = { light: at, stored: at + light.length * 4 };
  here.floats.set(light, tables.light >> 2);
  here.floats.set(stored, tables.stored >> 2);
  here.curves.set(top, tables);
  return tables;
}

/** The transfer curve in whole numbers: light of a sample of 8 bits as 16, the samples of light as such. */
export function wholeCurve(here: Kernel): CurveTables {
  if (!here.light) {
    here.words.set(
      lightOf(255).map((light) => Math.round(light * 257) - 0x8000),
      LIGHT_WORDS >> 1,
    );
    for (let light = 0; light < 65_536; light += 1) here.bytes[LIGHT_STORED + light] = Math.round(fromLight(light / 65_535) * 255);
    here.light = true;
  }
  return { light: LIGHT_WORDS, stored: LIGHT_STORED };
}
