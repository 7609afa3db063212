/*
 * What a PNG (ISO/IEC 15948) takes, in AssemblyScript: rows filtered for packing, sixteen bytes at a time, and
 * restored, a pixel at a time, and the sums of chunks. Whoever calls it lays out the memory;
 * nothing is allocated here.
 */

const SUB: i32 = 1;
const UP: i32 = 2;
const AVERAGE: i32 = 3;
const PAETH: i32 = 4;

/** Samples of 16 bits, turned between the machine's order of bytes and a PNG's; 15 bytes beyond may be turned too. */
export function turnBytes(from: usize, to: usize): void {
  for (; from < to; from += 16)
    v128.store(from, v128.shuffle<u8>(v128.load(from), v128.load(from), 1, 0, 3, 2, 5, 4, 7, 6, 9, 8, 11, 10, 13, 12, 15, 14));
}

@inline
function apart(x: v128, y: v128): v128 {
  return v128.or(v128.sub_sat<u8>(x, y), v128.sub_sat<u8>(y, x));
}

/** The Paeth predictor (9.4) of sixteen bytes, decided exactly in bytes: c lies between a and b, or the third distance is both others together. */
@inline
function paeth(a: v128, b: v128, c: v128): v128 {
  const pa = apart(b, c);
  const pb = apart(a, c);
  const aAbove = v128.eq<u8>(v128.max<u8>(a, c), a);
  const bAbove = v128.eq<u8>(v128.max<u8>(b, c), b);
  const pc = v128.bitselect(apart(pa, pb), v128.add_sat<u8>(pa, pb), v128.xor(aAbove, bAbove));
  const aLeast = v128.and(v128.eq<u8>(v128.min<u8>(pa, pb), pa), v128.eq<u8>(v128.min<u8>(pa, pc), pa));
  const bLeast = v128.eq<u8>(v128.min<u8>(pb, pc), pb);
  return v128.bitselect(a, v128.bitselect(b, c, bLeast), aLeast);
}

/** Half of the sum of two bytes, rounded down. */
@inline
function average(a: v128, b: v128): v128 {
  return v128.sub<u8>(v128.avgr<u8>(a, b), v128.and(v128.xor(a, b), v128.splat<u8>(1)));
}

