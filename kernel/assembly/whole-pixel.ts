/* One pixel of an opaque picture from its window. */

import { POSITION_BITS } from './positions';

/** Of 512 phases, bytes from one's weights to the next's as a shift: eight of 16 bits. */
const WEIGHTS: i32 = 4;
/** From a position to its phase. */
const TO_PHASE: i32 = 9;
/** Positions have half a phase added. */
export const TO_NEAREST: i32 = (1 << (POSITION_BITS - 1)) - (1 << (TO_PHASE - 1));

/** Two columns weighed across, as pairs of their upper halves; `k` counts the pairs of columns. */
@inline
function across(first: v128, second: v128, wx: usize, k: usize): v128 {
  const pairs = i8x16.shuffle(i32x4.shr_u(first, 16), second, 0, 1, 18, 19, 4, 5, 22, 23, 8, 9, 26, 27, 12, 13, 30, 31);
  return i32x4.dot_i16x8_s(pairs, v128.load32_splat(wx + 4 * k));
}
/**
 * Sums of pairs of columns on their way. The engine loads all that a pixel needs before it computes anything, more than there are registers
 * for; a store in between keeps the loads behind it back.
 */
const partSums = memory.data(48, 16);

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
function pixel2(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const v = v128.load32_splat(wy);
  return across(i32x4.dot_i16x8_s(v128.load(p), v), i32x4.dot_i16x8_s(v128.load(p, 16), v), wx, 0);
}

/** Two columns of two pairs of rows. */
@inline
function columns4(p: usize, q: usize, wx: usize, k: usize, v0: v128, v1: v128): v128 {
  const at = 32 * k;
  return across(
    column4(v128.load(p + at), v128.load(q + at), v0, v1),
    column4(v128.load(p + at, 16), v128.load(q + at, 16), v0, v1),
    wx,
    k,
  );
}
@inline
function pixel4(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const q = p + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  return i32x4.add(columns4(p, q, wx, 0, v0, v1), columns4(p, q, wx, 1, v0, v1));
}

@inline
function columns6(p: usize, q: usize, r: usize, wx: usize, k: usize, v0: v128, v1: v128, v2: v128): v128 {
  const at = 32 * k;
  return across(
    column6(v128.load(p + at), v128.load(q + at), v128.load(r + at), v0, v1, v2),
    column6(v128.load(p + at, 16), v128.load(q + at, 16), v128.load(r + at, 16), v0, v1, v2),
    wx,
    k,
  );
}
@inline
function pixel6(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const q = p + twoRows;
  const r = q + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  v128.store(partSums, columns6(p, q, r, wx, 0, v0, v1, v2));
  v128.store(partSums, columns6(p, q, r, wx, 1, v0, v1, v2), 16);
  const last = columns6(p, q, r, wx, 2, v0, v1, v2);
  return i32x4.add(last, i32x4.add(v128.load(partSums), v128.load(partSums, 16)));
}

@inline
function columns8(p: usize, twoRows: i32, wx: usize, k: usize, v0: v128, v1: v128, v2: v128, v3: v128): v128 {
  const a = p + 32 * k;
  const b = a + twoRows;
  const c = b + twoRows;
  const d = c + twoRows;
  return across(
    i32x4.add(column4(v128.load(a), v128.load(b), v0, v1), column4(v128.load(c), v128.load(d), v2, v3)),
    i32x4.add(column4(v128.load(a, 16), v128.load(b, 16), v0, v1), column4(v128.load(c, 16), v128.load(d, 16), v2, v3)),
    wx,
    k,
  );
}
@inline
function pixel8(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  const v3 = v128.load32_splat(wy, 12);
  v128.store(partSums, columns8(p, twoRows, wx, 0, v0, v1, v2, v3));
  v128.store(partSums, columns8(p, twoRows, wx, 1, v0, v1, v2, v3), 16);
  v128.store(partSums, columns8(p, twoRows, wx, 2, v0, v1, v2, v3), 32);
  const last = columns8(p, twoRows, wx, 3, v0, v1, v2, v3);
  return i32x4.add(i32x4.add(last, v128.load(partSums)), i32x4.add(v128.load(partSums, 16), v128.load(partSums, 32)));
}

/**
 * A pixel of many taps, other numbers across and down.
 * @param wx, wy where its weights across and down lie
 */
