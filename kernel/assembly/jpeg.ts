/*
 * Baseline JPEG (ITU-T T.81) of rows of pixels, in AssemblyScript with SIMD: colours to YCbCr, halved where asked for, the discrete cosine
 * transform (block.ts), quantisation, Huffman codes by tables that
 * are given. It counts as libjpeg's accurate transform does, so that files agree with it to the bit. Whoever calls it lays out the memory;
 * nothing is allocated here.
 */

import { forward, highs, loadRows, lows, v0, v1, v2, v3, v4, v5, v6, v7 } from './block';
import { picked } from './picked';

let rowWidth: i32 = 0;
let colours: i32 = 0;
let halved: i32 = 0;
/** Samples of a plane's row, with what fills the last blocks. */
let stride: i32 = 0;
/** Three planes of 16 rows, 16-bit samples less 128; for halved colour these rows come before it is halved. */
let planes: usize = 0;
/** Two tables of 64 divisors, natural order, 32-bit floats: half a step and one over a step of the quantised values. */
let divisors: usize = 0;
/** Four tables of 256 codes: direct of brightness, others of it, direct of colour, others of it; length in the low 5 bits. */
let codes: usize = 0;
/** A block in zigzag order. */
let block: usize = 0;

let bits: u64 = 0;
let bitCount: i32 = 0;
let to: usize = 0;
let lastY: i32 = 0;
let lastCb: i32 = 0;
let lastCr: i32 = 0;

/** @param channels 1 or 3; @param half 1 for colour at half resolution; pointers as they are described above */
export function lay(width: i32, channels: i32, half: i32, planesAt: usize, divisorsAt: usize, codesAt: usize, blockAt: usize): void {
  rowWidth = width;
  colours = channels;
  halved = half;
  stride = (width + 31) & ~15;
  planes = planesAt;
  divisors = divisorsAt;
  codes = codesAt;
  block = blockAt;
}

/** Before the first row of a band: nothing is known of what came before. */
export function begin(): void {
  bits = 0;
  bitCount = 0;
  lastY = 0;
  lastCb = 0;
  lastCr = 0;
}

/** The bits that are left, filled with ones. @returns bytes written */
export function finish(out: usize): i32 {
  to = out;
  while (bitCount & 7) put(1, 1);
  for (; bitCount > 0; bitCount -= 8) writeByte((bits >> (bitCount - 8)) & 255);
  return <i32>(to - out);
}

@inline
function writeByte(byte: u64): void {
  store<u8>(to++, <u8>byte);
  // what could be taken for a marker is followed by a zero
  if (byte == 255) store<u8>(to++, 0);
}

/** Four bytes. @returns where the next go */
@inline
function flushed(word: u32, out: usize): usize {
  const inverse = ~word;
  if (((inverse - 0x01010101) & ~inverse & 0x80808080) == 0) {
    store<u32>(out, bswap<u32>(word));
    return out + 4;
  }
  return stuffed(word, out);
}

function stuffed(word: u32, out: usize): usize {
  to = out;
  writeByte(word >> 24);
  writeByte((word >> 16) & 255);
  writeByte((word >> 8) & 255);
  writeByte(word & 255);
  return to;
}

@inline
function put(code: u32, length: i32): void {
  bits = (bits << length) | code;
  bitCount += length;
  if (bitCount < 32) return;
  bitCount -= 32;
  to = flushed(<u32>(bits >> bitCount), to);
}

@inline
function planeRow(plane: i32, row: i32): usize {
  return planes + (((plane << 4) + row) * stride << 1);
}

/**
 * One row of minimum coded units: 8 rows of pixels, 16 with halved colour, fewer at the lower end.
 * @param source 8-bit samples, readable 32 bytes beyond their end
 * @returns bytes written
 */