@inline
function predictOne(kind: i32, a: i32, b: i32, c: i32): i32 {
  if (kind == SUB) return a;
  if (kind == UP) return b;
  if (kind == AVERAGE) return (a + b) >> 1;
  const pa = abs(b - c);
  const pb = abs(a - c);
  const pc = abs(a + b - 2 * c);
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

/** Sums of the sizes of differences, taken as signed bytes. */
@inline
function sizes(sum: v128, differences: v128): v128 {
  return v128.add<u32>(sum, v128.extadd_pairwise<u16>(v128.extadd_pairwise<u8>(v128.abs<i8>(differences))));
}

@inline
function total(sum: v128): u32 {
  return (
    v128.extract_lane<u32>(sum, 0) + v128.extract_lane<u32>(sum, 1) + v128.extract_lane<u32>(sum, 2) + v128.extract_lane<u32>(sum, 3)
  );
}

/** The filter whose differences are smallest together, of what whole sixteens after the first pixel come to. */
function smallest(row: usize, above: usize, length: i32, step: i32): i32 {
  let sub = v128.splat<u32>(0);
  let up = sub;
  let halves = sub;
  let third = sub;
  for (let k = step; k + 16 <= length; k += 16) {
    const x = v128.load(row + k);
    const a = v128.load(row + k - step);
    const b = v128.load(above + k);
    const c = v128.load(above + k - step);
    sub = sizes(sub, v128.sub<u8>(x, a));
    up = sizes(up, v128.sub<u8>(x, b));
    halves = sizes(halves, v128.sub<u8>(x, average(a, b)));
    third = sizes(third, v128.sub<u8>(x, paeth(a, b, c)));
  }
  let kind = PAETH;
  let least = total(third);
  if (total(halves) < least) {
    kind = AVERAGE;
    least = total(halves);
  }
  if (total(up) < least) {
    kind = UP;
    least = total(up);
  }
  return total(sub) < least ? SUB : kind;
}

/**
 * Filters rows, the first by Sub, which needs none above it.
 * @param from rows of `length` bytes, one after the other; 15 beyond may be read
 * @param step bytes of a pixel
 * @param out rows that are longer by a byte, which says the filter; 15 beyond may be written
 */
export function filterRows(from: usize, rows: i32, length: i32, step: i32, out: usize): void {
  for (let j = 0; j < rows; j++, from += length, out += length + 1) {
    const above = from - length;
    const kind: i32 = j == 0 ? SUB : smallest(from, above, length, step);
    store<u8>(out, kind);
    const to = out + 1;
    for (let k = 0; k < min(step, length); k++)
      store<u8>(to + k, <i32>load<u8>(from + k) - predictOne(kind, 0, kind == SUB ? 0 : <i32>load<u8>(above + k), 0));
    for (let k = step; k < length; k += 16) {
      const a = v128.load(from + k - step);
      let guess = a;
      if (kind != SUB) {
        const b = v128.load(above + k);
        if (kind == UP) guess = b;
        else if (kind == AVERAGE) guess = average(a, b);
        else guess = paeth(a, b, v128.load(above + k - step));
      }
      v128.store(to + k, v128.sub<u8>(v128.load(from + k), guess));
    }
  }
}

/** A pixel's eight bytes, as words. */
@inline
function wordsAt(at: usize): v128 {
  return i16x8.extend_low_i8x16_u(v128.load64_zero(at));
}

/** One pixel as it was, from what was stored of it, the one before and the two above, all as words. */
@inline
function restored(kind: i32, x: v128, a: v128, b: v128, c: v128): v128 {
  let guess = a;
  if (kind == AVERAGE) guess = i16x8.shr_u(i16x8.add(a, b), 1);
  else if (kind == PAETH) {
    const fromB = i16x8.sub(b, c);
    const fromA = i16x8.sub(a, c);
    const pa = i16x8.abs(fromB);
    const pb = i16x8.abs(fromA);
    const pc = i16x8.abs(i16x8.add(fromA, fromB));
    const least = i16x8.min_s(pa, i16x8.min_s(pb, pc));
    guess = v128.bitselect(a, v128.bitselect(b, c, i16x8.eq(least, pb)), i16x8.eq(least, pa));
  }
  return v128.and(i16x8.add(x, guess), i16x8.splat(255));
}

/** A row by a filter that goes from pixel to pixel; of a pixel of up to eight bytes what runs over is written again by the next. */
@inline
function restoreRow(kind: i32, from: usize, above: usize, to: usize, length: i32, step: i32): void {
  let a = i16x8.splat(0);
  let c = a;
  for (let k = 0; k < length; k += step) {
    const b = wordsAt(above + k);
    a = restored(kind, wordsAt(from + k), a, b, c);
    c = b;
    v128.store64_lane(to + k, i8x16.narrow_i16x8_u(a, a), 0);
  }
}

/**
 * Rows as they were before they were filtered.
 * @param from rows of `length` bytes after a byte that says the filter; 15 beyond may be read
 * @param out where they go, the row above the first before them; 15 beyond may be written
 * @returns how many rows are sound: the next has a filter that there is not
 */
export function restoreRows(from: usize, rows: i32, length: i32, step: i32, out: usize): i32 {
  for (let j = 0; j < rows; j++, from += length + 1, out += length) {
    const kind = <i32>load<u8>(from);
    const row = from + 1;
    const above = out - length;
    if (kind > PAETH) return j;
    if (kind == UP) for (let k = 0; k < length; k += 16) v128.store(out + k, v128.add<u8>(v128.load(row + k), v128.load(above + k)));
    else if (kind == SUB) restoreRow(SUB, row, above, out, length, step);
    else if (kind == AVERAGE) restoreRow(AVERAGE, row, above, out, length, step);
    else if (kind == PAETH) restoreRow(PAETH, row, above, out, length, step);
    else memory.copy(out, row, length);
  }
  return rows;
}

/** For each of eight bytes in a row what it adds to the sum (annex D, and eight at a time). */
const table = memory.data(8 * 1024, 16);

/** Before the first {@link crc}. */
export function makeTable(): void {
  for (let n: u32 = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >> 1) : c >> 1;
    store<u32>(table + (n << 2), c);
  }
  for (let n = 256; n < 2048; n++) {
    const c = load<u32>(table + ((n - 256) << 2));
    store<u32>(table + (n << 2), load<u32>(table + ((c & 255) << 2)) ^ (c >> 8));
  }
}

@inline
function added(place: usize, byte: u32): u32 {
  return load<u32>(table + (place << 10) + (<usize>(byte & 255) << 2));
}

/** CRC-32 of bytes (annex D). @param before of those before them; 0 of none */
export function crc(from: usize, to: usize, before: u32): u32 {
  let sum = ~before;
  for (; from + 8 <= to; from += 8) {
    const low = load<u32>(from) ^ sum;
    const high = load<u32>(from, 4);
    sum =
      added(7, low) ^
      added(6, low >> 8) ^
      added(5, low >> 16) ^
      added(4, low >> 24) ^
      added(3, high) ^
      added(2, high >> 8) ^
      added(1, high >> 16) ^
      added(0, high >> 24);
  }
  for (; from < to; from++) sum = added(0, sum ^ <u32>load<u8>(from)) ^ (sum >> 8);
  return ~sum;
}
