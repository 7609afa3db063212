/** MD5 of bytes as 32 digits, capitals: the name that extended XMP has (RFC 1321). */
export function md5(bytes: Uint8Array): string {
  const length = ((bytes.length + 8) >> 6) + 1;
  const words = new Uint32Array(length * 16);
  for (let i = 0; i < bytes.length; i += 1) words[i >> 2] = (words[i >> 2] as number) | ((bytes[i] as number) << ((i % 4) * 8));
  words[bytes.length >> 2] = (words[bytes.length >> 2] as number) | (0x80 << ((bytes.length % 4) * 8));
  words[words.length - 2] = bytes.length * 8;
  words[words.length - 1] = Math.floor(bytes.length / 2 ** 29);
  const state = [0x67452301, 0xefcdab89, 0x98badcfe, 0x10325476];
  for (let at = 0; at < words.length; at += 16) {
    let [a, b, c, d] = state as [number, number, number, number];
    for (let i = 0; i < 64; i += 1) {
      const round = i >> 4;
      const f = [(b & c) | (~b & d), (d & b) | (~d & c), b ^ c ^ d, c ^ (b | ~d)][round] as number;
      const g = [i, (5 * i + 1) % 16, (3 * i + 5) % 16, (7 * i) % 16][round] as number;
      const sum = (a + f + (SINES[i] as number) + (words[at + g] as number)) | 0;
      const turn = (TURNS[round] as readonly number[])[i % 4] as number;
      [a, d, c, b] = [d, c, b, (b + ((sum << turn) | (sum >>> (32 - turn)))) | 0];
    }
    [a, b, c, d].forEach((v, k) => (state[k] = ((state[k] as number) + v) | 0));
  }
  return state
    .map((v) => [0, 8, 16, 24].map((s) => ((v >>> s) & 255).toString(16).padStart(2, '0')).join(''))
    .join('')
    .toUpperCase();
}

const SINES = Array.from({ length: 64 }, (_, i) => Math.floor(Math.abs(Math.sin(i + 1)) * 2 ** 32) | 0);
const TURNS = [
  [7, 12, 17, 22],
  [5, 9, 14, 20],
  [4, 11, 16, 23],
  [6, 10, 15, 21],
] as const;
