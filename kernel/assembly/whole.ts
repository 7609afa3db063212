/*
 * The same in whole numbers: opaque colour, the bulk of all pictures, grey, and alpha of 8 bits. A pixel of the window is four samples (red, green, blue, alpha or opaque),
 * of 16 bits less 32768 where they are wide. Every two rows are interleaved, so that one multiplication of pairs takes both with their
 * weights; columns are summed first, exactly, then taken across in pairs of their upper halves: of 8 bits with 5 bits behind the point, of
 * 16 bits, whose filters reach beyond black and white, of half the samples' height.
 */

import { placeOf, POSITION_ONE } from './positions';
import { linearCell, planeRow } from './planes';
import { DIRECT, LINEAR, MANY, NEAREST, nearestAt, pixelAt, pixelOfMany } from './whole-pixel';

export const HALF_A_PHASE: i32 = 1 << 8;

/** Bits behind the point of a pixel's sum; half a step of it is in the window already ({@link HALF_A_STEP}). */
export const SUM_BITS: i32 = 19;
export const SUM_BITS_DIRECT: i32 = 20;

/**
 * Half a step of the result of 16 bits. Their weights sum to -2^15 both ways: columns are turned over, and cutting them off adds a whole
 * step on average, which is taken away.
 */
export const HALF_STEP_WIDE: i32 = -(1 << 13);
/** Bits behind the point of a sum of 16 bits. */
export const SUM_BITS_WIDE: i32 = 14;
/** What samples of 16 bits are less, as a word. */
export const LESS: i16 = -0x8000;

/** Bits by which the positions of rows and their steps are finer than positions. */
export const FINER: i64 = 16;
/** Source px in fine steps. */
@inline
function fine(px: f64): i64 {
  return <i64>(px * (POSITION_ONE * 65536.0));
}

export const HALF_FINE: i64 = 1 << 15;

/** A row's step and its change, through memory: the engine would work out again for every pixel what it can. */
const rowSteps: usize = memory.data(16, 16);

/* The cell that is drawn next: where its first row goes and from where to where it is drawn, in fine steps; what tells the tile. */
export let cellTo: usize = 0;
export let cellRowBytes: i32 = 0;
export let cellRows: i32 = 0;
export let cellX: i64 = 0;
export let cellY: i64 = 0;
export let cellDownX: i64 = 0;
export let cellDownY: i64 = 0;
export let cellAcrossX: i64 = 0;
export let cellAcrossY: i64 = 0;
export let cellTurnX: i64 = 0;
export let cellTurnY: i64 = 0;
/* How the steps change from pixel to pixel (and that from row to row), and from row to row: nothing where the cell is straight. */
export let cellBendX: i64 = 0;
export let cellBendY: i64 = 0;
export let cellBendTurnX: i64 = 0;
export let cellBendTurnY: i64 = 0;
export let cellDownBendX: i64 = 0;
export let cellDownBendY: i64 = 0;
export let cellTurnBendX: i64 = 0;
export let cellTurnBendY: i64 = 0;
export let cellBase: usize = 0;
export let cellTableX: usize = 0;
export let cellTableY: usize = 0;
/* Of many taps how many they are across and down. */
export let cellTapsX: i32 = 0;
export let cellTapsY: i32 = 0;
export let tileStride: i32 = 0;
export let tileOutStride: i32 = 0;
let tilePixelBytes: i32 = 0;
/** Whether a pixel is one sample, and the window a plane; bytes from column to column of the window as a shift. */
let tileIsPlane: bool = false;
let tileColumnShift: i32 = 4;
/* The picture's sides as positions in the window, and what is drawn beyond them. */
let tileLeft: i64 = 0;
let tileTop: i64 = 0;
let tileRight: i64 = 0;
let tileBottom: i64 = 0;
let tileNothing: u64 = 0;

