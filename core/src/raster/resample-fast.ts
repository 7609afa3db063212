import type { FilterName } from '../correction/schema';
import { FILTERS } from './filters';
import {
  CELLS,
  kernelHere,
  MOST_TAPS_WHOLE,
  MOST_WINDOW_PX,
  MOST_WINDOW_SIDE,
  NODES,
  OUT,
  PIXEL_BYTES,
  SAMPLES,
  SCRATCH,
  STAGING,
  tableFor,
  TILE_HEIGHT,
  TILE_WIDTH,
  TILE_WIDTH_WHOLE,
  wholeTableFor,
  WINDOW,
  type Kernel,
} from './kernel';
import type { Size } from '../picture/point';
import { hasAlpha, largestSample, type Raster } from './raster';
import { CELL, resampleRows, samplesFor, widened, widening, type ResampleRequest } from './resample';
import { DRAFT_GRID_LIMIT_PX, GRID_LIMIT_PX, warpGrid, type WarpGrid } from './warp-grid';

/**
 * {@link resampleRows}, by the kernel in WebAssembly where there is one: positions from a {@link warpGrid}, weights interpolated between
 * 256 phases, sums in 32-bit floats. Within two 8-bit steps of the plain version.
 */
export function resampleRowsFast(request: ResampleRequest): Uint8Array | Uint16Array {
  const here = kernelHere();
  if (!here) return resampleRows(request);
  const { source, width, fromRow, toRow, outChannels } = request;
  const out = request.into ?? samplesFor(source, width * (toRow - fromRow) * outChannels);
  const tileWidth = isOpaqueColour(request) ? TILE_WIDTH_WHOLE : TILE_WIDTH;
  for (let y = fromRow; y < toRow; y += TILE_HEIGHT)
    for (let x = 0; x < width; x += tileWidth)
      renderTile(here, request, out, x, y, Math.min(tileWidth, width - x), Math.min(TILE_HEIGHT, toRow - y));
  return out;
}

function renderTile(
  here: Kernel,
  request: ResampleRequest,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const grid = warpGrid(request.map, x0, y0, columns, rows, request.draft ? DRAFT_GRID_LIMIT_PX : GRID_LIMIT_PX);
  if (grid && misses(request.source, grid)) {
    fillNothing(request, out, x0, y0, columns, rows);
    return;
  }
  const plan = grid && planTile(request, grid, x0, y0, columns, rows);
  if (grid && plan) {
    const run = isOpaqueColour(request) && plan.mostTaps <= MOST_TAPS_WHOLE ? runTileWhole : runTile;
    run(here, request, grid, plan, out, x0, y0, columns, rows);
  } else if (grid && (columns > CELL || rows > CELL)) {
    // too much source for the window: quarters
    const [w, h] = [half(columns), half(rows)];
    renderTile(here, request, out, x0, y0, w, h);
    if (columns > w) renderTile(here, request, out, x0 + w, y0, columns - w, h);
    if (rows > h) renderTile(here, request, out, x0, y0 + h, w, rows - h);
    if (columns > w && rows > h) renderTile(here, request, out, x0 + w, y0 + h, columns - w, rows - h);
  } else {
    plainTile(request, out, x0, y0, columns, rows);
  }
}

/** Whether a tile lies wholly beside the source, its positions being monotone between the nodes to far less than a pixel. */
function misses({ width, height }: Size, { nodes }: WarpGrid): boolean {
  let [left, right, above, below] = [true, true, true, true];
  for (let k = 0; k < nodes.length; k += 2) {
    const [x, y] = [nodes[k] as number, nodes[k + 1] as number];
    left &&= x < -1;
    right &&= x > width + 1;
    above &&= y < -1;
    below &&= y > height + 1;
  }
  return left || right || above || below;
}

