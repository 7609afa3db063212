/** Positions count in 1 / 2^18 px. */
export const POSITION_BITS: i32 = 18;
export const POSITION_ONE: f64 = <f64>(1 << POSITION_BITS);

/*
 * A position, or a step from one to the next, is one number for the innermost loops, as there are few registers: y times 2^32 and x. Steps and
 * their changes add up so whatever their signs are; where x is not negative, which it is not inside the source, the halves are x and y.
 */
@inline
export function placeOf(x: i64, y: i64): i64 {
  return (y << 32) + x;
}
@inline
export function xOf(place: i64): i32 {
  return <i32>place;
}
/** @param place one whose x may be negative */
@inline
export function yOf(place: i64): i32 {
  return <i32>((place - <i64>xOf(place)) >> 32);
}
/** x or y, shifted and masked. @param by bits to the right */
@inline
export function xBits(place: i64, by: i32, mask: i32): i32 {
  return (xOf(place) >> by) & mask;
}
@inline
export function yBits(place: i64, by: i64, mask: i32): i32 {
  return <i32>(place >> (by + 32)) & mask;
}
/** Its row of pixels. */
@inline
export function rowOf(place: i64): i32 {
  return <i32>(place >> (32 + POSITION_BITS));
}