/** The weighted sum of the taps of one pixel, of whatever number; the nearest one as it is. */
@inline
function sumAt(place: i64, taps: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  if (taps == NEAREST) return nearestAt(place, base, stride);
  if (taps == MANY) return pixelOfMany(place, cellTapsX, cellTapsY, base, stride, tableX, tableY);
  return pixelAt(place, taps, base, stride, tableX, tableY);
}

/** Stores a pixel, rounded and clamped. */
@inline
function putSum(to: usize, sum: v128, taps: i32, wide: bool): void {
  if (taps == NEAREST) v128.store64_lane(to, v128.xor(sum, i16x8.splat(LESS)), 0);
  else if (wide) {
    const whole = i32x4.shr_s(i32x4.add(sum, i32x4.splat(HALF_STEP_WIDE)), SUM_BITS_WIDE);
    v128.store64_lane(to, v128.xor(i16x8.narrow_i32x4_s(whole, whole), i16x8.splat(LESS)), 0);
  } else {
    const whole = taps == DIRECT ? i32x4.shr_s(i32x4.add(sum, i32x4.splat(1 << (SUM_BITS_DIRECT - 1))), SUM_BITS_DIRECT) : i32x4.shr_s(sum, SUM_BITS);
    const words = i16x8.narrow_i32x4_s(whole, whole);
    v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
  }
}

/** A cell whose pixels all lie inside the source; a row has one too many where their number is odd. */
@inline
function insideCell(taps: i32, wide: bool, bent: bool, plane: bool = false): void {
  const base = cellBase;
  const tableX = cellTableX;
  const tableY = cellTableY;
  const stride = tileStride;
  const pixelBytes = tilePixelBytes;
  const rowBytes = cellRowBytes;
  let fineX = cellX;
  let fineY = cellY;
  let downX = cellDownX;
  let downY = cellDownY;
  let acrossX = cellAcrossX;
  let acrossY = cellAcrossY;
  let turnX = cellTurnX;
  let turnY = cellTurnY;
  let bendX = cellBendX + HALF_FINE;
  let bendY = cellBendY + HALF_FINE;
  let rowTo = cellTo;
  for (let rows = cellRows; rows > 0; rows--) {
    let place = placeOf(fineX >> FINER, fineY >> FINER);
    store<i64>(rowSteps, placeOf(acrossX >> FINER, acrossY >> FINER));
    let step = load<i64>(rowSteps);
    store<i64>(rowSteps, placeOf(bendX >> FINER, bendY >> FINER), 8);
    const bend = load<i64>(rowSteps, 8);
    const end = rowTo + rowBytes;
    if (plane) planeRow(rowTo, end, place, step, bend, taps, wide);
    else {
      // two a turn, each stored by itself: what is on its way to memory keeps the loads behind it back, for which there are no registers
      let to = rowTo;
      do {
        putSum(to, sumAt(place, taps, base, stride, tableX, tableY), taps, wide);
        place += step;
        if (bent) step += bend;
        putSum(to + pixelBytes, sumAt(place, taps, base, stride, tableX, tableY), taps, wide);
        place += step;
        if (bent) step += bend;
        to += pixelBytes << 1;
      } while (to < end);
    }
    rowTo += tileOutStride;
    fineX += downX;
    fineY += downY;
    acrossX += turnX;
    acrossY += turnY;
    if (bent) {
      downX += cellDownBendX;
      downY += cellDownBendY;
      turnX += cellTurnBendX;
      turnY += cellTurnBendY;
      bendX += cellBendTurnX;
      bendY += cellBendTurnY;
    }
  }
}