/** The background, where nothing of the picture shows; the result begins as zeros. */
function fillNothing(request: ResampleRequest, out: Uint8Array | Uint16Array, x0: number, y0: number, columns: number, rows: number): void {
  const { width, fromRow, outChannels, background, source } = request;
  if (background === 'transparent') return;
  const [r, g, b] = behindOf(request);
  const top = largestSample(source);
  const pixel = outChannels <= 2 ? [r, top] : [r, g, b, top];
  for (let j = 0; j < rows; j += 1) {
    const first = ((y0 - fromRow + j) * width + x0) * outChannels;
    for (let k = 0; k < columns * outChannels; k += 1) out[first + k] = pixel[k % outChannels] as number;
  }
}

/** Half a tile in whole cells. */
const half = (length: number): number => (length > CELL ? Math.ceil(length / 2 / CELL) * CELL : length);

/** Where positions have no image, or the window would be too large: the plain version. */
function plainTile(request: ResampleRequest, out: Uint8Array | Uint16Array, x0: number, y0: number, columns: number, rows: number): void {
  const { map, width, fromRow, outChannels } = request;
  const part = resampleRows({
    ...request,
    into: undefined,
    map: (x, y, into) => map(x + x0, y, into),
    width: columns,
    fromRow: y0,
    toRow: y0 + rows,
  });
  for (let j = 0; j < rows; j += 1)
    out.set(part.subarray(j * columns * outChannels, (j + 1) * columns * outChannels), ((y0 - fromRow + j) * width + x0) * outChannels);
}

/** A tile's window of the source and the kernels of its cells. */
interface Plan {
  /** First source pixel of the window and its size, px; may reach beyond the source, whose border is repeated there. */
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
  /** For each cell of 16 px, row by row: by how much the filter is widened across and down, and half the taps. */
  readonly cells: readonly CellKernel[];
  readonly mostTaps: number;
}

interface CellKernel {
  readonly wideX: number;
  readonly wideY: number;
  readonly reachX: number;
  readonly reachY: number;
}

/** Nodes along one axis about the middle of a cell, by index; none where the grid ends before. */
interface AboutMiddle {
  readonly low: number;
  readonly high: number;
  /** In the middle, or on both sides of it. */
  readonly middle: number;
  readonly middle2: number;
}

function aboutMiddles(length: number, step: number, count: number): (AboutMiddle | null)[] {
  return Array.from({ length: Math.ceil(length / CELL) }, (_, cell) => {
    const first = (cell * CELL) / step;
    if (step === CELL) return { low: first, high: first + 1, middle: first, middle2: first + 1 };
    const middle = first + CELL / 2 / step;
    return middle + 1 < count ? { low: middle - 1, high: middle + 1, middle, middle2: middle } : null;
  });
}

/** The kernels of a tile's cells, their widening taken from the grid's nodes about the cells' middles. */
function cellKernels(
  { map, filter, draft }: ResampleRequest,
  grid: WarpGrid,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): CellKernel[] {
  const { step, columns: nodeColumns, rows: nodeRows, nodes } = grid;
  if (draft) return Array<CellKernel>(Math.ceil(columns / CELL) * Math.ceil(rows / CELL)).fill(kernelOf(filter, 1, 1));
  const cells: CellKernel[] = [];
  const wide = new Float64Array(2);
  const node = (i: number, j: number, k: number): number => nodes[(j * nodeColumns + i) * 2 + k] as number;
  const [acrosses, downs] = [aboutMiddles(columns, step, nodeColumns), aboutMiddles(rows, step, nodeRows)];
  let last: CellKernel | null = null;
  for (let j = 0; j < downs.length; j += 1) {
    const y = downs[j];
    for (let i = 0; i < acrosses.length; i += 1) {
      const x = acrosses[i];
      if (x && y) {
        const [width, height] = [2 * step * (x.high - x.low), 2 * step * (y.high - y.low)];
        for (let k = 0; k < 2; k += 1)
          wide[k] = widened(
            (node(x.high, y.middle, k) - node(x.low, y.middle, k) + node(x.high, y.middle2, k) - node(x.low, y.middle2, k)) / width,
            (node(x.middle, y.high, k) - node(x.middle, y.low, k) + node(x.middle2, y.high, k) - node(x.middle2, y.low, k)) / height,
          );
      } else widening(map, x0 + i * CELL, y0 + j * CELL, wide);
      // neighbours mostly have the same kernel
      if (last?.wideX !== wide[0] || last?.wideY !== wide[1]) last = kernelOf(filter, wide[0] as number, wide[1] as number);
      cells.push(last as CellKernel);
    }
  }
  return cells;
}

