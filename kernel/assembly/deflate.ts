/*
 * Packs bytes as zlib data (RFC 1950, 1951), in AssemblyScript, in blocks with codes of their own. Differences of photographs are mostly noise,
 * in which nothing comes again: only bytes like the one before are looked for. Whoever calls it lays out the memory and makes the codes;
 * nothing is allocated here.
 */

export { adler } from './inflate';

const MOST_LENGTH: i32 = 258;
/** A token for bytes that are all like the one before: how many. */
const IS_RUN: u32 = 1 << 31;

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

/**
 * What bytes are packed as: bytes, and runs of what came before.
 * @param from, to the bytes; three beyond may be read
 * @param tokens as many words as there are bytes
 * @param counts how often each symbol of lengths and bytes is needed is added to these words
 * @returns how many tokens
 */
export function look(from: usize, to: usize, tokens: usize, counts: usize): i32 {
  let q = tokens;
  let p = from;
  while (p < to) {
    const byte = <u32>load<u8>(p);
    if (p > from && load<u32>(p - 1) == load<u32>(p)) {
      const most = min(<i32>(to - p), MOST_LENGTH);
      let length: i32 = 4;
      while (length < most && load<u8>(p + length) == byte) length++;
      if (length <= most) {
        store<u32>(q, IS_RUN | length);
        q += 4;
        const l = counts + (lengthSymbol(length) << 2);
        store<u32>(l, load<u32>(l) + 1);
        p += length;
        continue;
      }
    }
    store<u32>(q, byte);
    q += 4;
    const c = counts + (<usize>byte << 2);
    store<u32>(c, load<u32>(c) + 1);
    p++;
  }
  return <i32>((q - tokens) >> 2);
}

/**
 * Puts tokens in codes.
 * @param codes of each symbol of lengths and bytes its bits, and how many these are times 65536, in words; the only distance has the bit 0
 */
export function write(tokens: usize, count: i32, codes: usize): void {
  const end = tokens + (<usize>count << 2);
  // in registers, where all the time goes
  let held = hold;
  let n = have;
  let to = at;
  for (let q = tokens; q < end; q += 4) {
    const token = load<u32>(q);
    const length = <i32>(token & 0x1ff);
    const code = load<u32>(codes + (<usize>(token & IS_RUN ? lengthSymbol(length) : length) << 2));
    held |= <u64>(code & 0xffff) << n;
    n += code >> 16;
    if (token & IS_RUN) {
      const x = length - 3;
      if (x >= 8 && length != MOST_LENGTH) {
        const more = 29 - clz(x);
        held |= <u64>(x & ((1 << more) - 1)) << n;
        n += more;
      }
      n++;
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
