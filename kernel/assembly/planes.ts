/*
 * Cells of one sample a pixel: grey, or a colour that lies apart from the others. A window holds for each pixel its sample and the one below
 * it, as {@link planePairs} makes them; the arithmetic is that of four samples a pixel, to the bit, four pixels a turn.
 */

import { picked, storeRgb } from './picked';
import { POSITION_BITS, rowOf, xBits } from './positions';
import {
  cellAcrossX,
  cellAcrossY,
  cellBase,
  cellBendTurnX,
  cellBendTurnY,
  cellBendX,
  cellBendY,
  cellDownBendX,
  cellDownBendY,
  cellDownX,
  cellDownY,
  cellRowBytes,
  cellRows,
  cellTableX,
  cellTableY,
  cellTapsX,
  cellTapsY,
  cellTo,
  cellTurnBendX,
  cellTurnBendY,
  cellTurnX,
  cellTurnY,
  cellX,
  cellY,
  FINER,
  HALF_A_PHASE,
  HALF_FINE,
  HALF_STEP_WIDE,
  LESS,
  SUM_BITS,
  SUM_BITS_DIRECT,
  SUM_BITS_WIDE,
  tileOutStride,
  tileStride,
} from './whole';
import { acrossAt, acrossOf, DIRECT, downAt, downOf, MANY, NEAREST, TO_NEAREST } from './whole-pixel';
import { HALF_A_STEP, highWords, lowWords } from './words';

/** Half a step of sums of two taps, of which a whole bit more is kept, less what is in the window already. */
const HALF_DIRECT: i32 = (1 << (SUM_BITS_DIRECT - 1)) - (HALF_A_STEP << 13);

/** Where a place's first tap lies. */
@inline
function firstTap(place: i64, base: usize, stride: i32): usize {
  return base + rowOf(place) * stride + xBits(place, POSITION_BITS - 2, ~3);
}

/** The sums of four columns, cut to words. */
@inline
function columns(p: usize, taps: i32, cut: i32, twoRows: i32, v0: v128, v1: v128, v2: v128, v3: v128): v128 {
  let sum = i32x4.dot_i16x8_s(v128.load(p), v0);
  if (taps > 2) sum = i32x4.add(sum, i32x4.dot_i16x8_s(v128.load(p + twoRows), v1));
  if (taps > 4) sum = i32x4.add(sum, i32x4.dot_i16x8_s(v128.load(p + 2 * twoRows), v2));
  if (taps > 6) sum = i32x4.add(sum, i32x4.dot_i16x8_s(v128.load(p + 3 * twoRows), v3));
  return i32x4.shr_s(sum, cut);
}

/** The columns of a pixel of up to four taps. */
@inline
function few(place: i64, taps: i32, cut: i32, base: usize, stride: i32, tableY: usize): v128 {
  const wy = downAt(tableY, place);
  const v0 = v128.load32_splat(wy);
  const v1 = taps > 2 ? v128.load32_splat(wy, 4) : v0;
  return columns(firstTap(place, base, stride), taps, cut, stride << 1, v0, v1, v0, v0);
}

/** A pixel of other numbers of taps, as two sums of pairs across and nothing. */
@inline
function ofMany(p: usize, twoRows: i32, wx: usize, wy: usize): v128 {
  let sum = i32x4.splat(0);
  const endX = wx + (cellTapsX << 1);
  const endY = wy + (cellTapsY << 1);
  for (let w = wx; w < endX; w += 8, p += 16) {
    let four = i32x4.splat(0);
    for (let v = wy, q = p; v < endY; v += 4, q += twoRows)
      four = i32x4.add(four, i32x4.dot_i16x8_s(v128.load(q), v128.load32_splat(v)));
    const words = i32x4.shr_s(four, 16);
    // of the last four columns there may be two
    const weights = w + 4 < endX ? v128.load64_zero(w) : v128.load32_zero(w);
    sum = i32x4.add(sum, i32x4.dot_i16x8_s(i16x8.narrow_i32x4_s(words, words), weights));
  }
  return sum;
}

