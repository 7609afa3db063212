import type { FilterName } from '../correction/schema';
import {
  CELL_BYTES,
  CELLS,
  curveFor,
  FEW_TAPS,
  makeRoom,
  NODES,
  OUT,
  OUT_PLANES,
  PAIRED_WIDTH,
  PAIRED_WIDTH_MANY,
  PIXEL_BYTES,
  PLANE_BYTES,
  SCRATCH,
  tableFor,
  wholeCurve,
  wholeTableFor,
  WINDOW,
  type CurveTables,
  type Kernel,
} from './kernel';
import { hasAlpha, isWide, largestSample } from './raster';
import { CELL, type ResampleRequest } from './resample';
import type { CellKernel, Plan } from './tile-plan';
import { fillWindow, fillWindowWhole, pairedColumns, planesOf, windowAsItLies, type AlphaForm, type WholeWindow } from './tile-window';
import type { WarpGrid } from './warp-grid';

/* Has the kernel draw a tile that is planned. */

/** A grid and what is planned for it. */
export interface Pass {
  readonly grid: WarpGrid;
  readonly plan: Plan;
}

/** Draws a tile in whole numbers: of colour, maybe with alpha, or of grey. */
export function runTileWhole(
  here: Kernel,
  request: ResampleRequest,
  pass: Pass,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { source } = request;
  const { grid, plan } = pass;
  const form = formOf(here, request);
  const { wide, curve, alpha } = form;
  const pixelBytes = form.samples << wide;
  const outStride = paddedRow(columns * pixelBytes);
  const direct = isDirect(plan, wide);
  const whole = fillWindowWhole(here, source, plan, curve?.light ?? 0, alpha);
  const grey = source.channels === 1;
  placeKernels(here, request.filter, plan, wide, grey);
  here.doubles.set(grid.nodes, NODES >> 3);
  // read and written out as one, interleaved in parts that stay near the processor
  const part = direct || grey ? columns : plan.mostTaps > FEW_TAPS ? PAIRED_WIDTH_MANY : PAIRED_WIDTH;
  for (let x = 0; x < columns; x += part) {
    const width = Math.min(part, columns - x);
    const [from, to] = part < columns ? columnsFor(grid, plan, x, x + width) : [-Infinity, Infinity];
    const window = grey
      ? (planesOf(here, whole, plan, wide, 1)[0] as WholeWindow)
      : direct
        ? whole
        : pairedColumns(here, whole, plan, wide, from, to);
    runPart(here, request, form, pass, window, x, width, columns, rows, OUT + x * pixelBytes, outStride, pixelBytes);
  }
  finish(here, request, form, out, outStride, x0, y0, columns, rows);
}

/**
 * Draws a tile of a source whose colours lie apart, in whole numbers.
 * @param passes for red, green and blue, with one window, which lies inside of the source
 */
export function runTileInPlanes(
  here: Kernel,
  request: ResampleRequest,
  passes: readonly Pass[],
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { outChannels, source } = request;
  const form = formOf(here, request);
  const { wide, curve } = form;
  const [{ plan: first }] = passes as [Pass];
  const windows = wide
    ? planesOf(here, fillWindowWhole(here, source, first, curve?.light ?? 0, null), first, wide, 3)
    : planesOf(here, windowAsItLies(here, source, first), first, wide, 3, 3);
  const stride = paddedRow(columns << wide);
  let placed: Plan | null = null;
  const planes = passes.map((pass, channel) => {
    const at = OUT_PLANES + channel * PLANE_BYTES;
    here.doubles.set(pass.grid.nodes, NODES >> 3);
    if (pass.plan !== placed) placeKernels(here, request.filter, pass.plan, wide, true);
    placed = pass.plan;
    runPart(here, request, form, pass, windows[channel] as WholeWindow, 0, columns, columns, rows, at, stride, 1 << wide);
    return at;
  }) as [number, number, number];
  const pixelBytes = outChannels << wide;
  const outStride = paddedRow(columns * pixelBytes);
  here.exports.joinPlanes(...planes, stride, OUT, outStride, columns, rows, pixelBytes, wide);
  finish(here, request, form, out, outStride, x0, y0, columns, rows);
}

/** How samples lie in the kernel's memory. */
interface Form {
  /** 1 for words. */
  readonly wide: 0 | 1;
  /** The curve by which samples of 8 bits are taken as words of their light; null for samples as they are. */
  readonly curve: CurveTables | null;
  /** Null where there is no alpha. */
  readonly alpha: AlphaForm | null;
  /** Samples of a pixel that is drawn. */
  readonly samples: number;
}