export function row(source: usize, rows: i32, out: usize): i32 {
  to = out;
  const unit = halved ? 16 : 8;
  for (let j = 0; j < rows; j++) {
    const from = source + j * rowWidth * colours;
    if (colours == 1) grey(from, j);
    else colour(from, j);
  }
  // below the picture its last row goes on
  for (let j = rows; j < unit; j++) for (let p = 0; p < colours; p++) memory.copy(planeRow(p, j), planeRow(p, j - 1), stride << 1);
  if (colours == 1) {
    for (let i = 0; i < rowWidth; i += 8) lastY = coded(planeRow(0, 0) + (i << 1), 0, lastY);
    return <i32>(to - out);
  }
  if (!halved) {
    for (let i = 0; i < rowWidth; i += 8) {
      lastY = coded(planeRow(0, 0) + (i << 1), 0, lastY);
      lastCb = coded(planeRow(1, 0) + (i << 1), 1, lastCb);
      lastCr = coded(planeRow(2, 0) + (i << 1), 1, lastCr);
    }
    return <i32>(to - out);
  }
  const pairs = (rows + 1) >> 1;
  for (let p = 1; p < 3; p++) halve(p, pairs);
  for (let i = 0; i < rowWidth; i += 16) {
    for (let n = 0; n < 4; n++) {
      const x = i + ((n & 1) << 3);
      const y = (n >> 1) << 3;
      // blocks wholly beside the picture are as bright as the one before, and flat
      if (x < rowWidth && y < rows) lastY = coded(planeRow(0, y) + (x << 1), 0, lastY);
      else flat();
    }
    lastCb = coded(planeRow(1, 0) + i, 1, lastCb);
    lastCr = coded(planeRow(2, 0) + i, 1, lastCr);
  }
  return <i32>(to - out);
}

@inline
function pad(plane: i32, j: i32): void {
  const at = planeRow(plane, j);
  const last = load<i16>(at + ((rowWidth - 1) << 1));
  for (let i = rowWidth; i < stride; i++) store<i16>(at + (i << 1), last);
}

function grey(from: usize, j: i32): void {
  const at = planeRow(0, j);
  for (let i = 0; i < rowWidth; i += 8)
    v128.store(at + (i << 1), i16x8.sub(v128.load8x8_u(from + i), i16x8.splat(128)));
  pad(0, j);
}

@inline
function sumsOf(pairs: v128, weights: v128, others: v128, otherWeights: v128): v128 {
  const half = i32x4.splat(32768);
  return i32x4.shr_s(i32x4.add(i32x4.add(i32x4.dot_i16x8_s(pairs, weights), i32x4.dot_i16x8_s(others, otherWeights)), half), 16);
}

@inline
function differenceOf(pairs: v128, weights: v128, whole: v128): v128 {
  const centre = i32x4.splat((128 << 16) + 32767);
  return i32x4.shr_s(i32x4.add(i32x4.add(i32x4.dot_i16x8_s(pairs, weights), i32x4.shl(whole, 15)), centre), 16);
}

