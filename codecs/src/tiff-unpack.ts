/**
 * Unpacks LZW as TIFF writes it: codes from the high bit, grown one code early (TIFF 6.0, section 13). Stops where `out` is full or the
 * data end.
 * @returns bytes written
 */
export function unpackLzw(data: Uint8Array, out: Uint8Array): number {
  const [CLEAR, END] = [256, 257];
  // a string is its predecessor and one byte more
  const before = new Uint16Array(4097);
  const last = new Uint8Array(4097);
  const length = new Uint16Array(4097);
  for (let i = 0; i < 256; i += 1) {
    last[i] = i;
    length[i] = 1;
  }
  let [next, bits, held, count, to, previous] = [258, 9, 0, 0, 0, -1];
  for (let at = 0; ;) {
    while (count < bits) {
      if (at >= data.length) return to;
      held = ((held << 8) | (data[at] as number)) & 0xffffff;
      at += 1;
      count += 8;
    }
    const code = (held >> (count - bits)) & ((1 << bits) - 1);
    count -= bits;
    if (code === END) return to;
    if (code === CLEAR) {
      [next, bits, previous] = [258, 9, -1];
      continue;
    }
    if (code > next || (previous < 0 && code > 255)) throw new RangeError('a code that was never given');
    // a code that is only now given is the string before with its own first byte behind it
    const known = code < next ? code : previous;
    const n = length[known] as number;
    const room = out.length - to;
    let first = known;
    for (let walk = known, k = n - 1; k >= 0; k -= 1) {
      if (k < room) out[to + k] = last[walk] as number;
      first = walk;
      walk = before[walk] as number;
    }
    to += Math.min(n, room);
    if (code === next && to < out.length) {
      out[to] = last[first] as number;
      to += 1;
    }
    if (to >= out.length) return to;
    if (previous >= 0 && next < 4096) {
      before[next] = previous;
      last[next] = last[first] as number;
      length[next] = (length[previous] as number) + 1;
      next += 1;
      if (next + 1 >= 1 << bits && bits < 12) bits += 1;
    }
    previous = code;
  }
}

/**
 * Unpacks PackBits (TIFF 6.0, section 9). Stops where `out` is full or the data end.
 * @returns bytes written
 */
export function unpackBits(data: Uint8Array, out: Uint8Array): number {
  let to = 0;
  for (let at = 0; at < data.length && to < out.length;) {
    const n = data[at] as number;
    at += 1;
    if (n === 128) continue;
    const run = Math.min(n < 128 ? n + 1 : 257 - n, out.length - to);
    if (n < 128) {
      out.set(data.subarray(at, at + run), to);
      at += n + 1;
    } else {
      out.fill(data[at] ?? 0, to, to + run);
      at += 1;
    }
    to += run;
  }
  return to;
}
