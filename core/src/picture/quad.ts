import type { Point } from './point';

/** Four things of one kind, as the corners or the sides of a rectangle. */
export type Four<T> = readonly [T, T, T, T];

/** Four corners. */
export type Quad = Four<Point>;

/** The same for each of four. */
export const mapQuad = <A, B>([a, b, c, d]: Four<A>, each: (value: A, index: number) => B): [B, B, B, B] => [
  each(a, 0),
  each(b, 1),
  each(c, 2),
  each(d, 3),
];

/** The first four of a list; null where there are fewer, or where one of them is null. */
export function quadOf<T>(list: readonly (T | null)[]): [T, T, T, T] | null {
  const [a, b, c, d] = list;
  return a == null || b == null || c == null || d == null ? null : [a, b, c, d];
}