/** A pixel of six or eight taps, as four sums of pairs across, or of {@link MANY}. */
@inline
function many(place: i64, taps: i32, cut: i32, base: usize, stride: i32, tableX: usize, tableY: usize): v128 {
  if (taps == MANY)
    return ofMany(firstTap(place, base, stride), stride << 1, acrossOf(tableX, place, cellTapsX), downOf(tableY, place, cellTapsY));
  const wy = downAt(tableY, place);
  const v0 = v128.load32_splat(wy);
  const v1 = v128.load32_splat(wy, 4);
  const v2 = v128.load32_splat(wy, 8);
  const v3 = taps > 6 ? v128.load32_splat(wy, 12) : v0;
  const p = firstTap(place, base, stride);
  const first = columns(p, taps, cut, stride << 1, v0, v1, v2, v3);
  const last = columns(p + 16, taps, cut, stride << 1, v0, v1, v2, v3);
  // weights beyond the taps are nothing
  return i32x4.dot_i16x8_s(i16x8.narrow_i32x4_s(first, last), v128.load(acrossAt(tableX, place)));
}

/** Sums of pixels on their way, as for those of four samples. */
const partSums = memory.data(48, 16);

/** Neighbours added: of a, then of b. */
@inline
function added(a: v128, b: v128): v128 {
  return i32x4.add(v128.shuffle<i32>(a, b, 0, 2, 4, 6), v128.shuffle<i32>(a, b, 1, 3, 5, 7));
}

/** Linear weights of a pixel and of the next, as words, for four positions: their fractions, of 14 bits. */
@inline
function linearWeights(positions: v128): v128 {
  const next = v128.and(i32x4.shr_u(positions, POSITION_BITS - 14), i32x4.splat(0x3fff));
  return i32x4.add(i32x4.sub(i32x4.shl(next, 16), next), i32x4.splat(0x4000));
}

/** Four lanes of x or of y, of a pair of both. */
@inline
function xs(pair: v128): v128 {
  return v128.shuffle<i32>(pair, pair, 0, 0, 0, 0);
}
@inline
function ys(pair: v128): v128 {
  return v128.shuffle<i32>(pair, pair, 2, 2, 2, 2);
}

/** Nothing, once, twice and three times the same, without the multiplication, which is slow. */
@inline
function upToThrice(v: v128): v128 {
  return i32x4.add(v128.and(v, i32x4(0, -1, 0, -1)), v128.and(i32x4.shl(v, 1), i32x4(0, 0, -1, -1)));
}

/** Four positions along a row: the first, and how far it is to the next, which changes by `bend` each time. */
@inline
function fourFrom(first: v128, step: v128, bend: v128, bent: bool): v128 {
  const straight = i32x4.add(first, upToThrice(step));
  if (!bent) return straight;
  const bends = i32x4.add(v128.and(bend, i32x4(0, 0, -1, -1)), v128.and(i32x4.shl(bend, 1), i32x4(0, 0, 0, -1)));
  return i32x4.add(straight, bends);
}

/** How far it is from each of them to the fourth after it. */
@inline
function fourSteps(step: v128, bend: v128, bent: bool): v128 {
  const straight = i32x4.shl(step, 2);
  if (!bent) return straight;
  // 6, 10, 14, 18 times the bend
  const four = i32x4.shl(bend, 2);
  return i32x4.add(straight, i32x4.add(i32x4.add(four, i32x4.shl(bend, 1)), upToThrice(four)));
}

@inline
function pairOf(x: i64, y: i64): v128 {
  return i64x2.replace_lane(i64x2.splat(x), 1, y);
}

/** Four pixels that are linear between those of the window, not clamped. @param base, columns, half of the window, and the last place that may be read, in every lane */
@inline
function linearFour(x: v128, y: v128, base: v128, columns: v128, half: v128, last: v128): v128 {
  const pixels = i32x4.add(i32x4.dot_i16x8_s(i32x4.shr_s(y, POSITION_BITS), columns), i32x4.shr_s(x, POSITION_BITS));
  // those too many may lie anywhere
  const places = i32x4.min_u(i32x4.add(base, i32x4.shl(pixels, 2)), last);
  const two = v128.load64_lane(i32x4.extract_lane(places, 1), v128.load64_zero(i32x4.extract_lane(places, 0)), 1);
  const more = v128.load64_lane(i32x4.extract_lane(places, 3), v128.load64_zero(i32x4.extract_lane(places, 2)), 1);
  const down = linearWeights(y);
  const left = i32x4.shr_s(i32x4.dot_i16x8_s(two, v128.shuffle<i32>(down, down, 0, 0, 1, 1)), 15);
  const right = i32x4.shr_s(i32x4.dot_i16x8_s(more, v128.shuffle<i32>(down, down, 2, 2, 3, 3)), 15);
  const sum = i32x4.dot_i16x8_s(i16x8.narrow_i32x4_s(left, right), linearWeights(x));
  return i32x4.shr_s(i32x4.add(sum, half), SUM_BITS_DIRECT);
}