/* Each a function of its own, and exported so that it stays one: only those that are used are compiled thoroughly. */
export function cellDirect(): void {
  insideCell(DIRECT, false, false);
}
export function cellDirectBent(): void {
  insideCell(DIRECT, false, true);
}
export function cell2(): void {
  insideCell(2, false, false);
}
export function cell2Bent(): void {
  insideCell(2, false, true);
}
export function cell4(): void {
  insideCell(4, false, false);
}
export function cell4Bent(): void {
  insideCell(4, false, true);
}
export function cell6(): void {
  insideCell(6, false, false);
}
export function cell6Bent(): void {
  insideCell(6, false, true);
}
export function cell8(): void {
  insideCell(8, false, false);
}
export function cell8Bent(): void {
  insideCell(8, false, true);
}
export function cell2Wide(): void {
  insideCell(2, true, false);
}
export function cell2WideBent(): void {
  insideCell(2, true, true);
}
export function cell4Wide(): void {
  insideCell(4, true, false);
}
export function cell4WideBent(): void {
  insideCell(4, true, true);
}
export function cell6Wide(): void {
  insideCell(6, true, false);
}
export function cell6WideBent(): void {
  insideCell(6, true, true);
}
export function cell8Wide(): void {
  insideCell(8, true, false);
}
export function cell8WideBent(): void {
  insideCell(8, true, true);
}

/* Of many taps a straight cell is bent by nothing. */
export function cellMany(): void {
  insideCell(MANY, false, true);
}
export function cellManyWide(): void {
  insideCell(MANY, true, true);
}
export function cellNearestWide(): void {
  insideCell(NEAREST, true, false);
}
export function cellNearestWideBent(): void {
  insideCell(NEAREST, true, true);
}

/* Of planes; of other taps than linear a straight cell is bent by nothing. */
export function planeDirect(): void {
  insideCell(DIRECT, false, true, true);
}
export function planeLinear(): void {
  linearCell(false);
}
export function planeLinearBent(): void {
  linearCell(true);
}
export function plane2(): void {
  insideCell(2, false, true, true);
}
export function plane4(): void {
  insideCell(4, false, true, true);
}
export function plane6(): void {
  insideCell(6, false, true, true);
}
export function plane8(): void {
  insideCell(8, false, true, true);
}
export function planeMany(): void {
  insideCell(MANY, false, true, true);
}
export function planeManyWide(): void {
  insideCell(MANY, true, true, true);
}
export function planeNearest(): void {
  insideCell(NEAREST, true, true, true);
}
export function plane2Wide(): void {
  insideCell(2, true, true, true);
}
export function plane4Wide(): void {
  insideCell(4, true, true, true);
}
export function plane6Wide(): void {
  insideCell(6, true, true, true);
}
export function plane8Wide(): void {
  insideCell(8, true, true, true);
}

/** Whether fine steps are whole pixels, to a millionth: over a cell that stays within half a phase. */
@inline
function isWholePx(steps: i64): bool {
  const one = <i64>POSITION_ONE << FINER;
  const millionth: i64 = 1 << 14;
  return ((steps + millionth) & (one - 1)) <= 2 * millionth;
}

/** Whether every pixel of a cell of 16 bits lies on one of the source, and the filters leave such a pixel as it is. */
function isUnmoved(taps: i32): bool {
  const halfAPhase = <i64>HALF_A_PHASE << FINER;
  const middle = reachOf(taps) << 1;
  return (
    load<i16>(cellTableX + middle) == -0x8000 &&
    load<i16>(cellTableY + middle) == -0x8000 &&
    isWholePx(cellX - halfAPhase) &&
    isWholePx(cellY - halfAPhase) &&
    isWholePx(cellAcrossX) &&
    isWholePx(cellAcrossY) &&
    isWholePx(cellDownX) &&
    isWholePx(cellDownY) &&
    isWholePx(cellTurnX) &&
    isWholePx(cellTurnY)
  );
}

/** Rows and columns of taps before the pixel that a position lies in. */
@inline
function reachOf(taps: i32): i32 {
  return taps < 2 ? 0 : (taps >> 1) - 1;
}

