/*
 * Opaque colour, the bulk of all pictures: the same in whole numbers. A pixel of the window is four samples (red, green, blue, nothing), of
 * 16 bits less 32768 where they are wide. Every two rows are interleaved, so that one multiplication of pairs takes both with their
 * weights; columns are summed first, exactly, then taken across: of 8 bits in pairs with 6 bits behind the point, of 16 bits in floats.
 */

import { POSITION_BITS, POSITION_ONE } from './positions';

const HALF_A_PHASE: i32 = 1 << 8;
/** Of 512 phases, bytes from one's weights to the next's as a shift: eight of 16 bits, or eight floats. */
const WEIGHTS: i32 = 4;
const WEIGHTS_FLOAT: i32 = 5;
/** From a position to its phase. */
const TO_PHASE: i32 = 9;

/** {@link decode} for RGB of 8 bits into four bytes a pixel; reads up to 16 bytes beyond the last sample. */
export function decode8(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = q + (width << 2);
    for (; q + 16 <= end; q += 16, p += 12)
      v128.store(q, i8x16.swizzle(v128.load(p), i8x16(0, 1, 2, -1, 3, 4, 5, -1, 6, 7, 8, -1, 9, 10, 11, -1)));
    for (; q < end; q += 4, p += 3) store<u32>(q, load<u32>(p));
  }
}

/** {@link decode} for RGB of 16 bits into four words a pixel, less 32768; reads up to 16 bytes beyond the last sample. */
export function decode16(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    // an odd row writes one pixel too many, where its border will be
    for (let i = 0; i < width; i += 2, p += 12, q += 16) {
      const two = i8x16.swizzle(v128.load(p), i8x16(0, 1, 2, 3, 4, 5, -1, -1, 6, 7, 8, 9, 10, 11, -1, -1));
      v128.store(q, v128.xor(two, i16x8.splat(-0x8000)));
    }
  }
}

/** {@link repeatBorder} for pixels of four bytes, or of four words where `wide`. */
export function repeatBorderWhole(
  first: usize,
  stride: i32,
  width: i32,
  height: i32,
  left: i32,
  right: i32,
  above: i32,
  below: i32,
  wide: i32,
): void {
  const shift = wide ? 3 : 2;
  for (let j = 0; j < height; j++) {
    const row = first + j * stride;
    const last = row + ((width - 1) << shift);
    if (wide) {
      for (let k = 1; k <= left; k++) store<u64>(row - (k << 3), load<u64>(row));
      for (let k = 1; k <= right; k++) store<u64>(last + (k << 3), load<u64>(last));
    } else {
      for (let k = 1; k <= left; k++) store<u32>(row - (k << 2), load<u32>(row));
      for (let k = 1; k <= right; k++) store<u32>(last + (k << 2), load<u32>(last));
    }
  }
  const start = first - (left << shift);
  const bytes = (left + width + right) << shift;
  for (let k = 1; k <= above; k++) memory.copy(start - k * stride, start, bytes);
  const bottom = start + (height - 1) * stride;
  for (let k = 1; k <= below; k++) memory.copy(bottom + k * stride, bottom, bytes);
}

/**
 * Every two rows of a window of four bytes a pixel interleaved, as i16: for each pixel red of this row, red of the next, green, green, ...
 * @param width pixels a row; up to three more are written beyond each; @param height rows of the result, one less than of the window
 */
export function pairRows(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = p + (width << 2);
    for (; p < end; p += 16, q += 64) {
      const a = v128.load(p);
      const b = v128.load(p + fromStride);
      const first = i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
      const last = i8x16.shuffle(a, b, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
      v128.store(q, i16x8.extend_low_i8x16_u(first));
      v128.store(q, i16x8.extend_high_i8x16_u(first), 16);
      v128.store(q, i16x8.extend_low_i8x16_u(last), 32);
      v128.store(q, i16x8.extend_high_i8x16_u(last), 48);
    }
  }
}

/** {@link pairRows} for four words a pixel. */
export function pairRows16(from: usize, fromStride: i32, to: usize, toStride: i32, width: i32, height: i32): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = p + (width << 3);
    for (; p < end; p += 16, q += 32) {
      const a = v128.load(p);
      const b = v128.load(p + fromStride);
      v128.store(q, i8x16.shuffle(a, b, 0, 1, 16, 17, 2, 3, 18, 19, 4, 5, 20, 21, 6, 7, 22, 23));
      v128.store(q, i8x16.shuffle(a, b, 8, 9, 24, 25, 10, 11, 26, 27, 12, 13, 28, 29, 14, 15, 30, 31), 16);
    }
  }
}

