/* One pixel of an opaque picture from its window. */

import { POSITION_BITS, rowOf, xBits, yBits } from './positions';

/** Of 512 phases, bytes from one's weights to the next's as a shift: eight of 16 bits. */
const WEIGHTS: i32 = 4;
/** From a position to its phase. */
const TO_PHASE: i32 = 9;
/** From a place, whose halves have half a phase added, to the nearest pixel's. */
export const TO_NEAREST: i64 = ((<i64>1 << (POSITION_BITS - 1)) - (1 << (TO_PHASE - 1))) * ((<i64>1 << 32) + 1);

/** Two columns weighed across, as pairs of their upper halves. @param w their weights, four times */
@inline
function across(first: v128, second: v128, w: v128): v128 {
  const pairs = i8x16.shuffle(i32x4.shr_u(first, 16), second, 0, 1, 18, 19, 4, 5, 22, 23, 8, 9, 26, 27, 12, 13, 30, 31);
  return i32x4.dot_i16x8_s(pairs, w);
}
/**
 * Sums of pairs of columns on their way. The engine loads all that a pixel needs before it computes anything, more than there are registers
 * for; a store in between keeps the loads behind it back.
 */
const partSums = memory.data(48, 16);

/** One column of two, three or four pairs of rows. */
@inline
function column4(a: v128, b: v128, v0: v128, v1: v128): v128 {
  return i32x4.add(i32x4.dot_i16x8_s(a, v0), i32x4.dot_i16x8_s(b, v1));
}
@inline
function column6(a: v128, b: v128, c: v128, v0: v128, v1: v128, v2: v128): v128 {
  return i32x4.add(column4(a, b, v0, v1), i32x4.dot_i16x8_s(c, v2));
}
@inline
function column8(a: v128, b: v128, c: v128, d: v128, v0: v128, v1: v128, v2: v128, v3: v128): v128 {
  return i32x4.add(column4(a, b, v0, v1), column4(c, d, v2, v3));
}

/* Where columns and weights lie beyond the first ones is said in each load: added to an address, it is worked out anew for every pixel. */

@inline
function pixel2(p: usize, wx: usize, wy: usize): v128 {
  const v = v128.load32_splat(wy);
  return across(i32x4.dot_i16x8_s(v128.load(p), v), i32x4.dot_i16x8_s(v128.load(p, 16), v), v128.load32_splat(wx));
}

@inline
function pixel4(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const q = p + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const first = column4(v128.load(p), v128.load(q), v0, v1);
  const second = column4(v128.load(p, 16), v128.load(q, 16), v0, v1);
  const third = column4(v128.load(p, 32), v128.load(q, 32), v0, v1);
  const fourth = column4(v128.load(p, 48), v128.load(q, 48), v0, v1);
  return i32x4.add(across(first, second, v128.load32_splat(wx)), across(third, fourth, v128.load32_splat(wx, 4)));
}

@inline
function pixel6(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const q = p + twoRows;
  const r = q + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  let left = column6(v128.load(p), v128.load(q), v128.load(r), v0, v1, v2);
  let right = column6(v128.load(p, 16), v128.load(q, 16), v128.load(r, 16), v0, v1, v2);
  v128.store(partSums, across(left, right, v128.load32_splat(wx)));
  left = column6(v128.load(p, 32), v128.load(q, 32), v128.load(r, 32), v0, v1, v2);
  right = column6(v128.load(p, 48), v128.load(q, 48), v128.load(r, 48), v0, v1, v2);
  v128.store(partSums, across(left, right, v128.load32_splat(wx, 4)), 16);
  left = column6(v128.load(p, 64), v128.load(q, 64), v128.load(r, 64), v0, v1, v2);
  right = column6(v128.load(p, 80), v128.load(q, 80), v128.load(r, 80), v0, v1, v2);
  const last = across(left, right, v128.load32_splat(wx, 8));
  return i32x4.add(last, i32x4.add(v128.load(partSums), v128.load(partSums, 16)));
}