/** A cell of one sample a pixel, inside the source. */
function drawPlaneCell(taps: i32, wide: i32, bent: i32): void {
  if (wide) {
    if (taps == NEAREST) planeNearest();
    else if (taps == MANY) planeManyWide();
    else if (taps == 6) plane6Wide();
    else if (taps == 4) plane4Wide();
    else if (taps == 2) plane2Wide();
    else plane8Wide();
  } else if (taps == MANY) planeMany();
  else if (taps == 6) plane6();
  else if (taps == 4) plane4();
  else if (taps == LINEAR) bent ? planeLinearBent() : planeLinear();
  else if (taps == DIRECT) planeDirect();
  else if (taps == 2) plane2();
  else plane8();
}

function drawCell(taps: i32, wide: i32, bent: i32): void {
  if (wide) {
    if (taps == NEAREST && !tileIsPlane) bent ? cellNearestWideBent() : cellNearestWide();
    else if (taps == MANY && !tileIsPlane) cellManyWide();
    else if (taps != NEAREST && taps != MANY && !bent && isUnmoved(taps)) {
      const base = cellBase;
      const reach = reachOf(taps);
      cellBase += reach * tileStride + (reach << tileColumnShift);
      if (tileIsPlane) drawPlaneCell(NEAREST, 1, 0);
      else cellNearestWide();
      cellBase = base;
    } else if (tileIsPlane) drawPlaneCell(taps, 1, bent);
    else if (taps == 6) bent ? cell6WideBent() : cell6Wide();
    else if (taps == 4) bent ? cell4WideBent() : cell4Wide();
    else if (taps == 2) bent ? cell2WideBent() : cell2Wide();
    else bent ? cell8WideBent() : cell8Wide();
  } else if (tileIsPlane) drawPlaneCell(taps, 0, bent);
  else if (taps == MANY) cellMany();
  else if (taps == 6) bent ? cell6Bent() : cell6();
  else if (taps == 4) bent ? cell4Bent() : cell4();
  else if (taps == DIRECT) bent ? cellDirectBent() : cellDirect();
  else if (taps == 2) bent ? cell2Bent() : cell2();
  else bent ? cell8Bent() : cell8();
}

/**
 * Second differences of nodes along a line, of x or of y: what a cell of it takes, half of either node's; at the ends the next ones count.
 * @param at the cell's first node, `index` of `count` on the line; @param next bytes to the next one
 */
function bendOf(at: usize, next: i32, index: i32, count: i32): f64 {
  const first = at + (max(1, min(count - 2, index)) - index) * next;
  const last = at + (max(1, min(count - 2, index + 1)) - index) * next;
  return 0.5 * (secondAt(first, next) + secondAt(last, next));
}
@inline
function secondAt(at: usize, next: i32): f64 {
  return load<f64>(at - next) - 2 * load<f64>(at) + load<f64>(at + next);
}

/** A pixel of nothing; may run over into those after it. */
@inline
function emptyPixel(to: usize, wide: i32): void {
  if (wide) store<u64>(to, tileNothing);
  else store<u32>(to, <u32>tileNothing);
}

/** A cell where nothing of the picture shows. */
function emptyCell(columns: i32, wide: i32): void {
  for (let j = 0, row = cellTo; j < cellRows; j++, row += tileOutStride)
    for (let i = 0, to = row; i < columns; i++, to += tilePixelBytes) emptyPixel(to, wide);
}

/** Where a row of a cell comes after steps that change, counted as it is drawn. */
@inline
function fineAfter(steps: i32, first: i64, across: i64, bend: i64): i64 {
  const changes = <i64>((steps * (steps - 1)) >> 1);
  return ((first >> FINER) + <i64>steps * (across >> FINER) + changes * ((bend + HALF_FINE) >> FINER)) << FINER;
}

/**
 * Pixels of a row, from the cell's first one on. Of a cell's rows pixels too many may be drawn; where these would lie is not in the window when
 * the picture ends before them, and steps are large: what is left of a row there goes pixel by pixel, without a step.
 */