/**
 * A cell of 8 bits inside the source that is linear between pixels: positions in vectors, of rows too, and no table. Of a row up to seven
 * pixels too many are drawn.
 */
@inline
export function linearCell(bent: bool): void {
  const base = i32x4.splat(cellBase);
  // columns and rows are fewer than 2^13
  const columns = i32x4.splat(tileStride >> 2);
  const half = i32x4.splat(HALF_DIRECT);
  const last = i32x4.splat((memory.size() << 16) - 8);
  const rowBytes = cellRowBytes;
  const outStride = tileOutStride;
  let place = pairOf(cellX - (<i64>HALF_A_PHASE << FINER), cellY - (<i64>HALF_A_PHASE << FINER));
  let down = pairOf(cellDownX, cellDownY);
  let across = pairOf(cellAcrossX, cellAcrossY);
  let turn = pairOf(cellTurnX, cellTurnY);
  let bend = pairOf(cellBendX + HALF_FINE, cellBendY + HALF_FINE);
  const downBend = pairOf(cellDownBendX, cellDownBendY);
  const turnBend = pairOf(cellTurnBendX, cellTurnBendY);
  const bendTurn = pairOf(cellBendTurnX, cellBendTurnY);
  let rowTo = cellTo;
  for (let rows = cellRows; rows > 0; rows--) {
    const first = i64x2.shr_u(place, <i32>FINER);
    const step = i64x2.shr_u(across, <i32>FINER);
    const change = i64x2.shr_u(bend, <i32>FINER);
    let x = fourFrom(xs(first), xs(step), xs(change), bent);
    let y = fourFrom(ys(first), ys(step), ys(change), bent);
    let stepX = fourSteps(xs(step), xs(change), bent);
    let stepY = fourSteps(ys(step), ys(change), bent);
    const bendX = i32x4.shl(xs(change), 4);
    const bendY = i32x4.shl(ys(change), 4);
    const end = rowTo + rowBytes;
    let to = rowTo;
    do {
      const left = linearFour(x, y, base, columns, half, last);
      x = i32x4.add(x, stepX);
      y = i32x4.add(y, stepY);
      if (bent) {
        stepX = i32x4.add(stepX, bendX);
        stepY = i32x4.add(stepY, bendY);
      }
      const right = linearFour(x, y, base, columns, half, last);
      x = i32x4.add(x, stepX);
      y = i32x4.add(y, stepY);
      if (bent) {
        stepX = i32x4.add(stepX, bendX);
        stepY = i32x4.add(stepY, bendY);
      }
      const words = i16x8.narrow_i32x4_s(left, right);
      v128.store64_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
      to += 8;
    } while (to < end);
    rowTo += outStride;
    place = i64x2.add(place, down);
    across = i64x2.add(across, turn);
    if (bent) {
      down = i64x2.add(down, downBend);
      turn = i64x2.add(turn, turnBend);
      bend = i64x2.add(bend, bendTurn);
    }
  }
}

/** A row of the nearest samples of 16 bits as they are. */
@inline
function nearestRow(to: usize, end: usize, place: i64, step: i64, bend: i64): void {
  for (; to < end; to += 2) {
    store<u16>(to, load<u16>(firstTap(place + TO_NEAREST, cellBase, tileStride)) ^ 0x8000);
    place += step;
    step += bend;
  }
}