@inline
function pixel8(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  const q = p + twoRows;
  const r = q + twoRows;
  const s = r + twoRows;
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  const v3 = v128.load32_splat(wy, 12);
  let left = column8(v128.load(p), v128.load(q), v128.load(r), v128.load(s), v0, v1, v2, v3);
  let right = column8(v128.load(p, 16), v128.load(q, 16), v128.load(r, 16), v128.load(s, 16), v0, v1, v2, v3);
  v128.store(partSums, across(left, right, v128.load32_splat(wx)));
  left = column8(v128.load(p, 32), v128.load(q, 32), v128.load(r, 32), v128.load(s, 32), v0, v1, v2, v3);
  right = column8(v128.load(p, 48), v128.load(q, 48), v128.load(r, 48), v128.load(s, 48), v0, v1, v2, v3);
  v128.store(partSums, across(left, right, v128.load32_splat(wx, 4)), 16);
  left = column8(v128.load(p, 64), v128.load(q, 64), v128.load(r, 64), v128.load(s, 64), v0, v1, v2, v3);
  right = column8(v128.load(p, 80), v128.load(q, 80), v128.load(r, 80), v128.load(s, 80), v0, v1, v2, v3);
  v128.store(partSums, across(left, right, v128.load32_splat(wx, 8)), 32);
  left = column8(v128.load(p, 96), v128.load(q, 96), v128.load(r, 96), v128.load(s, 96), v0, v1, v2, v3);
  right = column8(v128.load(p, 112), v128.load(q, 112), v128.load(r, 112), v128.load(s, 112), v0, v1, v2, v3);
  const last = across(left, right, v128.load32_splat(wx, 12));
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
    const w = wx + (k << 1);
    sum = i32x4.add(sum, i32x4.add(across(a, b, v128.load32_splat(w)), across(c, d, v128.load32_splat(w, 4))));
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
    sum = i32x4.add(sum, across(a, b, v128.load32_splat(wx + (k << 1))));
  }
  return sum;
}

/** Where in a table of other numbers of taps, eight or more a phase, the weights across or down of a place lie. */
@inline
export function acrossOf(table: usize, place: i64, taps: i32): usize {
  return table + xBits(place, TO_PHASE, 511) * (max(8, taps) << 1);
}
@inline
export function downOf(table: usize, place: i64, taps: i32): usize {
  return table + yBits(place, TO_PHASE, 511) * (max(8, taps) << 1);
}

/** The weighted sum of the taps of one pixel of many. @param tapsX, tapsY how many */
@inline
export function pixelOfMany(place: i64, tapsX: i32, tapsY: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  const p = base + rowOf(place) * stride + xBits(place, POSITION_BITS - 4, ~15);
  return pixelMany(p, stride << 1, tapsX, tapsY, acrossOf(tableX, place, tapsX), downOf(tableY, place, tapsY));
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
export function nearestAt(place: i64, base: usize, stride: i32): v128 {
  const nearest = place + TO_NEAREST;
  const two = v128.load(base + rowOf(nearest) * stride + xBits(nearest, POSITION_BITS - 4, ~15));
  return i8x16.shuffle(two, two, 0, 1, 4, 5, 8, 9, 12, 13, 0, 1, 4, 5, 8, 9, 12, 13);
}

/** Where in a table the weights across or down of a place lie. */
@inline
export function acrossAt(table: usize, place: i64): usize {
  return table + xBits(place, TO_PHASE - WEIGHTS, 511 << WEIGHTS);
}
@inline
export function downAt(table: usize, place: i64): usize {
  return table + yBits(place, TO_PHASE - WEIGHTS, 511 << WEIGHTS);
}

/** The weighted sum of one pixel's taps. */
@inline
export function pixelAt(place: i64, taps: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  const row = base + rowOf(place) * stride;
  const wx = acrossAt(tableX, place);
  const wy = downAt(tableY, place);
  if (taps == DIRECT) return direct2(row + xBits(place, POSITION_BITS - 2, ~3), stride, wx, wy);
  const p = row + xBits(place, POSITION_BITS - 4, ~15);
  const twoRows = stride << 1;
  if (taps == 6) return pixel6(p, twoRows, wx, wy);
  if (taps == 4) return pixel4(p, twoRows, wx, wy);
  return taps == 2 ? pixel2(p, wx, wy) : pixel8(p, twoRows, wx, wy);
}