/** Rec. ITU-R BT.601 as JFIF has it, with 16 bits behind the point; green's weight of brightness is in two parts to fit a signed word. */
function colour(from: usize, j: i32): void {
  const y = planeRow(0, j);
  const cb = planeRow(1, j);
  const cr = planeRow(2, j);
  const yrg = i16x8(19595, 22086, 19595, 22086, 19595, 22086, 19595, 22086);
  const ybg = i16x8(7471, 16384, 7471, 16384, 7471, 16384, 7471, 16384);
  const cbrg = i16x8(-11059, -21709, -11059, -21709, -11059, -21709, -11059, -21709);
  const crbg = i16x8(-5329, -27439, -5329, -27439, -5329, -27439, -5329, -27439);
  const middle = i16x8.splat(128);
  const shift = halved ? i16x8.splat(0) : middle;
  let i = 0;
  do {
    const a = v128.load(from);
    const b = v128.load(from + 8);
    const r = picked(a, b, i8x16(0, -1, 3, -1, 6, -1, 9, -1, 12, -1, 15, -1, -1, -1, -1, -1), i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 10, -1, 13, -1));
    const g = picked(a, b, i8x16(1, -1, 4, -1, 7, -1, 10, -1, 13, -1, -1, -1, -1, -1, -1, -1), i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 8, -1, 11, -1, 14, -1));
    const l = picked(a, b, i8x16(2, -1, 5, -1, 8, -1, 11, -1, 14, -1, -1, -1, -1, -1, -1, -1), i8x16(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 9, -1, 12, -1, 15, -1));
    const rg0 = lows(r, g);
    const rg1 = highs(r, g);
    const bg0 = lows(l, g);
    const bg1 = highs(l, g);
    const at = i << 1;
    v128.store(y + at, i16x8.sub(i16x8.narrow_i32x4_s(sumsOf(rg0, yrg, bg0, ybg), sumsOf(rg1, yrg, bg1, ybg)), middle));
    const b0 = i32x4.extend_low_i16x8_u(l);
    const b1 = i32x4.extend_high_i16x8_u(l);
    v128.store(cb + at, i16x8.sub(i16x8.narrow_i32x4_s(differenceOf(rg0, cbrg, b0), differenceOf(rg1, cbrg, b1)), shift));
    const r0 = i32x4.extend_low_i16x8_u(r);
    const r1 = i32x4.extend_high_i16x8_u(r);
    v128.store(cr + at, i16x8.sub(i16x8.narrow_i32x4_s(differenceOf(bg0, crbg, r0), differenceOf(bg1, crbg, r1)), shift));
    i += 8;
    from += 24;
  } while (i < rowWidth);
  for (let p = 0; p < 3; p++) pad(p, j);
}

/** Means of two by two, rounded down and up in turns so that none is brighter than it was; in the plane's own first rows. */
function halve(plane: i32, pairs: i32): void {
  const bias = i32x4(1, 2, 1, 2);
  const middle = i16x8.splat(128);
  for (let j = 0; j < pairs; j++) {
    const a = planeRow(plane, j << 1);
    const b = planeRow(plane, (j << 1) + 1);
    const into = planeRow(plane, j);
    for (let i = 0; i < stride << 1; i += 32) {
      const low = i32x4.extadd_pairwise_i16x8_s(i16x8.add(v128.load(a + i), v128.load(b + i)));
      const high = i32x4.extadd_pairwise_i16x8_s(i16x8.add(v128.load(a + i + 16), v128.load(b + i + 16)));
      const means = i16x8.narrow_i32x4_s(i32x4.shr_s(i32x4.add(low, bias), 2), i32x4.shr_s(i32x4.add(high, bias), 2));
      v128.store(into + (i >> 1), i16x8.sub(means, middle));
    }
  }
  for (let j = pairs; j < 8; j++) memory.copy(planeRow(plane, j), planeRow(plane, j - 1), stride);
}

/** Nearest whole number of four quotients, halves up: none comes nearer to the next than half of one over the divisor, which a float tells. */
@inline
function quotients(magnitudes: v128, table: usize): v128 {
  const steps = f32x4.mul(f32x4.add(f32x4.convert_i32x4_s(magnitudes), v128.load(table)), v128.load(table + 256));
  // adding 1.5 * 2^23 leaves the nearest whole number in the low bits
  return i32x4.sub(f32x4.add(f32x4.sub(steps, f32x4.splat(0.5)), f32x4.splat(12582912)), i32x4.splat(0x4b400000));
}

@inline
function quantised(values: v128, table: usize): v128 {
  const sign = i16x8.shr_s(values, 15);
  const magnitudes = i16x8.sub(v128.xor(values, sign), sign);
  const low = quotients(i32x4.extend_low_i16x8_u(magnitudes), table);
  const high = quotients(i32x4.extend_high_i16x8_u(magnitudes), table + 16);
  return i16x8.sub(v128.xor(i16x8.narrow_i32x4_s(low, high), sign), sign);
}

