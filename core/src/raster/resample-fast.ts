import { FILTERS } from './filters';
import {
  kernelHere,
  MOST_WINDOW_PX,
  MOST_WINDOW_SIDE,
  OUT,
  PIXEL_BYTES,
  SCRATCH,
  STAGING,
  tableFor,
  TILE_HEIGHT,
  TILE_WIDTH,
  WINDOW,
  type Kernel,
  type WeightTable,
} from './kernel';
import { hasAlpha, largestSample, type Raster } from './raster';
import { resampleRows, widening, type ResampleRequest } from './resample';
import { warpGrid, type WarpGrid } from './warp-grid';

/** Cells for which one widening holds, as in the plain version. */
const CELL = 16;

/**
 * {@link resampleRows}, by the kernel in WebAssembly where there is one: positions from a {@link warpGrid}, weights interpolated between
 * 256 phases, sums in 32-bit floats. Within two 8-bit steps of the plain version.
 */
export function resampleRowsFast(request: ResampleRequest): Uint8Array | Uint16Array {
  const here = kernelHere();
  if (!here) return resampleRows(request);
  const { source, width, fromRow, toRow, outChannels } = request;
  const length = width * (toRow - fromRow) * outChannels;
  const out = largestSample(source) === 255 ? new Uint8Array(length) : new Uint16Array(length);
  for (let y = fromRow; y < toRow; y += TILE_HEIGHT)
    for (let x = 0; x < width; x += TILE_WIDTH)
      renderTile(here, request, out, x, y, Math.min(TILE_WIDTH, width - x), Math.min(TILE_HEIGHT, toRow - y));
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
  const grid = warpGrid(request.map, x0, y0, columns, rows);
  const plan = grid && planTile(here, request, grid, x0, y0, columns, rows);
  if (grid && plan) {
    runTile(here, request, grid, plan, out, x0, y0, columns, rows);
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

/** Half a tile in whole cells. */
const half = (length: number): number => (length > CELL ? Math.ceil(length / 2 / CELL) * CELL : length);

/** Where positions have no image, or the window would be too large: the plain version. */
function plainTile(request: ResampleRequest, out: Uint8Array | Uint16Array, x0: number, y0: number, columns: number, rows: number): void {
  const { map, width, fromRow, outChannels } = request;
  const part = resampleRows({ ...request, map: (x, y, into) => map(x + x0, y, into), width: columns, fromRow: y0, toRow: y0 + rows });
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
  /** For each cell of 16 px, row by row: the kernel across and down. */
  readonly kernels: readonly (readonly [WeightTable, WeightTable])[];
}

/** @returns null when the window is larger than its memory or the kernel's positions, or misses the source */
function planTile(
  here: Kernel,
  { source, map, filter }: ResampleRequest,
  { nodes }: WarpGrid,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): Plan | null {
  const wide = new Float64Array(2);
  const kernels: (readonly [WeightTable, WeightTable])[] = [];
  let [tapsX, tapsY] = [0, 0];
  const reach = FILTERS[filter].radius;
  for (let j = 0; j < rows; j += CELL) {
    for (let i = 0; i < columns; i += CELL) {
      widening(map, x0 + i + CELL / 2, y0 + j + CELL / 2, wide);

      const [reachX, reachY] = [Math.ceil(reach * (wide[0] as number)), Math.ceil(reach * (wide[1] as number))];
      // up to eight taps the kernel is quicker when it has as many across as down
      const both = Math.max(reachX, reachY) <= 4 ? Math.max(reachX, reachY) : 0;
      const across = tableFor(here, filter, wide[0] as number, both || reachX);
      const down = tableFor(here, filter, wide[1] as number, both || reachY);
      tapsX = Math.max(tapsX, across.taps);
      tapsY = Math.max(tapsY, down.taps);
      kernels.push([across, down]);
    }
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
  const missed = toX <= 0 || toY <= 0 || fromX >= source.width || fromY >= source.height;
  const farthest = Math.max(right - fromX, fromX - left, bottom - fromY, fromY - top);
  return missed || width * height > MOST_WINDOW_PX || farthest > MOST_WINDOW_SIDE
    ? null
    : { left: fromX, top: fromY, width, height, kernels };
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
  const { source, outChannels, width, fromRow } = request;
  const { exports } = here;
  const stride = plan.width * PIXEL_BYTES;
  fillWindow(here, source, plan, stride);
  const wide = largestSample(source) === 65535 ? 1 : 0;
  const pixelBytes = outChannels << wide;
  // the widest store of a pixel runs over the end of its row
  const outStride = columns * pixelBytes + 16 - ((columns * pixelBytes) % 8);
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
      const [across, down] = plan.kernels[Math.floor((j * step) / CELL) * cellsAcross + Math.floor((i * step) / CELL)] as [
        WeightTable,
        WeightTable,
      ];
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
  const samples = wide ? new Uint16Array(here.bytes.buffer) : here.bytes;
  const [at, rowLength] = [OUT >> wide, outStride >> wide];
  for (let j = 0; j < rows; j += 1)
    out.set(
      samples.subarray(at + j * rowLength, at + j * rowLength + columns * outChannels),
      ((y0 - fromRow + j) * width + x0) * outChannels,
    );
}

/** Background as red, green, blue samples; zeros when there is none. */
function behindOf({ background }: ResampleRequest): readonly [number, number, number] {
  if (background === 'transparent') return [0, 0, 0];
  const [r = 0, g = r, b = r] = background;
  return [r, g, b];
}

/** Copies the plan's part of the source into the kernel's memory, decodes it and repeats the border where the plan reaches beyond. */
function fillWindow({ exports, bytes }: Kernel, { width, height, channels, data }: Raster, plan: Plan, stride: number): void {
  const wide = data instanceof Uint16Array ? 1 : 0;
  const [x0, y0] = [Math.max(0, plan.left), Math.max(0, plan.top)];
  const [x1, y1] = [Math.min(width, plan.left + plan.width), Math.min(height, plan.top + plan.height)];
  const samples = (x1 - x0) * channels;
  const from = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const rowBytes = samples << wide;
  for (let y = y0; y < y1; y += 1) {
    const at = ((y * width + x0) * channels) << wide;
    bytes.set(from.subarray(at, at + rowBytes), STAGING + (y - y0) * rowBytes);
  }
  const first = WINDOW + (y0 - plan.top) * stride + (x0 - plan.left) * PIXEL_BYTES;
  exports.decode(STAGING, rowBytes, first, stride, x1 - x0, y1 - y0, channels, wide);
  exports.repeatBorder(
    first,
    stride,
    x1 - x0,
    y1 - y0,
    x0 - plan.left,
    plan.left + plan.width - x1,
    y0 - plan.top,
    plan.top + plan.height - y1,
  );
}