function formOf(here: Kernel, { light, filter, source, outChannels, background, draft }: ResampleRequest): Form {
  const nearest = filter === 'nearest';
  const curve = light === 'linear' && !nearest && !isWide(source) ? wholeCurve(here) : null;
  if (!hasAlpha(source)) return { wide: curve ? 1 : isWide(source), curve, alpha: null, samples: outChannels };
  // lobes of other filters need more room than a byte has
  const two = nearest || filter === 'bilinear';
  const inBytes = draft && two && !curve && source.channels === 4 && outChannels === 4 && background === 'transparent';
  const alpha: AlphaForm = { wide: inBytes ? 0 : 1, whole: nearest ? 1 : 0 };
  return { wide: alpha.wide, curve, alpha, samples: 4 };
}

/** From the kernel's memory into the result. */
function finish(
  here: Kernel,
  request: ResampleRequest,
  { curve, alpha }: Form,
  out: Uint8Array | Uint16Array,
  outStride: number,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { outChannels, source, background } = request;
  const stored = curve?.stored ?? 0;
  if (alpha?.wide) {
    const behind = background === 'transparent' ? 0 : 1;
    const colour = wordsBehind(here, request, curve);
    here.exports.storeAlpha(OUT, outStride, columns, rows, outChannels, behind, ...colour, stored, alpha.whole);
  } else if (alpha && !alpha.whole) here.exports.divideByAlpha(OUT, outStride, columns, rows);
  else if (curve) here.exports.storeLight(OUT, outStride, columns * outChannels, rows, outChannels === 4 ? 1 : 0, stored);
  copyOut(here, request, out, isWide(source), outStride, x0, y0, columns, rows);
}

/** The background as words: of light, or of samples of 8 bits as they are. */
const wordsBehind = (here: Kernel, request: ResampleRequest, curve: CurveTables | null): [number, number, number] =>
  // light lies in the kernel's memory less 32768, what is drawn does not
  behindOf(request).map((v) => (curve ? (here.words[(curve.light >> 1) + v] as number) + 0x8000 : 257 * v)) as [number, number, number];

/** Of two taps of 8 bits interleaving takes longer than it saves. */
const isDirect = ({ mostTaps }: Plan, wide: 0 | 1): boolean => mostTaps === 2 && !wide;

/** Has the kernel draw columns of a tile whose nodes and cells are in its memory. */
function runPart(
  here: Kernel,
  request: ResampleRequest,
  { wide, curve, alpha }: Form,
  { grid, plan }: Pass,
  window: WholeWindow,
  x: number,
  width: number,
  columns: number,
  rows: number,
  at: number,
  stride: number,
  pixelBytes: number,
): void {
  const { source, background } = request;
  const [r, g, b] = curve ? wordsBehind(here, request, curve) : behindOf(request);
  const none = background === 'transparent';
  // of one sample a pixel any number of them; what alpha leaves is laid over the background later
  const low = source.channels === 1 ? r * (wide ? 0x10001 : 0x1010101) : wide ? r | (g << 16) : r | (g << 8) | (b << 16) | (255 << 24);
  const high = source.channels === 1 ? low : b | (65535 << 16);
  const [nothing, nothingHigh] = alpha?.wide ? [NO_ALPHA, NO_ALPHA] : none ? [0, 0] : [low, high];
  here.exports.tileWhole(
    NODES,
    grid.columns,
    grid.rows,
    x / grid.step,
    grid.straightStep < grid.step ? 1 : 0,
    grid.step,
    width,
    rows,
    CELLS + (x / CELL) * CELL_BYTES,
    Math.ceil(columns / CELL),
    window.at,
    window.stride,
    window.left,
    plan.top,
    source.width,
    source.height,
    at,
    stride,
    pixelBytes,
    nothing,
    nothingHigh,
    wide,
  );
}

/** Two words of nothing where there is alpha, as the kernel has them. */
const NO_ALPHA = 0x4000_4000;

/** What the kernel calls two taps of a window of four bytes a pixel or of a plane, the nearest pixel of 16 bits, and two taps of a plane that are linear between pixels. */
const DIRECT = 0;
const NEAREST = 1;
const LINEAR = 3;
/** And other numbers of taps. */
const MANY = 5;

/** The kernels of a tile's cells, and the tables that they are looked up in, in the kernel's memory. */
function placeKernels(here: Kernel, filter: FilterName, plan: Plan, wide: 0 | 1, ofPlane: boolean): void {
  const { integers } = here;
  const direct = isDirect(plan, wide);
  makeRoom(here);
  let kernel: CellKernel | null = null;
  const nearest = wide === 1 && filter === 'nearest';
  let [taps, across, down, linear] = [0, 0, 0, false];
  let [tapsX, tapsY] = [0, 0];
  plan.cells.forEach((cell, k) => {
    if (cell !== kernel) {
      kernel = cell;
      ({ taps: tapsX, at: across } = wholeTableFor(here, filter, cell.wideX, cell.reachX, wide));
      linear = ofPlane && filter === 'bilinear' && cell.wideX === 1 && cell.wideY === 1;
      ({ taps: tapsY, at: down } = wholeTableFor(here, filter, cell.wideY, cell.reachY, wide));
      taps = Math.max(tapsX, tapsY) > FEW_TAPS ? MANY : tapsX;
    }
    const at = (CELLS >> 2) + 4 * k;
    integers[at] = direct ? (linear ? LINEAR : DIRECT) : nearest ? NEAREST : taps;
    integers[at + 1] = across;
    integers[at + 2] = down;
    integers[at + 3] = tapsX | (tapsY << 16);
  });
}

