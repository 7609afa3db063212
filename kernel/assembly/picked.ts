/**
 * Bytes of two vectors: in each place what `ofA` names of one or `ofB` of the other, by -1 nothing. A shuffle does the same, but the engine makes
 * the names of one anew each time; these it takes out of a loop that tests at its end.
 */
@inline
export function picked(a: v128, b: v128, ofA: v128, ofB: v128): v128 {
  return v128.or(i8x16.swizzle(a, ofA), i8x16.swizzle(b, ofB));
}

/** Sixteen pixels as RGB, 48 bytes. */
@inline
export function storeRgb(to: usize, r: v128, g: v128, b: v128): void {
  v128.store(to, v128.or(picked(r, g, i8x16(0, -1, -1, 1, -1, -1, 2, -1, -1, 3, -1, -1, 4, -1, -1, 5), i8x16(-1, 0, -1, -1, 1, -1, -1, 2, -1, -1, 3, -1, -1, 4, -1, -1)), i8x16.swizzle(b, i8x16(-1, -1, 0, -1, -1, 1, -1, -1, 2, -1, -1, 3, -1, -1, 4, -1))));
  v128.store(to, v128.or(picked(r, g, i8x16(-1, -1, 6, -1, -1, 7, -1, -1, 8, -1, -1, 9, -1, -1, 10, -1), i8x16(5, -1, -1, 6, -1, -1, 7, -1, -1, 8, -1, -1, 9, -1, -1, 10)), i8x16.swizzle(b, i8x16(-1, 5, -1, -1, 6, -1, -1, 7, -1, -1, 8, -1, -1, 9, -1, -1))), 16);
  v128.store(to, v128.or(picked(r, g, i8x16(-1, 11, -1, -1, 12, -1, -1, 13, -1, -1, 14, -1, -1, 15, -1, -1), i8x16(-1, -1, 11, -1, -1, 12, -1, -1, 13, -1, -1, 14, -1, -1, 15, -1)), i8x16.swizzle(b, i8x16(10, -1, -1, 11, -1, -1, 12, -1, -1, 13, -1, -1, 14, -1, -1, 15))), 32);
}
