/* Samples of 8 bits as the words that are weighed. */

/**
 * What samples of 8 bits times 128 have added to them: 64 become half a step of the result, 2 half of what is cut off columns, so that both
 * are rounded. Weights sum to one, and pass it on as it is.
 */
export const HALF_A_STEP: i32 = 66;

/** Bytes times 128 with {@link HALF_A_STEP}, as words: of the first eight, of the last. */
@inline
export function lowWords(bytes: v128): v128 {
  return i16x8.shr_u(i8x16.shuffle(i8x16.splat(<i8>(2 * HALF_A_STEP)), bytes, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23), 1);
}
@inline
export function highWords(bytes: v128): v128 {
  return i16x8.shr_u(i8x16.shuffle(i8x16.splat(<i8>(2 * HALF_A_STEP)), bytes, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 1);
}