function drawRun(count: i32, taps: i32, wide: i32, bent: i32): void {
  const most = tileIsPlane ? 4 : 2;
  const together = count - (count & (most - 1));
  if (together > 0) {
    cellRowBytes = together * tilePixelBytes;
    drawCell(taps, wide, bent);
  }
  const to = cellTo;
  const firstX = cellX;
  const firstY = cellY;
  const acrossX = cellAcrossX;
  const acrossY = cellAcrossY;
  const bendX = cellBendX;
  const bendY = cellBendY;
  cellRowBytes = tilePixelBytes;
  cellAcrossX = cellAcrossY = cellBendX = cellBendY = 0;
  for (let i = together; i < count; i++) {
    cellTo = to + i * tilePixelBytes;
    cellX = fineAfter(i, firstX, acrossX, bendX);
    cellY = fineAfter(i, firstY, acrossY, bendY);
    drawCell(taps, wide, bent);
  }
  cellBendX = bendX;
  cellBendY = bendY;
}

/** A cell through which the picture's rim goes: each row from where the picture begins to where it ends, more than once where it is bent. */
function rimCell(columns: i32, taps: i32, wide: i32, bent: i32): void {
  const rows = cellRows;
  let rowX = cellX;
  let rowY = cellY;
  let acrossX = cellAcrossX;
  let acrossY = cellAcrossY;
  let rowTo = cellTo;
  cellRows = 1;
  for (let j = 0; j < rows; j++) {
    let fineX = rowX;
    let fineY = rowY;
    let stepX = acrossX;
    let stepY = acrossY;
    let drawnFrom = -1;
    for (let i = 0; i <= columns; i++) {
      const x = fineX >> FINER;
      const y = fineY >> FINER;
      const there = i < columns && x >= tileLeft && y >= tileTop && x <= tileRight && y <= tileBottom;
      if (there && drawnFrom < 0) {
        drawnFrom = i;
        cellX = fineX;
        cellY = fineY;
        cellAcrossX = stepX;
        cellAcrossY = stepY;
      } else if (!there && drawnFrom >= 0) {
        cellTo = rowTo + drawnFrom * tilePixelBytes;
        drawRun(i - drawnFrom, taps, wide, bent);
        drawnFrom = -1;
      }
      // after what was drawn before it, whose last store may have run over
      if (!there && i < columns) emptyPixel(rowTo + i * tilePixelBytes, wide);
      fineX += stepX;
      fineY += stepY;
      stepX += cellBendX;
      stepY += cellBendY;
    }
    rowX += cellDownX;
    rowY += cellDownY;
    cellDownX += cellDownBendX;
    cellDownY += cellDownBendY;
    acrossX += cellTurnX;
    acrossY += cellTurnY;
    cellTurnX += cellTurnBendX;
    cellTurnY += cellTurnBendY;
    cellBendX += cellBendTurnX;
    cellBendY += cellBendTurnY;
    rowTo += tileOutStride;
  }
}

/** So far beside the source nodes say that nothing between them is inside it, px. */
const SURELY: f64 = 0.01;

/**
 * Bends the cell to the second differences of the nodes about it, of 16 px apart; of x or, at 8 bytes on, of y.
 * Along a row at v (0 to 1 down the cell) u (u - 1) / 2 of them are added, linear from the row above to the row below; down likewise.
 * @param node the cell's first; @param line bytes a row of nodes; @param column, row its place of `columns`, `rows`
 * @returns how far from the straight cell positions may lie, px
 */