/** Two columns weighed across: of 8 bits as pairs of 16 bits each, of 16 bits as floats. `k` counts the pairs of columns. */
@inline
function across(first: v128, second: v128, wx: usize, k: usize, wide: bool): v128 {
  if (wide)
    return f32x4.add(
      f32x4.mul(f32x4.convert_i32x4_s(first), v128.load32_splat(wx + 8 * k)),
      f32x4.mul(f32x4.convert_i32x4_s(second), v128.load32_splat(wx + 8 * k, 4)),
    );
  const pairs = i8x16.shuffle(i32x4.shr_s(first, 8), i32x4.shl(second, 8), 0, 1, 18, 19, 4, 5, 22, 23, 8, 9, 26, 27, 12, 13, 30, 31);
  return i32x4.dot_i16x8_s(pairs, v128.load32_splat(wx + 4 * k));
}
@inline
function plus(a: v128, b: v128, wide: bool): v128 {
  return wide ? f32x4.add(a, b) : i32x4.add(a, b);
}
/** A pixel rounded, clamped and opaque, as four samples. */
@inline
function putWhole(to: usize, sum: v128, wide: bool): void {
  if (wide) {
    const whole = i32x4.trunc_sat_f32x4_u(f32x4.max(f32x4.add(sum, f32x4.splat(32768.5)), f32x4.splat(0)));
    const words = v128.or(i16x8.narrow_i32x4_u(whole, whole), i16x8(0, 0, 0, -1, 0, 0, 0, -1));
    v128.store64_lane(to, words, 0);
    return;
  }
  const whole = i32x4.shr_s(i32x4.add(sum, i32x4.splat(1 << 19)), 20);
  const words = i16x8.narrow_i32x4_s(whole, whole);
  v128.store32_lane(to, v128.or(i8x16.narrow_i16x8_u(words, words), i32x4.splat(0xff000000)), 0);
}

/** Two, three or four pairs of rows, one column. */
@inline
function column4(a: v128, b: v128, v0: v128, v1: v128): v128 {
  return i32x4.add(i32x4.dot_i16x8_s(a, v0), i32x4.dot_i16x8_s(b, v1));
}
@inline
function column6(a: v128, b: v128, c: v128, v0: v128, v1: v128, v2: v128): v128 {
  return i32x4.add(column4(a, b, v0, v1), i32x4.dot_i16x8_s(c, v2));
}

@inline
function pixel2(p: usize, twoRows: i32, wx: usize, wy: usize, wide: bool): v128 {
  const v = v128.load32_splat(wy);
  return across(i32x4.dot_i16x8_s(v128.load(p), v), i32x4.dot_i16x8_s(v128.load(p, 16), v), wx, 0, wide);
}

/** Two columns of two pairs of rows. */
@inline
function columns4(p: usize, q: usize, wx: usize, k: usize, v0: v128, v1: v128, wide: bool): v128 {
  const at = 32 * k;
  return across(
    column4(v128.load(p + at), v128.load(q + at), v0, v1),
    column4(v128.load(p + at, 16), v128.load(q + at, 16), v0, v1),
    wx,
    k,
    wide,
  );
}
@inline
function pixel4(p: usize, twoRows: i32, wx: usize, wy: usize, wide: bool): v128 {
  const q = p + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  return plus(columns4(p, q, wx, 0, v0, v1, wide), columns4(p, q, wx, 1, v0, v1, wide), wide);
}

@inline
function columns6(p: usize, q: usize, r: usize, wx: usize, k: usize, v0: v128, v1: v128, v2: v128, wide: bool): v128 {
  const at = 32 * k;
  return across(
    column6(v128.load(p + at), v128.load(q + at), v128.load(r + at), v0, v1, v2),
    column6(v128.load(p + at, 16), v128.load(q + at, 16), v128.load(r + at, 16), v0, v1, v2),
    wx,
    k,
    wide,
  );
}
@inline
function pixel6(p: usize, twoRows: i32, wx: usize, wy: usize, wide: bool): v128 {
  const q = p + twoRows;
  const r = q + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  return plus(
    columns6(p, q, r, wx, 0, v0, v1, v2, wide),
    plus(columns6(p, q, r, wx, 1, v0, v1, v2, wide), columns6(p, q, r, wx, 2, v0, v1, v2, wide), wide),
    wide,
  );
}

