/*
 * Rows of pixels out of a baseline JPEG (ITU-T T.81), in AssemblyScript with SIMD: Huffman codes by tables that are given, the inverse cosine
 * transform (block.ts), halved colour brought back with weights of three
 * and one, YCbCr to RGB. It counts as libjpeg's accurate transform and its smooth upsampling do, so that pixels agree with it to the bit. Whoever
 * calls it lays out the memory; nothing is allocated here. What is not as it should be is only told, for a more patient decoder to look at.
 */

import { highs, inverse, loadRows, lows, two, v0, v1, v2, v3, v4, v5, v6, v7 } from './block';
import { storeRgb } from './picked';

let width: i32 = 0;
let height: i32 = 0;
let colours: i32 = 0;
/** Blocks of brightness across and down for each of colour: 1 or 2. */
let across: i32 = 1;
let down: i32 = 1;
/** Samples of a row of a plane. */
let stride: i32 = 0;
/** Three planes, rings of two rows of units: 32 rows of brightness, 16 and 16 of colour; 8-bit samples. */
let planes: usize = 0;
/** A row of each colour in full width, and one of sums before it; 16-bit. */
let wideCb: usize = 0;
let wideCr: usize = 0;
let sums: usize = 0;
/** Three tables of 64 factors, natural order, 16-bit. */
let factors: usize = 0;
/** Six tables of codes, of means and of the others for each colour: 1024 entries by the first ten bits, then parts of 64 by the six after them. */
let codes: usize = 0;
/** A block, natural order, 16-bit; behind it where each place in zigzag order is, 80 bytes. */
let block: usize = 0;
let order: usize = 0;

let at: usize = 0;
let end: usize = 0;
let bits: u64 = 0;
let bitCount: i32 = 0;
/** Bits beyond the data that were taken for zeros. */
let beyond: i32 = 0;
let interval: i32 = 0;
let untilRestart: i32 = 0;
let restarts: i32 = 0;
let wrong: i32 = 0;

let means0: i32 = 0;
let means1: i32 = 0;
let means2: i32 = 0;

/** Bytes of a table of codes. */
const CODES: i32 = 2048 + 2 * 64 * 256;

/** @param every units between restarts, 0 for none; pointers as they are described above */
export function lay(
  w: i32,
  h: i32,
  channels: i32,
  horizontal: i32,
  vertical: i32,
  every: i32,
  planesAt: usize,
  widthsAt: usize,
  factorsAt: usize,
  codesAt: usize,
  blockAt: usize,
): void {
  width = w;
  height = h;
  colours = channels;
  across = horizontal;
  down = vertical;
  interval = every;
  stride = (w + 47) & ~15;
  planes = planesAt;
  wideCb = widthsAt;
  wideCr = widthsAt + stride;
  sums = widthsAt + 2 * stride;
  factors = factorsAt;
  codes = codesAt;
  block = blockAt;
  order = blockAt + 128;
}

/** What stands between the header of the scan and the end of the file. */
export function begin(from: usize, to: usize): void {
  at = from;
  end = to;
  bits = 0;
  bitCount = 0;
  beyond = 0;
  wrong = 0;
  restarts = 0;
  untilRestart = interval;
  means0 = means1 = means2 = 0;
}

/** Where the next byte stands. */
export function place(): usize {
  return at;
}

/** The same data, from the next byte on, stand somewhere else now; more may stand behind them. */
export function goOn(from: usize, to: usize): void {
  at = from;
  end = to;
}

@inline
function planeRow(plane: i32, row: i32): usize {
  const rows = plane == 0 ? row & 31 : plane == 1 ? 32 + (row & 15) : 48 + (row & 15);
  return planes + rows * stride;
}

/** More bits: at least 32 afterwards; a marker ends them, and zeros follow. */
function fill(): void {
  if (at + 4 <= end) {
    const word = load<u32>(at);
    const inverse = ~word;
    if (((inverse - 0x01010101) & ~inverse & 0x80808080) == 0) {
      bits = (bits << 32) | bswap<u32>(word);
      bitCount += 32;
      at += 4;
      return;
    }
  }
  while (bitCount <= 48) {
    let byte: u64 = 0;
    if (at >= end) beyond += 8;
    else {
      byte = load<u8>(at);
      if (byte != 255) at++;
      else if (at + 1 < end && load<u8>(at + 1) == 0) at += 2;
      else {
        byte = 0;
        beyond += 8;
      }
    }
    bits = (bits << 8) | byte;
    bitCount += 8;
  }
}

@inline
function symbol(table: usize): i32 {
  if (bitCount < 32) fill();
  let entry = <i32>load<u16>(table + (<usize>((bits >> (bitCount - 10)) & 1023) << 1));
  if (entry & 0x8000) {
    const six = <i32>((bits >> (bitCount - 16)) & 63);
    entry = <i32>load<u16>(table + 2048 + ((((entry & 0x7fff) << 6) + six) << 1));
  }
  const length = entry >> 8;
  if (length == 0) wrong = 1;
  bitCount -= length;
  return entry & 255;
}