function kernelOf(filter: FilterName, wideX: number, wideY: number): CellKernel {
  const { radius } = FILTERS[filter];
  const [reachX, reachY] = [Math.ceil(radius * wideX), Math.ceil(radius * wideY)];
  // up to eight taps the kernel is quicker when it has as many across as down
  const both = Math.max(reachX, reachY) <= MOST_TAPS_WHOLE / 2 ? Math.max(reachX, reachY) : 0;
  return { wideX, wideY, reachX: both || reachX, reachY: both || reachY };
}

/** @returns null when the window is larger than its memory or the kernel's positions */
function planTile(request: ResampleRequest, grid: WarpGrid, x0: number, y0: number, columns: number, rows: number): Plan | null {
  const { source } = request;
  const { nodes } = grid;
  const cells = cellKernels(request, grid, x0, y0, columns, rows);
  let [tapsX, tapsY] = [0, 0];
  for (const { reachX, reachY } of cells) {
    tapsX = Math.max(tapsX, 2 * reachX);
    tapsY = Math.max(tapsY, 2 * reachY);
  }
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < nodes.length; k += 2) {
    const [x, y] = [nodes[k] as number, nodes[k + 1] as number];
    left = Math.min(left, x);
    right = Math.max(right, x);
    top = Math.min(top, y);
    bottom = Math.max(bottom, y);
  }
  const range = (low: number, high: number, taps: number, length: number): readonly [number, number] => [
    Math.max(-taps, Math.floor(low - 0.5) - taps / 2),
    Math.min(length + taps, Math.floor(high - 0.5) + taps / 2 + 2),
  ];
  const [fromX, toX] = range(left, right, tapsX, source.width);
  const [fromY, toY] = range(top, bottom, tapsY, source.height);
  const [width, height] = [toX - fromX, toY - fromY];
  const farthest = Math.max(right - fromX, fromX - left, bottom - fromY, fromY - top);
  return width * height > MOST_WINDOW_PX || farthest > MOST_WINDOW_SIDE
    ? null
    : { left: fromX, top: fromY, width, height, cells, mostTaps: Math.max(tapsX, tapsY) };
}

/** Whether a picture can be done in whole numbers, where the filter has few taps: opaque, and to colour. */
const isOpaqueColour = ({ source, outChannels }: ResampleRequest): boolean =>
  outChannels >= 3 && (source.channels === 3 || (source.channels === 1 && largestSample(source) === 255));

const isWide = (source: Raster): 0 | 1 => (largestSample(source) === 65535 ? 1 : 0);

