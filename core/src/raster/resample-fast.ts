import {
  CELL_BYTES,
  CELLS,
  curveFor,
  kernelHere,
  makeRoom,
  MOST_TAPS_WHOLE,
  NODES,
  OUT,
  PAIRED_WIDTH,
  PIXEL_BYTES,
  SCRATCH,
  tableFor,
  TILE_HEIGHT,
  TILE_WIDTH,
  TILE_WIDTH_WHOLE,
  wholeTableFor,
  WINDOW,
  type Kernel,
} from './kernel';
import { hasAlpha, isWide, largestSample } from './raster';
import { CELL, isFine, resampleRows, samplesFor, type ResampleRequest } from './resample';
import { planTile, type CellKernel, type Plan } from './tile-plan';
import { fillWindow, fillWindowWhole, pairedColumns } from './tile-window';
import { DRAFT_GRID_LIMIT_PX, FINE_GRID_LIMIT_PX, GRID_LIMIT_PX, straight, warpGrid, type WarpGrid } from './warp-grid';

/**
 * {@link resampleRows}, by the kernel in WebAssembly where there is one: positions from a {@link warpGrid}, weights interpolated between
 * 256 phases, sums in 32-bit floats. Within two 8-bit steps of the plain version.
 */
export function resampleRowsFast(request: ResampleRequest): Uint8Array | Uint16Array {
  const here = kernelHere();
  // floats would mix two pixels where their weights change over
  if (!here || (request.filter === 'nearest' && !inWholeNumbers(request))) return resampleRows(request);
  const { source, width, fromRow, toRow, outChannels } = request;
  const out = request.into ?? samplesFor(source, width * (toRow - fromRow) * outChannels);
  const tileWidth = inWholeNumbers(request) ? TILE_WIDTH_WHOLE : TILE_WIDTH;
  for (let y = fromRow; y < toRow; y += TILE_HEIGHT)
    for (let x = 0; x < width; x += tileWidth)
      renderTile(here, request, out, x, y, Math.min(tileWidth, width - x), Math.min(TILE_HEIGHT, toRow - y));
  return out;
}

/** @param rim whether positions near the tile have no image */
function renderTile(
  here: Kernel,
  request: ResampleRequest,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
  rim = false,
): void {
  if (rim && showsNothing(request, x0, y0, columns, rows)) {
    fillNothing(request, out, x0, y0, columns, rows);
    return;
  }
  const { map, source, draft } = request;
  const whole = inWholeNumbers(request);
  const limit = draft ? DRAFT_GRID_LIMIT_PX : isFine(request) ? FINE_GRID_LIMIT_PX : GRID_LIMIT_PX;
  const grid = warpGrid(map, x0, y0, columns, rows, limit, source, whole);
  const plan = grid && !grid.seam && planTile(request, grid, x0, y0, columns, rows);
  if (grid?.seam) {
    const { from, to } = grid.seam;
    for (const [a, b] of [
      [0, from],
      [from, to],
      [to, columns],
    ] as const)
      if (b > a) renderTile(here, request, out, x0 + a, y0, b - a, rows, rim);
  } else if (grid && plan === 'beside') {
    fillNothing(request, out, x0, y0, columns, rows);
    if (grid.holes) fillHoles(request, grid, out, x0, y0, columns, rows);
  } else if (grid && plan && plan !== 'beside' && whole && plan.mostTaps <= MOST_TAPS_WHOLE) {
    runTileWhole(here, request, grid, plan, out, x0, y0, columns, rows);
    if (grid.holes) fillHoles(request, grid, out, x0, y0, columns, rows);
  } else if (grid && plan && plan !== 'beside' && !grid.holes) {
    runTile(here, request, straight(grid, columns, rows), plan, out, x0, y0, columns, rows);
  } else if (columns > CELL || rows > CELL) {
    // positions without an image, or too much source for the window: quarters
    const [w, h] = [half(columns), half(rows)];
    const quarter = (x: number, y: number, width: number, height: number): void => {
      if (width > 0 && height > 0) renderTile(here, request, out, x0 + x, y0 + y, width, height, rim || !grid || grid.holes);
    };
    quarter(0, 0, w, h);
    quarter(w, 0, columns - w, h);
    quarter(0, h, w, rows - h);
    quarter(w, h, columns - w, rows - h);
  } else {
    plainTile(request, out, x0, y0, columns, rows);
  }
}