@inline
function pixelMany(p: usize, twoRows: i32, tapsX: i32, tapsY: i32, wx: usize, wy: usize): v128 {
  let sum = i32x4.splat(0);
  const endY = wy + (tapsY << 1);
  let k = 0;
  // four columns at a time, and what is left
  for (; k + 4 <= tapsX; k += 4) {
    let a = i32x4.splat(0);
    let b = a;
    let c = a;
    let d = a;
    let q = p + (k << 4);
    for (let w = wy; w < endY; w += 4, q += twoRows) {
      const v = v128.load32_splat(w);
      a = i32x4.add(a, i32x4.dot_i16x8_s(v128.load(q), v));
      b = i32x4.add(b, i32x4.dot_i16x8_s(v128.load(q, 16), v));
      c = i32x4.add(c, i32x4.dot_i16x8_s(v128.load(q, 32), v));
      d = i32x4.add(d, i32x4.dot_i16x8_s(v128.load(q, 48), v));
    }
    sum = i32x4.add(sum, i32x4.add(across(a, b, wx + (k << 1), 0), across(c, d, wx + (k << 1), 1)));
  }
  if (k < tapsX) {
    let a = i32x4.splat(0);
    let b = a;
    let q = p + (k << 4);
    for (let w = wy; w < endY; w += 4, q += twoRows) {
      const v = v128.load32_splat(w);
      a = i32x4.add(a, i32x4.dot_i16x8_s(v128.load(q), v));
      b = i32x4.add(b, i32x4.dot_i16x8_s(v128.load(q, 16), v));
    }
    sum = i32x4.add(sum, across(a, b, wx + (k << 1), 0));
  }
  return sum;
}

/** Where in a table of other numbers of taps, eight or more a phase, the weights of a position lie. */
@inline
export function weightsOf(table: usize, position: i32, taps: i32): usize {
  return table + ((position >> TO_PHASE) & 511) * (max(8, taps) << 1);
}

/** The weighted sum of the taps of one pixel of many, at a position. @param tapsX, tapsY how many */
@inline
export function pixelOfMany(x: i32, y: i32, tapsX: i32, tapsY: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  const p = base + (y >> POSITION_BITS) * stride + ((x >> (POSITION_BITS - 4)) & ~15);
  return pixelMany(p, stride << 1, tapsX, tapsY, weightsOf(tableX, x, tapsX), weightsOf(tableY, y, tapsY));
}

/** Two columns of two rows of a window of four bytes a pixel, not interleaved. */
@inline
function direct2(p: usize, stride: i32, wx: usize, wy: usize): v128 {
  const v = v128.load32_splat(wy);
  const a = v128.load64_zero(p);
  const b = v128.load64_zero(p + stride);
  const pairs = i8x16.shuffle(a, b, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
  const first = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(pairs), v);
  const second = i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(pairs), v);
  const columns = i8x16.shuffle(i32x4.shr_s(first, 8), i32x4.shl(second, 8), 0, 1, 18, 19, 4, 5, 22, 23, 8, 9, 26, 27, 12, 13, 30, 31);
  return i32x4.dot_i16x8_s(columns, v128.load32_splat(wx));
}

/**
 * What a row of the tile's cell goes through: a kernel of 2, 4, 6 or 8 taps, or of {@link DIRECT} ones, or the nearest pixel as it is; of planes
 * also two taps that are linear between pixels; or {@link MANY} taps, which are other numbers across and down.
 */
export const DIRECT: i32 = 0;
export const NEAREST: i32 = 1;
export const LINEAR: i32 = 3;
export const MANY: i32 = 5;

/** The nearest pixel of 16 bits as it is: every other word of two rows. */
@inline
export function nearestAt(x: i32, y: i32, base: usize, stride: i32): v128 {
  const p = base + ((y + TO_NEAREST) >> POSITION_BITS) * stride + (((x + TO_NEAREST) >> (POSITION_BITS - 4)) & ~15);
  const two = v128.load(p);
  return i8x16.shuffle(two, two, 0, 1, 4, 5, 8, 9, 12, 13, 0, 1, 4, 5, 8, 9, 12, 13);
}

/** Where in a table the weights of a position lie. */
@inline
export function weightsAt(table: usize, position: i32): usize {
  return table + ((position >> (TO_PHASE - WEIGHTS)) & (511 << WEIGHTS));
}

/** The weighted sum of one pixel's taps, at a position. */
@inline
export function pixelAt(x: i32, y: i32, taps: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  const row = base + (y >> POSITION_BITS) * stride;
  const wx = weightsAt(tableX, x);
  const wy = weightsAt(tableY, y);
  if (taps == DIRECT) return direct2(row + ((x >> (POSITION_BITS - 2)) & ~3), stride, wx, wy);
  const p = row + ((x >> (POSITION_BITS - 4)) & ~15);
  const twoRows = stride << 1;
  if (taps == 6) return pixel6(p, twoRows, wx, wy);
  if (taps == 4) return pixel4(p, twoRows, wx, wy);
  return taps == 2 ? pixel2(p, twoRows, wx, wy) : pixel8(p, twoRows, wx, wy);
}