function bendCell(node: usize, line: i32, column: i32, columns: i32, row: i32, rows: i32, coordinate: i32): f64 {
  const at = node + coordinate;
  const above = bendOf(at, 16, column, columns);
  const below = bendOf(at + line, 16, column, columns);
  const left = bendOf(at, line, row, rows);
  const right = bendOf(at + 16, line, row, rows);
  // n (n - 1) / 2 of a step's change after n steps of a 16th
  const bend = fine(above) >> 8;
  const bendTurn = (fine(below) >> 8) - bend >> 4;
  const downBend = fine(left) >> 8;
  const turnBend = (fine(right) >> 8) - downBend >> 4;
  const down = -(15 * downBend >> 1);
  const across = -(15 * bend >> 1);
  const turn = -(15 * (turnBend + bendTurn) >> 1);
  if (coordinate == 0) {
    cellBendX = bend;
    cellBendTurnX = bendTurn;
    cellDownBendX = downBend;
    cellTurnBendX = turnBend;
    cellDownX += down;
    cellAcrossX += across;
    cellTurnX += turn;
  } else {
    cellBendY = bend;
    cellBendTurnY = bendTurn;
    cellDownBendY = downBend;
    cellTurnBendY = turnBend;
    cellDownY += down;
    cellAcrossY += across;
    cellTurnY += turn;
  }
  return 0.125 * (max(Math.abs(above), Math.abs(below)) + max(Math.abs(left), Math.abs(right)));
}

/**
 * Resamples a tile of an opaque picture.
 *
 * @param nodes positions at the corners of cells, x and y as f64, row by row, source px (pixel centres at halves); `nodeColumns` a row,
 *   `nodeRows` rows, of which the tile begins at column `firstNode`; not a number where there is no image: cells at such are left empty
 * @param bent 1 where positions between nodes, 16 px apart and at least four a row, follow their second differences too; 0: straight
 * @param step pixels from node to node; @param columns, rows the tile, px
 * @param kernels for each 16 px of the tile, row by row (`kernelColumns` a row), four i32: taps (2, 4, 6 or 8; 0 for 2 of a window of four bytes a pixel or of a plane, 3 for 2 of a plane that are linear; 1 for the nearest
 *   pixel of 16 bits), where its weights across and down lie, eight i16 for each of 512 phases, whose sum is 2^14, for wide samples -2^15;
 *   or 5 for many taps, of which the last i32 has the number across and, times 65536, down: as many i16 for each phase
 * @param window first pixel of the window, interleaved or, where all kernels have two taps of 8 bits, four bytes a pixel, or of a plane ({@link planePairs}); @param stride its bytes a row; @param left, top its first pixel in the source
 * @param width, height the source, px; @param out where the tile goes; @param pixelBytes bytes of a pixel there, three or four samples, or one of a plane
 * @param nothing, nothingHigh what empty pixels are, the latter the second half of wide ones; @param wideSamples 1 for 16 bits
 */