/** Columns of the source from which a part of a tile takes its taps. */
function columnsFor({ nodes, columns, step }: WarpGrid, { mostTaps, left }: Plan, from: number, to: number): readonly [number, number] {
  let [low, high] = [Infinity, -Infinity];
  const [first, last] = [from / step, Math.ceil(to / step)];
  for (let row = 0; row < nodes.length; row += 2 * columns) {
    for (let i = first; i <= last; i += 1) {
      const x = nodes[row + 2 * i] as number;
      if (x < low) low = x;
      if (x > high) high = x;
    }
  }
  // none, where no position of the part has an image
  if (low > high) return [left, left];
  return [Math.floor(low - 0.5) - mostTaps / 2, Math.floor(high - 0.5) + mostTaps / 2 + 2];
}

/** Bytes from row to row of a tile: the widest store of pixels runs over the end of its row. */
const paddedRow = (bytes: number): number => bytes + 32 - (bytes % 8);

/** From the kernel's memory into the result. */
function copyOut(
  here: Kernel,
  { outChannels, width, fromRow }: ResampleRequest,
  out: Uint8Array | Uint16Array,
  wide: 0 | 1,
  outStride: number,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const samples = wide ? new Uint16Array(here.bytes.buffer) : here.bytes;
  const [at, rowLength] = [OUT >> wide, outStride >> wide];
  for (let j = 0; j < rows; j += 1)
    out.set(
      samples.subarray(at + j * rowLength, at + j * rowLength + columns * outChannels),
      ((y0 - fromRow + j) * width + x0) * outChannels,
    );
}

export function runTile(
  here: Kernel,
  request: ResampleRequest,
  { step, columns: nodeColumns, nodes }: WarpGrid,
  plan: Plan,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { source, outChannels, filter } = request;
  const { exports } = here;
  const stride = plan.width * PIXEL_BYTES;
  const curve = request.light === 'linear' ? curveFor(here, largestSample(source)) : null;
  fillWindow(here, source, plan, curve?.light ?? 0);
  const wide = isWide(source);
  const pixelBytes = outChannels << wide;
  const outStride = paddedRow(columns * pixelBytes);
  const [r, g, b] = behindOf(request);
  exports.tile(
    WINDOW,
    stride,
    outStride,
    outChannels,
    wide,
    hasAlpha(source) ? 1 : 0,
    request.background === 'transparent' ? 0 : 1,
    r,
    g,
    b,
    curve?.light ?? 0,
    curve?.stored ?? 0,
    -0.5 - plan.left,
    -0.5 - plan.top,
    source.width - 0.5 - plan.left,
    source.height - 0.5 - plan.top,
  );
  const cellsAcross = Math.ceil(columns / CELL);
  const outside = (x: number, y: number): boolean => !(x >= 0 && y >= 0 && x <= source.width && y <= source.height);
  const [dx, dy] = [0.5 + plan.left, 0.5 + plan.top];
  for (let j = 0; j * step < rows; j += 1) {
    for (let i = 0; i * step < columns; i += 1) {
      const a = (j * nodeColumns + i) * 2;
      const c = a + 2 * nodeColumns;
      const [ax, ay, bx, by] = [nodes[a], nodes[a + 1], nodes[a + 2], nodes[a + 3]] as [number, number, number, number];
      const [cx, cy, ex, ey] = [nodes[c], nodes[c + 1], nodes[c + 2], nodes[c + 3]] as [number, number, number, number];
      const kernel = plan.cells[Math.floor((j * step) / CELL) * cellsAcross + Math.floor((i * step) / CELL)] as CellKernel;
      const across = tableFor(here, filter, kernel.wideX, kernel.reachX);
      const down = tableFor(here, filter, kernel.wideY, kernel.reachY);
      exports.cell(
        ax - dx,
        ay - dy,
        bx - dx,
        by - dy,
        cx - dx,
        cy - dy,
        ex - dx,
        ey - dy,
        step,
        Math.min(step, columns - i * step),
        Math.min(step, rows - j * step),
        across.taps,
        down.taps,
        across.at,
        down.at,
        SCRATCH,
        OUT + j * step * outStride + i * step * pixelBytes,
        pixelBytes,
        outside(ax, ay) || outside(bx, by) || outside(cx, cy) || outside(ex, ey) ? 1 : 0,
      );
    }
  }
  copyOut(here, request, out, wide, outStride, x0, y0, columns, rows);
}

/** Background as red, green, blue samples; zeros when there is none. */
export function behindOf({ background }: ResampleRequest): readonly [number, number, number] {
  if (background === 'transparent') return [0, 0, 0];
  const [r = 0, g = r, b = r] = background;
  return [r, g, b];
}
