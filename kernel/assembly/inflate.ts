/*
 * Unpacks zlib data (RFC 1950, 1951), in AssemblyScript: files hold thousands of short pieces, for each of which the platform's stream takes
 * longer to be made than to unpack. Whoever calls it lays out the memory; nothing is allocated here. What is not as it should be is only
 * told, for the patient stream to look at.
 */

/** Most bits of a code, and those by which it is looked up at once; longer ones are rare and read bit by bit. */
const MOST_BITS: i32 = 15;
const FIRST_BITS: i32 = 10;
/** Symbols of lengths and literals, and of distances. */
const MOST_LENGTHS: i32 = 288;
const MOST_DISTANCES: i32 = 32;

/** Lengths and distances (RFC 1951, 3.2.5): where each begins, and how many bits follow. */
const lengthBase = memory.data<u16>([
  3, 4, 5, 6, 7, 8, 9, 10, 11, 13, 15, 17, 19, 23, 27, 31, 35, 43, 51, 59, 67, 83, 99, 115, 131, 163, 195, 227, 258, 0, 0, 0,
]);
const lengthBits = memory.data<u8>([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0, 0, 0, 0]);
const distanceBase = memory.data<u16>([
  1, 2, 3, 4, 5, 7, 9, 13, 17, 25, 33, 49, 65, 97, 129, 193, 257, 385, 513, 769, 1025, 1537, 2049, 3073, 4097, 6145, 8193, 12289, 16385,
  24577, 0, 0,
]);
const distanceBits = memory.data<u8>([
  0, 0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13, 0, 0,
]);
/** The order in which lengths of the codes of code lengths come (3.2.7). */
const order = memory.data<u8>([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15]);

/** Lengths of a block's codes, one after the other; of codes of code lengths before them. */
const lengths = memory.data(512, 16);
/** By the first ten bits: symbol times 16 and length; 0 for codes that are longer. Then how many have each length, and their symbols in order. */
const literalTable = memory.data(2048, 16);
const literalCounts = memory.data(32, 16);
const literalSymbols = memory.data(576, 16);
const distanceTable = memory.data(2048, 16);
const distanceCounts = memory.data(32, 16);
const distanceSymbols = memory.data(64, 16);
const places = memory.data(32, 16);
const codes = memory.data(32, 16);

let at: usize = 0;
let end: usize = 0;
let bits: u64 = 0;
let have: i32 = 0;

/** At least 48 bits, some of which may lie beyond the end. */
@inline
function fill(): void {
  if (have >= 48) return;
  bits |= load<u64>(at) << have;
  const bytes = (63 - have) >> 3;
  at += bytes;
  have += bytes << 3;
}
@inline
function take(count: i32): i32 {
  const value = <i32>(bits & ((1 << count) - 1));
  bits >>= count;
  have -= count;
  return value;
}

/** Whether more was read than there is. */
@inline
function isBeyond(): bool {
  return at - (have >> 3) > end;
}

/** Tables of codes from their lengths, one byte each. @returns whether there can be such codes */
function build(from: usize, count: i32, table: usize, counts: usize, symbols: usize): bool {
  memory.fill(table, 0, 2048);
  memory.fill(counts, 0, 32);
  for (let k = 0; k < count; k++) {
    const place = counts + (load<u8>(from + k) << 1);
    store<u16>(place, load<u16>(place) + 1);
  }
  let left: i32 = 1;
  let code: i32 = 0;
  let place: i32 = 0;
  for (let length = 1; length <= MOST_BITS; length++) {
    const many = <i32>load<u16>(counts + (length << 1));
    store<u16>(codes + (length << 1), code);
    store<u16>(places + (length << 1), place);
    left = (left << 1) - many;
    if (left < 0) return false;
    code = (code + many) << 1;
    place += many;
  }
  // one code alone may leave the other half out (3.2.7), and none at all is where nothing is looked up
  if (left > 0 && place > 1) return false;
  store<u16>(counts, 0);
  for (let symbol = 0; symbol < count; symbol++) {
    const length = <i32>load<u8>(from + symbol);
    if (length == 0) continue;
    const next = places + (length << 1);
    store<u16>(symbols + (load<u16>(next) << 1), symbol);
    store<u16>(next, load<u16>(next) + 1);
    const own = codes + (length << 1);
    const code = <i32>load<u16>(own);
    store<u16>(own, code + 1);
    if (length > FIRST_BITS) continue;
    // codes come with their first bit lowest
    let turned = 0;
    for (let bit = 0; bit < length; bit++) turned |= ((code >> bit) & 1) << (length - 1 - bit);
    for (let k = turned; k < 1 << FIRST_BITS; k += 1 << length) store<u16>(table + (k << 1), (symbol << 4) | length);
  }
  return true;
}