export function tileWhole(
  nodes: usize,
  nodeColumns: i32,
  nodeRows: i32,
  firstNode: i32,
  bent: i32,
  step: i32,
  columns: i32,
  rows: i32,
  kernels: usize,
  kernelColumns: i32,
  window: usize,
  stride: i32,
  left: i32,
  top: i32,
  width: i32,
  height: i32,
  out: usize,
  outStride: i32,
  pixelBytes: i32,
  nothing: u32,
  nothingHigh: u32,
  wideSamples: i32,
): void {
  const halvings = <i64>ctz(step);
  const shiftX: f64 = 0.5 + <f64>left;
  const shiftY: f64 = 0.5 + <f64>top;
  tileLeft = <i64>((-0.5 - <f64>left) * POSITION_ONE) + HALF_A_PHASE;
  tileTop = <i64>((-0.5 - <f64>top) * POSITION_ONE) + HALF_A_PHASE;
  tileRight = <i64>((<f64>width - shiftX) * POSITION_ONE) + HALF_A_PHASE;
  tileBottom = <i64>((<f64>height - shiftY) * POSITION_ONE) + HALF_A_PHASE;
  tileNothing = wideSamples ? <u64>nothing | (<u64>nothingHigh << 32) : <u64>nothing;
  tileStride = stride;
  tileOutStride = outStride;
  tilePixelBytes = pixelBytes;
  tileIsPlane = pixelBytes == 1 << wideSamples;
  tileColumnShift = tileIsPlane ? 2 : 4;
  // what is too many of a row must lie in the cell
  const roomy = step >= 4 || !tileIsPlane;
  if (!bent) {
    cellBendX = cellBendY = cellBendTurnX = cellBendTurnY = 0;
    cellDownBendX = cellDownBendY = cellTurnBendX = cellTurnBendY = 0;
  }
  for (let firstRow = 0; firstRow < rows; firstRow += step) {
    const nodeRow = firstRow / step;
    let nodeColumn = firstNode;
    for (let firstColumn = 0; firstColumn < columns; firstColumn += step, nodeColumn++) {
      const node = nodes + (nodeRow * nodeColumns + nodeColumn) * 16;
      const kernel = kernels + (((firstRow >> 4) * kernelColumns + (firstColumn >> 4)) << 4);
      const taps = load<i32>(kernel);
      cellTableX = <usize>load<i32>(kernel, 4);
      cellTableY = <usize>load<i32>(kernel, 8);
      cellTapsX = load<u16>(kernel, 12);
      cellTapsY = load<u16>(kernel, 14);
      cellBase = window - reachOf(taps == MANY ? cellTapsY : taps) * stride - (reachOf(taps == MANY ? cellTapsX : taps) << tileColumnShift);
      const below = node + nodeColumns * 16;
      const ax = load<f64>(node);
      const ay = load<f64>(node, 8);
      const bx = load<f64>(node, 16);
      const by = load<f64>(node, 24);
      const cx = load<f64>(below);
      const cy = load<f64>(below, 8);
      const dx = load<f64>(below, 16);
      const dy = load<f64>(below, 24);
      cellTo = out + firstRow * outStride + firstColumn * pixelBytes;
      cellRows = min(step, rows - firstRow);
      const columnsHere = min(step, columns - firstColumn);
      const lowX = min(min(ax, bx), min(cx, dx));
      const lowY = min(min(ay, by), min(cy, dy));
      const highX = max(max(ax, bx), max(cx, dx));
      const highY = max(max(ay, by), max(cy, dy));
      // a corner without an image is not a number
      if (lowX + lowY != lowX + lowY) {
        emptyCell(columnsHere, wideSamples);
        continue;
      }
      cellX = fine(ax - shiftX) + (<i64>HALF_A_PHASE << FINER);
      cellY = fine(ay - shiftY) + (<i64>HALF_A_PHASE << FINER);
      cellDownX = fine(cx - ax) >> halvings;
      cellDownY = fine(cy - ay) >> halvings;
      cellAcrossX = fine(bx - ax) >> halvings;
      cellAcrossY = fine(by - ay) >> halvings;
      cellTurnX = ((fine(dx - cx) >> halvings) - cellAcrossX) >> halvings;
      cellTurnY = ((fine(dy - cy) >> halvings) - cellAcrossY) >> halvings;
      // how far from what the corners span positions may lie
      let off: f64 = 0;
      if (bent) {
        const line = nodeColumns * 16;
        off = max(bendCell(node, line, nodeColumn, nodeColumns, nodeRow, nodeRows, 0), bendCell(node, line, nodeColumn, nodeColumns, nodeRow, nodeRows, 8));
      }
      if (roomy && lowX >= off && lowY >= off && highX <= <f64>width - off && highY <= <f64>height - off) {
        cellRowBytes = columnsHere * pixelBytes;
        drawCell(taps, wideSamples, bent);
        continue;
      }
      off += SURELY;
      if (highX < -off || highY < -off || lowX > <f64>width + off || lowY > <f64>height + off) emptyCell(columnsHere, wideSamples);
      else rimCell(columnsHere, taps, wideSamples, bent);
    }
  }
}
