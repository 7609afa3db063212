/*
 * Packs bytes as zlib data (RFC 1950, 1951), in AssemblyScript, in blocks with codes of their own. What comes again is looked for by chains of
 * places whose four bytes have the same hash; where nothing does, as in the differences of photographs, it is looked for at fewer and fewer
 * places. Whoever calls it lays out the memory and makes the codes; nothing is allocated here.
 */

export { adler } from './inflate';

const LEAST_LENGTH: i32 = 4;
const MOST_LENGTH: i32 = 258;
/** How far back something may come again (RFC 1951, 3.2.5). */
const WINDOW: usize = 1 << 15;
const HASH_BITS: u32 = 15;
/** Places looked at for the longest that comes again; a quarter of them where one is known already. */
const CHAIN: i32 = 12;
/** A length from which no longer one is looked for a byte further on. */
const LONG: i32 = 32;
/** Bytes in a row of which nothing came again, a power of two, until every second is left out; twice as many, every third. */
const PATIENCE: i32 = 5;
const MOST_LEFT_OUT: i32 = 12;
/** A token for bytes that came before: 2^31, their distance less one times 512, how many. */
const IS_MATCH: u32 = 1 << 31;

let hold: u64 = 0;
let have: i32 = 0;
let at: usize = 0;

/** Where bits go from now on; what is left of the last ones, less than a word, comes first. */
export function putTo(to: usize): void {
  at = to;
}

/** Some bits, the lowest first; at most 32. */
export function put(value: u32, count: i32): void {
  hold |= <u64>value << have;
  have += count;
  if (have < 32) return;
  store<u32>(at, <u32>hold);
  at += 4;
  hold >>= 32;
  have -= 32;
}

/** Fills up the last byte. */
export function fillByte(): void {
  for (; have > 0; have -= 8, hold >>= 8, at++) store<u8>(at, <u8>hold);
  hold = 0;
  have = 0;
}

/** @returns where what was put ends; less than a word may wait */
export function putEnd(): usize {
  return at;
}

/** The symbol of a length, 3 .. 258 (RFC 1951, 3.2.5). */
@inline
function lengthSymbol(length: i32): i32 {
  const x = length - 3;
  if (length == MOST_LENGTH) return 285;
  if (x < 8) return 257 + x;
  const n = 31 - clz(x);
  return 253 + (n << 2) + ((x >> (n - 2)) & 3);
}

/** The symbol of a distance less one (RFC 1951, 3.2.5). */
@inline
function distanceSymbol(x: i32): i32 {
  if (x < 4) return x;
  const n = 31 - clz(x);
  return (n << 1) + ((x >> (n - 1)) & 1);
}

@inline
function count(counts: usize, symbol: i32): void {
  const at = counts + (<usize>symbol << 2);
  store<u32>(at, load<u32>(at) + 1);
}

/** How many bytes are the same at two places, at most `most`; seven beyond may be read. */
@inline
function sameBytes(a: usize, b: usize, most: i32): i32 {
  let n: i32 = 0;
  while (n < most) {
    const differ = load<u64>(a + n) ^ load<u64>(b + n);
    if (differ) return min(most, n + <i32>(ctz(differ) >> 3));
    n += 8;
  }
  return most;
}

/** Where what {@link longest} found begins. */
let found: usize = 0;

/** Puts a place at the head of its chain. @returns the place before it, 0 for none */
@inline
function chained(p: usize, heads: usize, chains: usize): usize {
  const head = heads + (<usize>((load<u32>(p) * 0x9e3779b1) >> (32 - HASH_BITS)) << 2);
  const before = load<u32>(head);
  store<u32>(head, <u32>p);
  store<u32>(chains + ((p & (WINDOW - 1)) << 2), before);
  return before;
}

/**
 * The longest that comes again at a place and is worth its codes.
 * @param c the first place to look at
 * @param best a length that it has to be longer than
 * @returns its length, `best` for none
 */
function longest(p: usize, c: usize, most: i32, best: i32, chains: usize): i32 {
  const least = p - WINDOW;
  let turns = best >= LEAST_LENGTH ? CHAIN >> 2 : CHAIN;
  while (c > least && turns-- > 0) {
    if (load<u8>(c + best) == load<u8>(p + best) && load<u32>(c) == load<u32>(p)) {
      const length = sameBytes(p, c, most);
      // a short one from afar takes more bits than its bytes, which have about five each
      if (length > best && 5 * length > 10 + 31 - clz(<i32>(p - c))) {
        best = length;
        found = c;
        if (length == most) break;
      }
    }
    c = load<u32>(chains + ((c & (WINDOW - 1)) << 2));
  }
  return best;
}