/** A row of a cell of any other taps. */
@inline
function tapsRow(to: usize, end: usize, place: i64, step: i64, bend: i64, taps: i32, wide: bool): void {
  const base = cellBase;
  const tableX = cellTableX;
  const tableY = cellTableY;
  const stride = tileStride;
  const cut = taps == DIRECT ? 15 : 16;
  const half = i32x4.splat(wide ? HALF_STEP_WIDE : HALF_DIRECT);
  const bits = wide ? SUM_BITS_WIDE : taps == DIRECT ? SUM_BITS_DIRECT : SUM_BITS;
  for (; to < end; to += wide ? 8 : 4) {
    let sum: v128;
    if (taps <= 4) {
      let first = few(place, taps, cut, base, stride, tableY);
      let weights = v128.load64_zero(acrossAt(tableX, place));
      place += step;
      step += bend;
      first = i16x8.narrow_i32x4_s(first, few(place, taps, cut, base, stride, tableY));
      v128.store(partSums, i32x4.dot_i16x8_s(first, v128.load64_lane(acrossAt(tableX, place), weights, 1)));
      place += step;
      step += bend;
      first = few(place, taps, cut, base, stride, tableY);
      weights = v128.load64_zero(acrossAt(tableX, place));
      place += step;
      step += bend;
      first = i16x8.narrow_i32x4_s(first, few(place, taps, cut, base, stride, tableY));
      const last = i32x4.dot_i16x8_s(first, v128.load64_lane(acrossAt(tableX, place), weights, 1));
      sum = added(v128.load(partSums), last);
    } else {
      v128.store(partSums, many(place, taps, cut, base, stride, tableX, tableY));
      place += step;
      step += bend;
      v128.store(partSums, many(place, taps, cut, base, stride, tableX, tableY), 16);
      place += step;
      step += bend;
      v128.store(partSums, many(place, taps, cut, base, stride, tableX, tableY), 32);
      place += step;
      step += bend;
      const last = many(place, taps, cut, base, stride, tableX, tableY);
      sum = added(added(v128.load(partSums), v128.load(partSums, 16)), added(v128.load(partSums, 32), last));
    }
    const whole = i32x4.shr_s(wide || taps == DIRECT ? i32x4.add(sum, half) : sum, bits);
    const words = i16x8.narrow_i32x4_s(whole, whole);
    if (wide) v128.store64_lane(to, v128.xor(words, i16x8.splat(LESS)), 0);
    else v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
    place += step;
    step += bend;
  }
}

/** A row of a cell inside the source, of which up to three pixels too many are drawn. */
@inline
export function planeRow(to: usize, end: usize, place: i64, step: i64, bend: i64, taps: i32, wide: bool): void {
  if (taps == NEAREST) nearestRow(to, end, place, step, bend);
  else tapsRow(to, end, place, step, bend, taps, wide);
}

/** A row of bytes, of three samples a pixel or of four, with the row below it. */
@inline
function pairRow(from: usize, fromStride: i32, to: usize, end: usize, planes: i32, planeBytes: i32, four: bool): void {
  const redAndGreen = four
    ? i8x16(0, -1, 4, -1, 8, -1, 12, -1, 1, -1, 5, -1, 9, -1, 13, -1)
    : i8x16(0, -1, 3, -1, 6, -1, 9, -1, 1, -1, 4, -1, 7, -1, 10, -1);
  const below = four
    ? i8x16(-1, 0, -1, 4, -1, 8, -1, 12, -1, 1, -1, 5, -1, 9, -1, 13)
    : i8x16(-1, 0, -1, 3, -1, 6, -1, 9, -1, 1, -1, 4, -1, 7, -1, 10);
  const blue = four
    ? i8x16(2, -1, 6, -1, 10, -1, 14, -1, -1, -1, -1, -1, -1, -1, -1, -1)
    : i8x16(2, -1, 5, -1, 8, -1, 11, -1, -1, -1, -1, -1, -1, -1, -1, -1);
  const blueBelow = four
    ? i8x16(-1, 2, -1, 6, -1, 10, -1, 14, -1, -1, -1, -1, -1, -1, -1, -1)
    : i8x16(-1, 2, -1, 5, -1, 8, -1, 11, -1, -1, -1, -1, -1, -1, -1, -1);
  let p = from;
  let q = to;
  do {
    const a = v128.load(p);
    const b = v128.load(p + fromStride);
    const first = picked(a, b, redAndGreen, below);
    v128.store(q, lowWords(first));
    if (planes > 1) {
      v128.store(q + planeBytes, highWords(first));
      v128.store(q + 2 * planeBytes, lowWords(picked(a, b, blue, blueBelow)));
    }
    p += four ? 16 : 12;
    q += 16;
  } while (q < end);
}

/**
 * Samples of a window of four a pixel, or of three bytes, each with the same of the row below it, as i16; of 8 bits as {@link lowWords}.
 * @param planes how many of the first three samples, one or three; each plane `planeBytes` after the one before
 * @param samples a pixel's, of 8 bits three or four; of 16 bits four
 * @param width pixels a row; up to three more are written beyond each @param height rows of the result, one less than of the window
 */
