/**
 * Bytes of two vectors: in each place what `ofA` names of one or `ofB` of the other, by -1 nothing. A shuffle does the same, but the engine makes
 * the names of one anew each time; these it takes out of a loop that tests at its end.
 */
@inline
export function picked(a: v128, b: v128, ofA: v128, ofB: v128): v128 {
  return v128.or(i8x16.swizzle(a, ofA), i8x16.swizzle(b, ofB));
}