/** The next symbol; -1 for a code that does not exist. */
@inline
function symbolOf(table: usize, counts: usize, symbols: usize): i32 {
  const entry = <i32>load<u16>(table + (<usize>(bits & ((1 << FIRST_BITS) - 1)) << 1));
  if (entry) {
    bits >>= entry & 15;
    have -= entry & 15;
    return entry >> 4;
  }
  return longSymbol(counts, symbols);
}
function longSymbol(counts: usize, symbols: usize): i32 {
  let code = 0;
  let first = 0;
  let index = 0;
  for (let length = 1; length <= MOST_BITS; length++) {
    code |= take(1);
    const count = <i32>load<u16>(counts + (length << 1));
    if (code - count < first) return load<u16>(symbols + ((index + code - first) << 1));
    index += count;
    first = (first + count) << 1;
    code <<= 1;
  }
  return -1;
}

/** The codes that are always the same (3.2.6). */
function buildFixed(): bool {
  memory.fill(lengths, 8, 144);
  memory.fill(lengths + 144, 9, 112);
  memory.fill(lengths + 256, 7, 24);
  memory.fill(lengths + 280, 8, 8);
  if (!build(lengths, MOST_LENGTHS, literalTable, literalCounts, literalSymbols)) return false;
  memory.fill(lengths, 5, MOST_DISTANCES);
  return build(lengths, MOST_DISTANCES, distanceTable, distanceCounts, distanceSymbols);
}

/** Codes that are told (3.2.7). */
function buildTold(): bool {
  fill();
  const literals = take(5) + 257;
  const distances = take(5) + 1;
  const many = take(4) + 4;
  if (literals > 286 || distances > 30) return false;
  memory.fill(lengths, 0, 19);
  for (let k = 0; k < many; k++) {
    fill();
    store<u8>(lengths + load<u8>(order + k), take(3));
  }
  if (!build(lengths, 19, literalTable, literalCounts, literalSymbols)) return false;
  for (let k = 0; k < literals + distances;) {
    fill();
    if (isBeyond()) return false;
    const symbol = symbolOf(literalTable, literalCounts, literalSymbols);
    if (symbol < 0) return false;
    if (symbol < 16) {
      store<u8>(lengths + k, symbol);
      k++;
      continue;
    }
    if (symbol == 16 && k == 0) return false;
    const value: u8 = symbol == 16 ? load<u8>(lengths + k - 1) : 0;
    const times = symbol == 16 ? 3 + take(2) : symbol == 17 ? 3 + take(3) : 11 + take(7);
    if (k + times > literals + distances) return false;
    memory.fill(lengths + k, value, times);
    k += times;
  }
  // without an end nothing ends
  if (load<u8>(lengths + 256) == 0) return false;
  return (
    build(lengths, literals, literalTable, literalCounts, literalSymbols) &&
    build(lengths + literals, distances, distanceTable, distanceCounts, distanceSymbols)
  );
}

/** A literal's entry, which is most of them. */
@inline
function isLiteral(entry: i32): bool {
  return entry != 0 && entry < 256 << 4;
}