/** A number of so many bits: of those that begin with a zero one less than all ones is taken away. */
@inline
function number(size: i32): i32 {
  bitCount -= size;
  const value = <i32>((bits >> bitCount) & ((1 << size) - 1));
  return value < 1 << (size - 1) ? value - (1 << size) + 1 : value;
}

@inline
function lay8(into: usize, values: v128): void {
  const bytes = i8x16.add(i8x16.narrow_i16x8_s(values, values), i8x16.splat(-128));
  v128.store64_lane(into, bytes, 0);
}

/** Reads a block and leaves its samples at a place of a plane. @returns its mean */
function decoded(kind: i32, plane: i32, column: i32, row: i32, before: i32): i32 {
  const direct = codes + kind * 2 * CODES;
  const others = direct + CODES;
  const table = factors + (plane << 7);
  const none = i16x8.splat(0);
  const target = block;
  for (let k = 0; k < 128; k += 16) v128.store(target + k, none);
  const size = symbol(direct);
  if (size > 15) wrong = 1;
  const mean = size && size < 16 ? before + number(size) : before;
  store<i16>(target, <i16>(mean * load<i16>(table)));
  // what is read all the time stands in registers
  const places = order;
  let buffer = bits;
  let count = bitCount;
  let k = 0;
  while (true) {
    if (count < 32) {
      bits = buffer;
      bitCount = count;
      fill();
      buffer = bits;
      count = bitCount;
    }
    let entry = <i32>load<u16>(others + (<usize>((buffer >> (count - 10)) & 1023) << 1));
    if (entry & 0x8000) {
      const six = <i32>((buffer >> (count - 16)) & 63);
      entry = <i32>load<u16>(others + 2048 + ((((entry & 0x7fff) << 6) + six) << 1));
    }
    const length = entry >> 8;
    const bitsOf = entry & 15;
    if (bitsOf == 0) {
      count -= length;
      if (length == 0) wrong = 1;
      if ((entry & 0xf0) != 0xf0) break;
      k += 16;
      if (k > 63) break;
      continue;
    }
    k += ((entry >> 4) & 15) + 1;
    if (k > 63) {
      wrong = 1;
      break;
    }
    count -= length + bitsOf;
    const raw = <i32>(buffer >> count) & ((1 << bitsOf) - 1);
    const value = raw < 1 << (bitsOf - 1) ? raw - (1 << bitsOf) + 1 : raw;
    const place = <usize>load<u8>(places + k) << 1;
    store<i16>(target + place, <i16>(value * load<i16>(table + place)));
    if (k == 63) break;
  }
  bits = buffer;
  bitCount = count;
  const into = planeRow(plane, row) + column;
  if (k == 0) {
    const level = (<i32>load<i16>(block) + 4) >> 3;
    const flat = i8x16.splat(<i8>(level < -128 ? 0 : level > 127 ? 255 : level + 128));
    for (let j = 0; j < 8; j++) v128.store64_lane(into + j * stride, flat, 0);
    return mean;
  }
  loadRows(block, 16);
  inverse();
  lay8(into, v0);
  lay8(into + stride, v1);
  lay8(into + 2 * stride, v2);
  lay8(into + 3 * stride, v3);
  lay8(into + 4 * stride, v4);
  lay8(into + 5 * stride, v5);
  lay8(into + 6 * stride, v6);
  lay8(into + 7 * stride, v7);
  return mean;
}

/** The mark that is due, and nothing known of what came before. */
function restart(): void {
  // whole bytes that were taken in advance stand before the mark
  if (beyond < bitCount - 7) wrong = 1;
  bits = 0;
  bitCount = 0;
  beyond = 0;
  while (at + 1 < end && load<u8>(at) == 255 && load<u8>(at + 1) == 255) at++;
  if (at + 2 > end || load<u8>(at) != 255 || load<u8>(at + 1) != 0xd0 + (restarts & 7)) {
    wrong = 1;
    return;
  }
  at += 2;
  restarts++;
  untilRestart = interval;
  means0 = means1 = means2 = 0;
}

/**
 * Reads a row of units, which begins at a row of the picture, into the rings.
 * @returns 0, or 1 where the data are not as they should be
 */
export function read(first: i32): i32 {
  const unit = across << 3;
  const chroma = first / down;
  for (let x = 0; x < width; x += unit) {
    if (interval && untilRestart == 0) restart();
    untilRestart--;
    for (let j = 0; j < down; j++)
      for (let i = 0; i < across; i++) means0 = decoded(0, 0, x + (i << 3), first + (j << 3), means0);
    if (colours == 3) {
      means1 = decoded(1, 1, x / across, chroma, means1);
      means2 = decoded(2, 2, x / across, chroma, means2);
    }
    // zeros that were never there have been read
    if (wrong || beyond > bitCount) return 1;
  }
  return 0;
}