/**
 * What bytes are packed as: bytes, and what came before.
 * @param from, to the bytes; those before them that were looked at count as come before, and 40 beyond them may be read
 * @param tokens as many words as there are bytes
 * @param heads, chains 2^15 words each, heads all 0 before the first bytes of all; places are their addresses, from 2^15 on
 * @param counts how often each symbol of lengths and bytes is needed is added to these words, and behind 286 of them each symbol of distances
 * @returns how many tokens
 */
export function look(from: usize, to: usize, tokens: usize, counts: usize, heads: usize, chains: usize): i32 {
  const distances = counts + (286 << 2);
  let q = tokens;
  let p = from;
  let misses: i32 = 0;
  while (p < to) {
    const most = min(<i32>(to - p), MOST_LENGTH);
    let length = most < LEAST_LENGTH ? 0 : longest(p, chained(p, heads, chains), most, LEAST_LENGTH - 1, chains);
    if (length < LEAST_LENGTH) {
      // where nothing came again for long, it is looked for at fewer places
      let bytes = 1 + min(misses >> PATIENCE, MOST_LEFT_OUT);
      misses += 1;
      for (bytes = min(bytes, <i32>(to - p)); bytes > 0; bytes--, p++, q += 4) {
        const byte = <u32>load<u8>(p);
        store<u32>(q, byte);
        count(counts, byte);
      }
      continue;
    }
    misses = 0;
    let start = found;
    let next = p + 1;
    // a byte further on a longer one may begin
    while (length < LONG && next + LEAST_LENGTH <= to) {
      const longer = longest(next, chained(next, heads, chains), min(<i32>(to - next), MOST_LENGTH), length, chains);
      next++;
      if (longer == length) break;
      const byte = <u32>load<u8>(p);
      store<u32>(q, byte);
      q += 4;
      count(counts, byte);
      p++;
      length = longer;
      start = found;
    }
    const distance = <i32>(p - start) - 1;
    store<u32>(q, IS_MATCH | (distance << 9) | length);
    q += 4;
    count(counts, lengthSymbol(length));
    count(distances, distanceSymbol(distance));
    p += length;
    for (const last = min(p, to - LEAST_LENGTH + 1); next < last; next++) chained(next, heads, chains);
  }
  return <i32>((q - tokens) >> 2);
}

/**
 * Puts tokens in codes.
 * @param codes of each symbol of lengths and bytes its bits, and how many these are times 65536, in words; behind 286 of them those of distances
 */
export function write(tokens: usize, count: i32, codes: usize): void {
  const end = tokens + (<usize>count << 2);
  const distances = codes + (286 << 2);
  // in registers, where all the time goes
  let held = hold;
  let n = have;
  let to = at;
  for (let q = tokens; q < end; q += 4) {
    const token = load<u32>(q);
    if (token & IS_MATCH) {
      // up to 48 bits, 31 of which may wait
      const length = <i32>(token & 0x1ff);
      const code = load<u32>(codes + (<usize>lengthSymbol(length) << 2));
      held |= <u64>(code & 0xffff) << n;
      n += code >> 16;
      const x = length - 3;
      if (x >= 8 && length != MOST_LENGTH) {
        const more = 29 - clz(x);
        held |= <u64>(x & ((1 << more) - 1)) << n;
        n += more;
      }
      if (n >= 32) {
        store<u32>(to, <u32>held);
        to += 4;
        held >>= 32;
        n -= 32;
      }
      const d = <i32>((token & ~IS_MATCH) >> 9);
      const far = load<u32>(distances + (<usize>distanceSymbol(d) << 2));
      held |= <u64>(far & 0xffff) << n;
      n += far >> 16;
      if (d >= 4) {
        const more = 30 - clz(d);
        held |= <u64>(d & ((1 << more) - 1)) << n;
        n += more;
      }
    } else {
      const code = load<u32>(codes + (<usize>token << 2));
      held |= <u64>(code & 0xffff) << n;
      n += code >> 16;
    }
    if (n >= 32) {
      store<u32>(to, <u32>held);
      to += 4;
      held >>= 32;
      n -= 32;
    }
  }
  hold = held;
  have = n;
  at = to;
}