@inline
function place(values: v128, a: i32, b: i32, c: i32, d: i32, e: i32, f: i32, g: i32, h: i32): void {
  v128.store_lane<i16>(block + (a << 1), values, 0);
  v128.store_lane<i16>(block + (b << 1), values, 1);
  v128.store_lane<i16>(block + (c << 1), values, 2);
  v128.store_lane<i16>(block + (d << 1), values, 3);
  v128.store_lane<i16>(block + (e << 1), values, 4);
  v128.store_lane<i16>(block + (f << 1), values, 5);
  v128.store_lane<i16>(block + (g << 1), values, 6);
  v128.store_lane<i16>(block + (h << 1), values, 7);
}

@inline
function filled(at: i32): u64 {
  const none = i16x8.splat(0);
  const low = i16x8.ne(v128.load(block + at), none);
  const high = i16x8.ne(v128.load(block + at + 16), none);
  return i8x16.bitmask(i8x16.narrow_i16x8_s(low, high));
}

@inline
function sizeOf(value: i32): i32 {
  return 32 - clz(value < 0 ? -value : value);
}

/** A number's bits: of negative ones those of one less. */
@inline
function low(value: i32, size: i32): u32 {
  return (value + (value >> 31)) & ((1 << size) - 1);
}

/** A block like the one before it, with nothing in it. */
function flat(): void {
  const direct = load<u32>(codes);
  put(direct >> 5, direct & 31);
  const end = load<u32>(codes + 1024);
  put(end >> 5, end & 31);
}

/** Transforms, quantises and codes the block of 8 x 8 at a place of a plane. @returns its mean, for the next one */
function coded(at: usize, kind: i32, before: i32): i32 {
  const down = stride << 1;
  loadRows(at, down);
  forward();
  const table = divisors + (kind << 9);
  place(quantised(v0, table), 0, 1, 5, 6, 14, 15, 27, 28);
  place(quantised(v1, table + 32), 2, 4, 7, 13, 16, 26, 29, 42);
  place(quantised(v2, table + 64), 3, 8, 12, 17, 25, 30, 41, 43);
  place(quantised(v3, table + 96), 9, 11, 18, 24, 31, 40, 44, 53);
  place(quantised(v4, table + 128), 10, 19, 23, 32, 39, 45, 52, 54);
  place(quantised(v5, table + 160), 20, 22, 33, 38, 46, 51, 55, 60);
  place(quantised(v6, table + 192), 21, 34, 37, 47, 50, 56, 59, 61);
  place(quantised(v7, table + 224), 35, 36, 48, 49, 57, 58, 62, 63);

  const direct = codes + (kind << 11);
  const others = direct + 1024;
  const mean = <i32>load<i16>(block);
  const step = mean - before;
  const stepSize = sizeOf(step);
  const stepCode = load<u32>(direct + (stepSize << 2));
  put(((stepCode >> 5) << stepSize) | low(step, stepSize), (stepCode & 31) + stepSize);
  let left = (filled(0) | (filled(32) << 16) | (filled(64) << 32) | (filled(96) << 48)) & ~1;
  // what is written all the time stands in registers
  const values = block;
  let buffer = bits;
  let count = bitCount;
  let out = to;
  let done = 0;
  while (left) {
    const k = <i32>ctz(left);
    left &= left - 1;
    let run = k - done - 1;
    done = k;
    const value = <i32>load<i16>(values + (k << 1));
    const size = sizeOf(value);
    let word = low(value, size);
    let length = size;
    for (; run > 15; run -= 16) {
      const sixteen = load<u32>(others + (0xf0 << 2));
      buffer = (buffer << (sixteen & 31)) | (sixteen >> 5);
      count += sixteen & 31;
      if (count >= 32) {
        count -= 32;
        out = flushed(<u32>(buffer >> count), out);
      }
    }
    const code = load<u32>(others + (((run << 4) | size) << 2));
    word |= (code >> 5) << size;
    length += code & 31;
    buffer = (buffer << length) | word;
    count += length;
    if (count >= 32) {
      count -= 32;
      out = flushed(<u32>(buffer >> count), out);
    }
  }
  bits = buffer;
  bitCount = count;
  to = out;
  if (done < 63) {
    const end = load<u32>(others);
    put(end >> 5, end & 31);
  }
  return mean;
}
