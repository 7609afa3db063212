import { FEW_TAPS, kernelHere, TILE_HEIGHT, TILE_WIDTH, TILE_WIDTH_WHOLE, type Kernel } from './kernel';
import { colourMap, sizeOfColour, type Apart } from './lateral';
import type { PositionMap } from './position-map';
import { CELL, inColours, isFine, resampleRows, samplesFor, widens, type ResampleRequest } from './resample';
import { hasAlpha, isWide, largestSample, type Source } from './raster';
import { behindOf, runTile, runTileInPlanes, runTileWhole } from './run-tile';
import { planTile, type Plan } from './tile-plan';
import {
  boxOf,
  DRAFT_GRID_LIMIT_PX,
  FINE_GRID_LIMIT_PX,
  GRID_LIMIT_PX,
  straight,
  warpGrid,
  type NodeBox,
  type WarpGrid,
} from './warp-grid';

/**
 * {@link resampleRows}, by the kernel in WebAssembly where there is one: positions from a {@link warpGrid}, weights of 512 phases in whole
 * numbers, or interpolated between 256 in floats. Within two 8-bit steps of the plain version; in light, of white noise, within eight.
 */
export function resampleRowsFast(request: ResampleRequest): Uint8Array | Uint16Array {
  const here = kernelHere();
  // floats would mix two pixels where their weights change over
  if (!here || (request.filter === 'nearest' && !inWholeNumbers(request))) return resampleRows(request);
  const { source, width, fromRow, toRow, outChannels } = request;
  const out = request.into ?? samplesFor(source, width * (toRow - fromRow) * outChannels);
  const tileWidth = inWholeNumbers(request) ? TILE_WIDTH_WHOLE : TILE_WIDTH;
  const tile = request.apart ? renderTileInColours : renderTile;
  for (let y = fromRow; y < toRow; y += TILE_HEIGHT)
    for (let x = 0; x < width; x += tileWidth)
      tile(here, request, out, x, y, Math.min(tileWidth, width - x), Math.min(TILE_HEIGHT, toRow - y));
  return out;
}

const limitOf = (request: ResampleRequest): number =>
  request.draft ? DRAFT_GRID_LIMIT_PX : isFine(request) ? FINE_GRID_LIMIT_PX : GRID_LIMIT_PX;

/** A tile of a source whose colours lie apart: by one grid and one window where the map is simple and the window lies inside it; else each by itself. */
function renderTileInColours(
  here: Kernel,
  request: ResampleRequest,
  out: Uint8Array | Uint16Array,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
): void {
  const { source, map, apart, width, fromRow, outChannels } = request;
  const grid =
    inWholeNumbers(request) && !hasAlpha(source) && apart ? warpGrid(map, x0, y0, columns, rows, limitOf(request), source, true) : null;
  if (grid && apart && !grid.seam && !grid.holes) {
    const box = boxOfColours(boxOf(grid), apart);
    // what is not widened is planned alike for all colours
    let alike: ReturnType<typeof planTile> = null;
    const passes = [0, 1, 2].flatMap((channel) => {
      const own = gridOfColour(grid, apart, channel);
      const planned = (): typeof alike =>
        planTile({ ...request, map: colourMap(map, apart, channel, source) }, own, x0, y0, columns, rows, box);
      const plan = widens(request) ? planned() : (alike ??= planned());
      return plan && plan !== 'beside' ? [{ grid: own, plan }] : [];
    });
    const first = passes[0]?.plan;
    if (first && isInside(first, source) && passes.length === 3 && passes.every(({ plan }) => isSameWindow(plan, first))) {
      if (first.mostTaps <= FEW_TAPS || columns <= TILE_WIDTH) return runTileInPlanes(here, request, passes, out, x0, y0, columns, rows);
      return inNarrowTiles(columns, (x, width) => renderTileInColours(here, request, out, x0 + x, y0, width, rows));
    }
  }
  const moved: PositionMap = (x, y, position) => map(x + x0, y, position);
  const part = { ...request, map: moved, width: columns, fromRow: y0, toRow: y0 + rows, into: undefined };
  const drawn = inColours(part, resampleRowsFast);
  const row = columns * outChannels;
  for (let j = 0; j < rows; j += 1) out.set(drawn.subarray(j * row, (j + 1) * row), ((y0 - fromRow + j) * width + x0) * outChannels);
}

/** Whether a plan's window lies in the source. */
const isInside = ({ left, top, width, height }: Plan, source: Source): boolean =>
  left >= 0 && top >= 0 && left + width <= source.width && top + height <= source.height;

/** Whether two plans take the same window, with as many taps at most. */
const isSameWindow = (a: Plan, b: Plan): boolean =>
  a.left === b.left && a.top === b.top && a.width === b.width && a.height === b.height && a.mostTaps === b.mostTaps;

/** A tile in parts of as many cells as there is room for tables of many taps. */
function inNarrowTiles(columns: number, draw: (x: number, width: number) => void): void {
  for (let x = 0; x < columns; x += TILE_WIDTH) draw(x, Math.min(TILE_WIDTH, columns - x));
}

/** Where one colour of a grid's positions lies. */
function gridOfColour(grid: WarpGrid, { lateral, meet }: Apart, channel: number): WarpGrid {
  const size = sizeOfColour(lateral, channel);
  if (size === 1) return grid;
  const [x0, y0] = meet;
  const nodes = new Float64Array(grid.nodes.length);
  for (let k = 0; k < nodes.length; k += 2) {
    nodes[k] = x0 + ((grid.nodes[k] as number) - x0) * size;
    nodes[k + 1] = y0 + ((grid.nodes[k + 1] as number) - y0) * size;
  }
  return { ...grid, nodes };
}

/** The least box about a box of the green image and what becomes of it in the others. */
function boxOfColours({ left, top, right, bottom }: NodeBox, { lateral, meet: [x0, y0] }: Apart): NodeBox {
  const sizes = [0, 1, 2].map((channel) => sizeOfColour(lateral, channel));
  const all = (from: number, v: number): number[] => sizes.map((size) => from + (v - from) * size);
  return {
    left: Math.min(...all(x0, left)),
    top: Math.min(...all(y0, top)),
    right: Math.max(...all(x0, right)),
    bottom: Math.max(...all(y0, bottom)),
  };
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
  const { map, source } = request;
  const whole = inWholeNumbers(request);
  const grid = warpGrid(map, x0, y0, columns, rows, limitOf(request), source, whole);
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
  } else if (plan && whole && plan !== 'beside' && plan.mostTaps > FEW_TAPS && columns > TILE_WIDTH) {
    inNarrowTiles(columns, (x, width) => renderTile(here, request, out, x0 + x, y0, width, rows, rim));
  } else if (grid && plan && plan !== 'beside' && whole) {
    runTileWhole(here, request, { grid, plan }, out, x0, y0, columns, rows);
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

/** Whether a picture can be done in whole numbers: opaque colour, or grey as that, with light or alpha only of 8 bits. */
const inWholeNumbers = ({ source, outChannels, light, filter }: ResampleRequest): boolean => {
  if (hasAlpha(source)) return !isWide(source);
  return (source.channels === 3 ? outChannels >= 3 : outChannels === 1) && (light !== 'linear' || filter === 'nearest' || !isWide(source));
};