export function planePairs(
  from: usize,
  fromStride: i32,
  to: usize,
  toStride: i32,
  width: i32,
  height: i32,
  planes: i32,
  planeBytes: i32,
  wide: i32,
  samples: i32,
): void {
  for (let j = 0; j < height; j++) {
    let p = from + j * fromStride;
    let q = to + j * toStride;
    const end = q + (width << 2);
    if (wide) {
      for (; q < end; p += 16, q += 8) {
        const a = v128.load(p);
        const b = v128.load(p + fromStride);
        const first = i8x16.shuffle(a, b, 0, 1, 16, 17, 8, 9, 24, 25, 2, 3, 18, 19, 10, 11, 26, 27);
        v128.store64_lane(q, first, 0);
        if (planes == 1) continue;
        v128.store64_lane(q + planeBytes, first, 1);
        const third = i8x16.shuffle(a, b, 4, 5, 20, 21, 12, 13, 28, 29, 4, 5, 20, 21, 12, 13, 28, 29);
        v128.store64_lane(q + 2 * planeBytes, third, 0);
      }
      continue;
    }
    if (samples == 3) pairRow(p, fromStride, q, end, planes, planeBytes, false);
    else pairRow(p, fromStride, q, end, planes, planeBytes, true);
  }
}

/** A row of RGB of 8 bits, or of RGBA, opaque, sixteen pixels at a time. */
@inline
function joinRow(red: usize, green: usize, blue: usize, to: usize, width: i32, four: bool): void {
  const opaque = i8x16.splat(-1);
  let i = 0;
  do {
    const r = v128.load(red + i);
    const g = v128.load(green + i);
    const b = v128.load(blue + i);
    if (four) {
      const rg = i8x16.shuffle(r, g, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
      const ba = i8x16.shuffle(b, opaque, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23);
      const rgLast = i8x16.shuffle(r, g, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
      const baLast = i8x16.shuffle(b, opaque, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31);
      v128.store(to, v128.shuffle<i16>(rg, ba, 0, 8, 1, 9, 2, 10, 3, 11));
      v128.store(to, v128.shuffle<i16>(rg, ba, 4, 12, 5, 13, 6, 14, 7, 15), 16);
      v128.store(to, v128.shuffle<i16>(rgLast, baLast, 0, 8, 1, 9, 2, 10, 3, 11), 32);
      v128.store(to, v128.shuffle<i16>(rgLast, baLast, 4, 12, 5, 13, 6, 14, 7, 15), 48);
    } else storeRgb(to, r, g, b);
    to += four ? 64 : 48;
    i += 16;
  } while (i < width);
}

/** The same of 16 bits, four pixels at a time. */
@inline
function joinWords(red: usize, green: usize, blue: usize, to: usize, width: i32, four: bool): void {
  const opaque = i16x8.splat(-1);
  const packed = i8x16(0, 1, 2, 3, 4, 5, 8, 9, 10, 11, 12, 13, -1, -1, -1, -1);
  for (let i = 0; i < width << 1; i += 8, to += four ? 32 : 24) {
    const rg = v128.shuffle<i16>(v128.load64_zero(red + i), v128.load64_zero(green + i), 0, 8, 1, 9, 2, 10, 3, 11);
    const ba = v128.shuffle<i16>(v128.load64_zero(blue + i), opaque, 0, 8, 1, 9, 2, 10, 3, 11);
    const first = v128.shuffle<i32>(rg, ba, 0, 4, 1, 5);
    const last = v128.shuffle<i32>(rg, ba, 2, 6, 3, 7);
    v128.store(to, four ? first : i8x16.swizzle(first, packed));
    v128.store(to + (four ? 16 : 12), four ? last : i8x16.swizzle(last, packed));
  }
}

/**
 * Three planes as pixels of three or four samples, the fourth opaque.
 * @param red, green, blue planes whose rows lie `stride` bytes apart; @param width pixels a row; up to fifteen more are written beyond each
 */
export function joinPlanes(
  red: usize,
  green: usize,
  blue: usize,
  stride: i32,
  to: usize,
  toStride: i32,
  width: i32,
  height: i32,
  pixelBytes: i32,
  wide: i32,
): void {
  const four = pixelBytes == 4 << wide;
  for (let j = 0; j < height; j++) {
    const row = j * stride;
    const q = to + j * toStride;
    if (wide) joinWords(red + row, green + row, blue + row, q, width, four);
    else if (four) joinRow(red + row, green + row, blue + row, q, width, true);
    else joinRow(red + row, green + row, blue + row, q, width, false);
  }
}
