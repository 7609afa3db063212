/*
 * Unpacks LZW as TIFF writes it: codes from the high bit, grown one code early (TIFF 6.0, section 13). Every string that has a code lies
 * somewhere in what came out already: a code is where, and how long.
 */

const CLEAR: i32 = 256;
const END: i32 = 257;
const FIRST: i32 = 258;
const MOST_CODES: i32 = 4096;

/** For each code where its string begins and its length; for single bytes here. */
const starts = memory.data(4 * 4098, 16);
const lengths = memory.data(4 * 4098, 16);
const singles = memory.data(256 + 16, 16);

/**
 * @param from first byte of the data, `to` where they end; eight bytes beyond may be read
 * @param out where they go, `outEnd` where there is no more room; 16 bytes beyond may be written
 * @returns how many bytes came out until there was no more room, or no more data; less than nothing for a code that was never given
 */
export function lzw(from: usize, to: usize, out: usize, outEnd: usize): i32 {
  for (let k = 0; k < 256; k++) {
    store<u8>(singles + k, k);
    store<u32>(starts + (k << 2), <u32>(singles + k));
    store<u32>(lengths + (k << 2), 1);
  }
  const most = <u64>(to - from) << 3;
  let bit: u64 = 0;
  let bits: u64 = 9;
  let next = FIRST;
  let full = 511;
  let o = out;
  // the string before; of none the one that begins is none either
  let last: usize = 0;
  let lastLength: u32 = 0;
  while (o < outEnd && bit + bits <= most) {
    const code = <i32>((bswap<u64>(load<u64>(from + <usize>(bit >> 3))) << (bit & 7)) >> (64 - bits));
    bit += bits;
    if (code == CLEAR) {
      next = FIRST;
      bits = 9;
      full = 511;
      last = 0;
      continue;
    }
    if (code == END) break;
    if (last) {
      if (code > next) return -1;
      // the string before and the first byte of this one, which comes behind it
      store<u32>(starts + (next << 2), <u32>last);
      store<u32>(lengths + (next << 2), lastLength + 1);
    } else if (code > 255) return -1;
    const source = <usize>load<u32>(starts + (code << 2));
    const length = load<u32>(lengths + (code << 2));
    const n = min(length, <u32>(outEnd - o));
    if (code == next && last) for (let k: u32 = 0; k < n; k++) store<u8>(o + k, load<u8>(source + k));
    else for (let k: u32 = 0; k < n; k += 16) v128.store(o + k, v128.load(source + k));
    if (last && next < MOST_CODES) {
      next++;
      if (next == full && bits < 12) {
        bits++;
        full = (1 << <i32>bits) - 1;
      }
    }
    last = o;
    lastLength = length;
    o += n;
  }
  return <i32>(o - out);
}