@inline
function columns8(p: usize, twoRows: i32, wx: usize, k: usize, v0: v128, v1: v128, v2: v128, v3: v128, wide: bool): v128 {
  const a = p + 32 * k;
  const b = a + twoRows;
  const c = b + twoRows;
  const d = c + twoRows;
  return across(
    i32x4.add(column4(v128.load(a), v128.load(b), v0, v1), column4(v128.load(c), v128.load(d), v2, v3)),
    i32x4.add(column4(v128.load(a, 16), v128.load(b, 16), v0, v1), column4(v128.load(c, 16), v128.load(d, 16), v2, v3)),
    wx,
    k,
    wide,
  );
}
@inline
function pixel8(p: usize, twoRows: i32, wx: usize, wy: usize, wide: bool): v128 {
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  const v3 = v128.load32_splat(wy, 12);
  return plus(
    plus(columns8(p, twoRows, wx, 0, v0, v1, v2, v3, wide), columns8(p, twoRows, wx, 1, v0, v1, v2, v3, wide), wide),
    plus(columns8(p, twoRows, wx, 2, v0, v1, v2, v3, wide), columns8(p, twoRows, wx, 3, v0, v1, v2, v3, wide), wide),
    wide,
  );
}

/** One pixel by a kernel of 2, 4, 6 or 8 taps. */
@inline
function pixelOf(taps: i32, p: usize, twoRows: i32, wx: usize, wy: usize, wide: bool): v128 {
  if (taps == 6) return pixel6(p, twoRows, wx, wy, wide);
  if (taps == 4) return pixel4(p, twoRows, wx, wy, wide);
  return taps == 2 ? pixel2(p, twoRows, wx, wy, wide) : pixel8(p, twoRows, wx, wy, wide);
}

/* What {@link tileWhole} says of all rows that follow. */
let rowTo: usize = 0;
let rowEnd: usize = 0;
let rowX: i32 = 0;
let rowY: i32 = 0;
let rowStepX: i32 = 0;
let rowStepY: i32 = 0;

/** One row of a cell whose pixels all lie inside the source. */
@inline
function insideRow(taps: i32, base: usize, stride: i32, tableX: usize, tableY: usize, pixelBytes: i32, wide: bool): void {
  const twoRows = stride << 1;
  const weightsX = wide ? WEIGHTS_FLOAT : WEIGHTS;
  let x = rowX;
  let y = rowY;
  const sx = rowStepX;
  const sy = rowStepY;
  const end = rowEnd;
  for (let to = rowTo; to < end; to += pixelBytes, x += sx, y += sy) {
    const p = base + (y >> POSITION_BITS) * stride + ((x >> (POSITION_BITS - 4)) & ~15);
    const wx = tableX + ((x >> (TO_PHASE - weightsX)) & (511 << weightsX));
    const wy = tableY + ((y >> (TO_PHASE - WEIGHTS)) & (511 << WEIGHTS));
    putWhole(to, pixelOf(taps, p, twoRows, wx, wy, wide), wide);
  }
}

/**
 * Resamples a tile of an opaque picture.
 *
 * @param nodes positions at the corners of cells, x and y as f64, row by row, source px (pixel centres at halves); `nodeColumns` a row
 * @param step pixels from node to node; @param columns, rows the tile, px
 * @param kernels for each 16 px of the tile, row by row (`kernelColumns` a row), four i32: taps (2, 4, 6 or 8), where its weights across
 *   and down lie, eight for each of 512 phases: i16 whose sum is 2^14; for wide samples across floats over 32767, down i16 whose sum is
 *   32767; unused
 * @param window first pixel of the interleaved window; @param stride its bytes a row; @param left, top its first pixel in the source
 * @param width, height the source, px; @param out where the tile goes; @param pixelBytes bytes of a pixel there, three or four samples
 * @param nothing, nothingHigh what empty pixels are, the latter the second half of wide ones; @param wideSamples 1 for 16 bits
 */
