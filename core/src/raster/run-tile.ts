import type { FilterName } from '../correction/schema';
import {
  CELL_BYTES,
  CELLS,
  curveFor,
  makeRoom,
  NODES,
  OUT,
  OUT_COLOUR,
  PAIRED_WIDTH,
  PIXEL_BYTES,
  SCRATCH,
  tableFor,
  wholeTableFor,
  WINDOW,
  type Kernel,
} from './kernel';
import { hasAlpha, isWide, largestSample } from './raster';
import { CELL, type ResampleRequest } from './resample';
import type { CellKernel, Plan } from './tile-plan';
import { fillWindow, fillWindowWhole, pairedColumns } from './tile-window';
import type { WarpGrid } from './warp-grid';

/* Has the kernel draw a tile that is planned. */

/**
 * Draws a tile in whole numbers.
 * @param passes one; or one for green, with alpha, and then for each colour that lies apart from it, all of them inside of the source, with one window
 */
export function runTileWhole(
  here: Kernel,
  request: ResampleRequest,
  passes: readonly { readonly channel: number; readonly grid: WarpGrid; readonly plan: Plan }[],
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { outChannels, multiplied } = request;
  const source = multiplied ?? request.source;
  const { exports } = here;
  const wide = isWide(source);
  const pixelBytes = outChannels << wide;
  const outStride = paddedRow(columns * pixelBytes);
  const [r, g, b] = behindOf(request);
  const none = request.background === 'transparent';
  const low = wide ? r | (g << 16) : r | (g << 8) | (b << 16) | (255 << 24);
  const [{ plan: first }] = passes as [(typeof passes)[0]];
  // of two taps of 8 bits interleaving takes longer than it saves
  const direct = first.mostTaps === 2 && !wide;
  const whole = fillWindowWhole(here, source, first);
  const kernelColumns = Math.ceil(columns / CELL);
  // read and written out as one, interleaved in parts that stay near the processor
  const part = direct ? columns : PAIRED_WIDTH;
  for (const [k, { channel, grid, plan }] of passes.entries()) {
    const at = k === 0 ? OUT : OUT_COLOUR;
    here.doubles.set(grid.nodes, NODES >> 3);
    placeKernels(here, request.filter, plan, wide, direct);
    for (let x = 0; x < columns; x += part) {
      const width = Math.min(part, columns - x);
      const [from, to] = direct ? [0, 0] : columnsFor(grid, plan, x, x + width);
      const window = direct ? whole : pairedColumns(here, whole, plan, wide, from, to);
      exports.tileWhole(
        NODES,
        grid.columns,
        grid.rows,
        x / grid.step,
        grid.straightStep < grid.step ? 1 : 0,
        grid.step,
        width,
        rows,
        CELLS + (x / CELL) * CELL_BYTES,
        kernelColumns,
        window.at,
        window.stride,
        window.left,
        plan.top,
        source.width,
        source.height,
        at + x * pixelBytes,
        outStride,
        pixelBytes,
        none ? 0 : low,
        none ? 0 : b | (65535 << 16),
        wide,
      );
    }
    if (k > 0) exports.takeColour(at, OUT, outStride, columns, rows, channel, pixelBytes, wide);
  }
  if (multiplied) exports.divideByAlpha(OUT, outStride, columns, rows);
  copyOut(here, request, out, wide, outStride, x0, y0, columns, rows);
}

/** What the kernel calls two taps of a window of four bytes a pixel, and the nearest pixel of 16 bits. */
const DIRECT = 0;
const NEAREST = 1;

/** The kernels of a tile's cells, and the tables that they are looked up in, in the kernel's memory. */
function placeKernels(here: Kernel, filter: FilterName, plan: Plan, wide: 0 | 1, direct: boolean): void {
  const { integers } = here;
  makeRoom(here);
  let kernel: CellKernel | null = null;
  const nearest = wide === 1 && filter === 'nearest';
  let [taps, across, down] = [0, 0, 0];
  plan.cells.forEach((cell, k) => {
    if (cell !== kernel) {
      kernel = cell;
      ({ taps, at: across } = wholeTableFor(here, filter, cell.wideX, cell.reachX, wide));
      ({ at: down } = wholeTableFor(here, filter, cell.wideY, cell.reachY, wide));
    }
    const at = (CELLS >> 2) + 4 * k;
    integers[at] = direct ? DIRECT : nearest ? NEAREST : taps;
    integers[at + 1] = across;
    integers[at + 2] = down;
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

/** Bytes from row to row of a tile: the widest store of a pixel runs over the end of its row. */
const paddedRow = (bytes: number): number => bytes + 16 - (bytes % 8);

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