function runTileWhole(
  here: Kernel,
  request: ResampleRequest,
  grid: WarpGrid,
  plan: Plan,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { source, outChannels, filter } = request;
  const wide = isWide(source);
  fillWindowWhole(here, source, plan);
  here.doubles.set(grid.nodes, NODES >> 3);
  let kernel: CellKernel | null = null;
  let taps = 0;
  let across = 0;
  let down = 0;
  plan.cells.forEach((cell, k) => {
    if (cell !== kernel) {
      kernel = cell;
      ({ taps, across } = wholeTableFor(here, filter, cell.wideX, cell.reachX, wide));
      ({ down } = wholeTableFor(here, filter, cell.wideY, cell.reachY, wide));
    }
    const at = (CELLS >> 2) + 4 * k;
    here.integers[at] = taps;
    here.integers[at + 1] = across;
    here.integers[at + 2] = down;
  });
  const pixelBytes = outChannels << wide;
  const outStride = paddedRow(columns * pixelBytes);
  const [r, g, b] = behindOf(request);
  const none = request.background === 'transparent';
  const low = wide ? r | (g << 16) : r | (g << 8) | (b << 16) | (255 << 24);
  here.exports.tileWhole(
    NODES,
    grid.columns,
    grid.step,
    columns,
    rows,
    CELLS,
    Math.ceil(columns / CELL),
    WINDOW,
    plan.width * PIXEL_BYTES,
    plan.left,
    plan.top,
    source.width,
    source.height,
    OUT,
    outStride,
    pixelBytes,
    none ? 0 : low,
    none ? 0 : b | (65535 << 16),
    wide,
  );
  copyOut(here, request, out, wide, outStride, x0, y0, columns, rows);
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

function runTile(
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
  fillWindow(here, source, plan);
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
function behindOf({ background }: ResampleRequest): readonly [number, number, number] {
  if (background === 'transparent') return [0, 0, 0];
  const [r = 0, g = r, b = r] = background;
  return [r, g, b];
}

/** Copies the plan's part of the source into the kernel's memory. */
function stage({ bytes }: Kernel, { width, height, channels, data }: Raster, plan: Plan): Staged {
  const wide = data instanceof Uint16Array ? 1 : 0;
  const [x0, y0] = [Math.max(0, plan.left), Math.max(0, plan.top)];
  const [x1, y1] = [Math.min(width, plan.left + plan.width), Math.min(height, plan.top + plan.height)];
  const from = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const rowBytes = ((x1 - x0) * channels) << wide;
  for (let y = y0; y < y1; y += 1) {
    const at = ((y * width + x0) * channels) << wide;
    bytes.set(from.subarray(at, at + rowBytes), STAGING + (y - y0) * rowBytes);
  }
  return {
    rowBytes,
    columns: x1 - x0,
    rows: y1 - y0,
    left: x0 - plan.left,
    right: plan.left + plan.width - x1,
    above: y0 - plan.top,
    below: plan.top + plan.height - y1,
  };
}

/** What was copied, and how far the plan reaches beyond it: there the border is repeated. */
interface Staged {
  readonly rowBytes: number;
  readonly columns: number;
  readonly rows: number;
  readonly left: number;
  readonly right: number;
  readonly above: number;
  readonly below: number;
}

/** The plan's window as four floats a pixel. */
function fillWindow(here: Kernel, source: Raster, plan: Plan): void {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const stride = plan.width * PIXEL_BYTES;
  const first = WINDOW + above * stride + left * PIXEL_BYTES;
  here.exports.decode(STAGING, rowBytes, first, stride, columns, rows, source.channels, isWide(source));
  here.exports.repeatBorder(first, stride, columns, rows, left, right, above, below);
}

/** The plan's window as four samples a pixel, every two rows interleaved. */
function fillWindowWhole(here: Kernel, source: Raster, plan: Plan): void {
  const { rowBytes, columns, rows, left, right, above, below } = stage(here, source, plan);
  const { exports } = here;
  const wide = isWide(source);
  const pixelBytes = 4 << wide;
  // an even number of pixels keeps wide ones from writing into the next row's first
  const stride = (plan.width + (plan.width & 1)) * pixelBytes;
  const first = SAMPLES + above * stride + left * pixelBytes;
  if (wide) exports.decode16(STAGING, rowBytes, first, stride, columns, rows);
  else exports.decode8(STAGING, rowBytes, first, stride, columns, rows, source.channels);
  exports.repeatBorderWhole(first, stride, columns, rows, left, right, above, below, wide);
  const pair = wide ? exports.pairRows16 : exports.pairRows;
  pair(SAMPLES, stride, WINDOW, plan.width * PIXEL_BYTES, plan.width, plan.height - 1);
}