/** A row of a colour in the picture's full width. */
function widened(plane: i32, y: i32, into: usize): usize {
  if (across == 1) return planeRow(plane, y);
  const count = (width + 1) >> 1;
  if (down == 1) {
    const near = planeRow(plane, y);
    for (let i = 0; i < count; i += 8) v128.store(sums + (i << 1), v128.load8x8_u(near + i));
    across2(count, into, 1, 2, 2);
    return into;
  }
  const rows = (height + 1) >> 1;
  const c = y >> 1;
  const next = y & 1 ? c + 1 : c - 1;
  const near = planeRow(plane, c);
  const far = planeRow(plane, next < 0 ? 0 : next >= rows ? rows - 1 : next);
  const three = i16x8.splat(3);
  for (let i = 0; i < count; i += 8)
    v128.store(sums + (i << 1), i16x8.add(i16x8.mul(v128.load8x8_u(near + i), three), v128.load8x8_u(far + i)));
  across2(count, into, 8, 7, 4);
  return into;
}

/** Values that stand in the row of sums, across: of each two, of three and one of its neighbours on either side. */
function across2(count: i32, into: usize, biasLeft: i16, biasRight: i16, shift: i32): void {
  // beyond the ends their own go on: three and one of it are four
  store<i16>(sums - 2, load<i16>(sums));
  store<i16>(sums + (count << 1), load<i16>(sums + ((count - 1) << 1)));
  const three = i16x8.splat(3);
  const toLeft = i16x8.splat(biasLeft);
  const toRight = i16x8.splat(biasRight);
  for (let i = 0; i < count; i += 8) {
    const here = sums + (i << 1);
    const middle = i16x8.mul(v128.load(here), three);
    const left = i16x8.shr_u(i16x8.add(i16x8.add(middle, v128.load(here - 2)), toLeft), shift);
    const right = i16x8.shr_u(i16x8.add(i16x8.add(middle, v128.load(here + 2)), toRight), shift);
    v128.store(into + (i << 1), v128.or(left, i16x8.shl(right, 8)));
  }
}

@inline
function mixed(low: v128, high: v128, weights: v128): v128 {
  const half = i32x4.splat(32768);
  return i16x8.narrow_i32x4_s(
    i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(low, weights), half), 16),
    i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(high, weights), half), 16),
  );
}

/**
 * Writes rows of the picture that have been read, and what halved colour needs of those about them.
 * @param out RGB or grey, writable 48 bytes beyond their end
 */
export function write(from: i32, to: i32, out: usize): void {
  const middle = i16x8.splat(128);
  for (let y = from; y < to; y++) {
    const bright = planeRow(0, y);
    if (colours == 1) {
      memory.copy(out, bright, width);
      out += width;
      continue;
    }
    const cbAt = widened(1, y, wideCb);
    const crAt = widened(2, y, wideCr);
    let x = 0;
    do {
      let reds: v128 = i16x8.splat(0);
      let greens: v128 = i16x8.splat(0);
      let blues: v128 = i16x8.splat(0);
      let reds1: v128 = i16x8.splat(0);
      let greens1: v128 = i16x8.splat(0);
      let blues1: v128 = i16x8.splat(0);
      for (let half = 0; half < 2; half++) {
        const i = x + (half << 3);
        const l = v128.load8x8_u(bright + i);
        const cb = i16x8.sub(v128.load8x8_u(cbAt + i), middle);
        const cr = i16x8.sub(v128.load8x8_u(crAt + i), middle);
        const low = lows(cb, cr);
        const high = highs(cb, cr);
        // JFIF's weights, what is whole of them apart, so that the rest fits a signed word
        const red = i16x8.add(i16x8.add(l, cr), mixed(low, high, two(0, 26345)));
        const green = i16x8.add(i16x8.sub(l, cr), mixed(low, high, two(-22554, 18734)));
        const blue = i16x8.add(i16x8.add(l, i16x8.shl(cb, 1)), mixed(low, high, two(-14942, 0)));
        if (half == 0) {
          reds = red;
          greens = green;
          blues = blue;
        } else {
          reds1 = red;
          greens1 = green;
          blues1 = blue;
        }
      }
      const r = i8x16.narrow_i16x8_u(reds, reds1);
      const g = i8x16.narrow_i16x8_u(greens, greens1);
      const b = i8x16.narrow_i16x8_u(blues, blues1);
      storeRgb(out + x * 3, r, g, b);
      x += 16;
    } while (x < width);
    out += width * 3;
  }
}