/**
 * Whether a tile near positions without an image shows nothing of the source: it and a cell round it have no image (where that ends
 * it ends in long curves), or lie beside the source by more than two cells.
 */
function showsNothing({ map, source }: ResampleRequest, x0: number, y0: number, columns: number, rows: number): boolean {
  const p = new Float64Array(2);
  let [nearest, cell] = [Infinity, 0];
  for (let y = y0 - CELL; y <= y0 + rows + CELL; y += CELL) {
    let [lastX, lastY] = [NaN, NaN];
    for (let x = x0 - CELL; x <= x0 + columns + CELL; x += CELL) {
      const there = map(x + 0.5, y + 0.5, p);
      const [sx, sy] = there ? [p[0] as number, p[1] as number] : [NaN, NaN];
      if (there) nearest = Math.min(nearest, Math.max(-sx, sx - source.width, -sy, sy - source.height));
      if (nearest <= 1) return false;
      // of two neighbours without a position nothing is known
      cell = Math.max(cell, Math.abs(sx - lastX) || 0, Math.abs(sy - lastY) || 0);
      [lastX, lastY] = [sx, sy];
    }
  }
  return nearest === Infinity || (cell > 0 && nearest > 2 * cell);
}

/** Cells at whose corners there is no image: where something of the picture may show all the same, the plain version. */
function fillHoles(
  request: ResampleRequest,
  { step, columns: nodeColumns, rows: nodeRows, nodes }: WarpGrid,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const apart = CELL / step;
  const isHole = (i: number, j: number): boolean => {
    for (let b = j * apart; b <= Math.min(nodeRows - 1, (j + 1) * apart); b += 1)
      for (let a = i * apart; a <= Math.min(nodeColumns - 1, (i + 1) * apart); a += 1)
        if (Number.isNaN(nodes[(b * nodeColumns + a) * 2])) return true;
    return false;
  };
  for (let j = 0; j * CELL < rows; j += 1) {
    for (let i = 0; i * CELL < columns; i += 1) {
      if (!isHole(i, j)) continue;
      const [x, y] = [i * CELL, j * CELL];
      const [width, height] = [Math.min(CELL, columns - x), Math.min(CELL, rows - y)];
      if (!showsNothing(request, x0 + x, y0 + y, width, height)) plainTile(request, out, x0 + x, y0 + y, width, height);
    }
  }
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

/** Where positions of a cell have no image, or its window would be too large: the plain version. */
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

/** Whether a picture can be done in whole numbers, where the filter has few taps: opaque or multiplied, to colour, as stored. */
const inWholeNumbers = ({ source, outChannels, light, filter, multiplied }: ResampleRequest): boolean =>
  multiplied !== undefined || (source.channels === 3 && outChannels >= 3 && (light !== 'linear' || filter === 'nearest'));

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
  const { outChannels, filter, multiplied } = request;
  const source = multiplied ?? request.source;
  const { exports, integers } = here;
  const wide = isWide(source);
  // of two taps of 8 bits interleaving takes longer than it saves
  const direct = plan.mostTaps === 2 && !wide;
  here.doubles.set(grid.nodes, NODES >> 3);
  makeRoom(here);
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
    integers[at] = direct ? 0 : taps;
    integers[at + 1] = across;
    integers[at + 2] = down;
  });
  const pixelBytes = outChannels << wide;
  const outStride = paddedRow(columns * pixelBytes);
  const [r, g, b] = behindOf(request);
  const none = request.background === 'transparent';
  const low = wide ? r | (g << 16) : r | (g << 8) | (b << 16) | (255 << 24);
  const whole = fillWindowWhole(here, source, plan);
  const kernelColumns = Math.ceil(columns / CELL);
  // read and written out as one, interleaved in parts that stay near the processor
  const part = direct ? columns : PAIRED_WIDTH;
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
      OUT + x * pixelBytes,
      outStride,
      pixelBytes,
      none ? 0 : low,
      none ? 0 : b | (65535 << 16),
      wide,
    );
  }
  if (multiplied) exports.divideByAlpha(OUT, outStride, columns, rows);
  copyOut(here, request, out, wide, outStride, x0, y0, columns, rows);
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
function behindOf({ background }: ResampleRequest): readonly [number, number, number] {
  if (background === 'transparent') return [0, 0, 0];
  const [r = 0, g = r, b = r] = background;
  return [r, g, b];
}