export function tileWhole(
  nodes: usize,
  nodeColumns: i32,
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
  const share: f64 = 1.0 / <f64>step;
  const shiftX: f64 = 0.5 + <f64>left;
  const shiftY: f64 = 0.5 + <f64>top;
  const boundLeft = <i32>((-0.5 - <f64>left) * POSITION_ONE) + HALF_A_PHASE;
  const boundTop = <i32>((-0.5 - <f64>top) * POSITION_ONE) + HALF_A_PHASE;
  const boundRight = <i32>((<f64>width - shiftX) * POSITION_ONE) + HALF_A_PHASE;
  const boundBottom = <i32>((<f64>height - shiftY) * POSITION_ONE) + HALF_A_PHASE;
  for (let cellY = 0; cellY < rows; cellY += step) {
    let node = nodes + (cellY / step) * nodeColumns * 16;
    for (let cellX = 0; cellX < columns; cellX += step, node += 16) {
      const kernel = kernels + (((cellY >> 4) * kernelColumns + (cellX >> 4)) << 4);
      const taps = load<i32>(kernel);
      const tableX = <usize>load<i32>(kernel, 4);
      const tableY = <usize>load<i32>(kernel, 8);
      const reach = (taps >> 1) - 1;
      const base = window - reach * stride - (reach << 4);
      const below = node + nodeColumns * 16;
      const ax = load<f64>(node) - shiftX;
      const ay = load<f64>(node, 8) - shiftY;
      const bx = load<f64>(node, 16) - shiftX;
      const by = load<f64>(node, 24) - shiftY;
      const cx = load<f64>(below) - shiftX;
      const cy = load<f64>(below, 8) - shiftY;
      const dx = load<f64>(below, 16) - shiftX;
      const dy = load<f64>(below, 24) - shiftY;
      const lowX = min(min(ax, bx), min(cx, dx)) + shiftX;
      const lowY = min(min(ay, by), min(cy, dy)) + shiftY;
      const highX = max(max(ax, bx), max(cx, dx)) + shiftX;
      const highY = max(max(ay, by), max(cy, dy)) + shiftY;
      const tested = !(lowX >= 0 && lowY >= 0 && highX <= <f64>width && highY <= <f64>height);
      const last = min(cellX + step, columns);
      const lastRow = min(cellY + step, rows);
      for (let j = cellY; j < lastRow; j++) {
        const t = <f64>(j - cellY) * share;
        const x0 = ax + (cx - ax) * t;
        const y0 = ay + (cy - ay) * t;
        rowX = <i32>(x0 * POSITION_ONE + 0.5) + HALF_A_PHASE;
        rowY = <i32>(y0 * POSITION_ONE + 0.5) + HALF_A_PHASE;
        rowStepX = <i32>floor<f64>((bx + (dx - bx) * t - x0) * share * POSITION_ONE + 0.5);
        rowStepY = <i32>floor<f64>((by + (dy - by) * t - y0) * share * POSITION_ONE + 0.5);
        rowTo = out + j * outStride + cellX * pixelBytes;
        rowEnd = out + j * outStride + last * pixelBytes;
        if (tested) {
          // pixel by pixel: nothing, or a row of one
          const end = rowEnd;
          for (let to = rowTo; to < end; to += pixelBytes, rowX += rowStepX, rowY += rowStepY) {
            if (rowX >= boundLeft && rowY >= boundTop && rowX <= boundRight && rowY <= boundBottom) {
              rowTo = to;
              rowEnd = to + 1;
              if (wideSamples) insideRow(taps, base, stride, tableX, tableY, pixelBytes, true);
              else insideRow(taps, base, stride, tableX, tableY, pixelBytes, false);
            } else if (wideSamples) store<u64>(to, <u64>nothing | (<u64>nothingHigh << 32));
            else store<u32>(to, nothing);
          }
        } else if (wideSamples) insideRow(taps, base, stride, tableX, tableY, pixelBytes, true);
        else if (taps == 6) insideRow(6, base, stride, tableX, tableY, pixelBytes, false);
        else if (taps == 4) insideRow(4, base, stride, tableX, tableY, pixelBytes, false);
        else if (taps == 2) insideRow(2, base, stride, tableX, tableY, pixelBytes, false);
        else insideRow(8, base, stride, tableX, tableY, pixelBytes, false);
      }
    }
  }
}