/** What one block's codes stand for. @returns where it ends; 0 for what is not sound, or does not fit */
function unpackBlock(out: usize, o: usize, outEnd: usize): usize {
  // in registers, where all the time goes
  let from = at;
  let held = bits;
  let count = have;
  while (o <= outEnd) {
    if (count < 48) {
      if (from > end + 8) return 0;
      held |= load<u64>(from) << count;
      const bytes = (63 - count) >> 3;
      from += bytes;
      count += bytes << 3;
    }
    let entry = <i32>load<u16>(literalTable + (<usize>(held & 1023) << 1));
    if (isLiteral(entry)) {
      store<u8>(o, entry >> 4);
      held >>= entry & 15;
      count -= entry & 15;
      entry = <i32>load<u16>(literalTable + (<usize>(held & 1023) << 1));
      if (!isLiteral(entry)) {
        o++;
        continue;
      }
      store<u8>(o, entry >> 4, 1);
      held >>= entry & 15;
      count -= entry & 15;
      entry = <i32>load<u16>(literalTable + (<usize>(held & 1023) << 1));
      if (!isLiteral(entry)) {
        o += 2;
        continue;
      }
      store<u8>(o, entry >> 4, 2);
      held >>= entry & 15;
      count -= entry & 15;
      o += 3;
      continue;
    }
    at = from;
    bits = held;
    have = count;
    const symbol = symbolOf(literalTable, literalCounts, literalSymbols);
    if (symbol == 256) return o;
    if (symbol < 0 || symbol > 285 || isBeyond()) return 0;
    if (symbol < 256) {
      store<u8>(o, symbol);
      o++;
    } else {
      const length = <i32>load<u16>(lengthBase + ((symbol - 257) << 1)) + take(load<u8>(lengthBits + symbol - 257));
      const far = symbolOf(distanceTable, distanceCounts, distanceSymbols);
      if (far < 0 || far > 29) return 0;
      const distance = <i32>load<u16>(distanceBase + (far << 1)) + take(load<u8>(distanceBits + far));
      const source = o - distance;
      if (source < out || o + length > outEnd) return 0;
      if (distance >= 16) for (let k = 0; k < length; k += 16) v128.store(o + k, v128.load(source + k));
      else for (let k = 0; k < length; k++) store<u8>(o + k, load<u8>(source + k));
      o += length;
    }
    from = at;
    held = bits;
    count = have;
  }
  return 0;
}

/** The sum of RFC 1950, over bytes. @param before of those before them; 1 of none */
export function adler(from: usize, to: usize, before: u32): u32 {
  let a: u32 = before & 0xffff;
  let b: u32 = before >> 16;
  while (from < to) {
    // as many as cannot run over
    const some = min(to, from + 5552);
    for (; from < some; from++) {
      a += load<u8>(from);
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return (b << 16) | a;
}

/**
 * @param from first byte of zlib data, `to` where they end; eight bytes beyond may be read
 * @param out where they go, `outEnd` where there is no more room; 16 bytes beyond may be written
 * @returns how many bytes came out, which are checked; less than nothing for what is not sound, or does not fit
 */
export function inflate(from: usize, to: usize, out: usize, outEnd: usize): i32 {
  const head = (<i32>load<u8>(from) << 8) | <i32>load<u8>(from, 1);
  if ((head & 0x0f00) != 0x0800 || (head & 0x20) != 0 || head % 31 != 0) return -1;
  at = from + 2;
  end = to;
  bits = 0;
  have = 0;
  let o = out;
  let last = 0;
  while (!last) {
    fill();
    last = take(1);
    const kind = take(2);
    if (kind == 0) {
      // bytes as they are: whole ones that were taken go back
      take(have & 7);
      at -= have >> 3;
      bits = 0;
      have = 0;
      if (at + 4 > end) return -1;
      const count = <i32>load<u16>(at);
      if (count != (~(<i32>load<u16>(at, 2)) & 0xffff)) return -1;
      at += 4;
      if (at + count > end || o + count > outEnd) return -1;
      memory.copy(o, at, count);
      at += count;
      o += count;
      continue;
    }
    if (kind == 3 || !(kind == 1 ? buildFixed() : buildTold())) return -1;
    o = unpackBlock(out, o, outEnd);
    if (o == 0) return -1;
    if (isBeyond()) return -1;
  }
  take(have & 7);
  at -= have >> 3;
  if (at + 4 > end) return -1;
  const sum = adler(out, o, 1);
  if (sum != bswap<u32>(load<u32>(at))) return -1;
  return <i32>(o - out);
}
