import { LEAST_SHARE, type EdgeFit, type PlacedByHand, type PlacedLine, type Point } from '@able-plumb/core';

/** The edges that run along half of a line or more: only on these it settles. */
export const lyingOn = (fits: readonly EdgeFit[] | null): readonly EdgeFit[] => (fits ?? []).filter(({ share }) => share >= LEAST_SHARE);

/** A line on the edge that was found along it, as well as that was found. */
export const placedOnEdge = ({ a, b, sdPx, bendPx }: EdgeFit): PlacedLine => ({
  a: [a[0], a[1]],
  b: [b[0], b[1]],
  placedPx: sdPx,
  bowPx: bendPx,
});

/**
 * A line where it lies best: on the likeliest edge along it, or where the hand left it.
 * @param hand how well it was placed when it was let go: by the time an edge is found the zoom may be another
 */
export function settledOn(
  drawn: { readonly a: Point; readonly b: Point },
  fits: readonly EdgeFit[] | null,
  hand: PlacedByHand,
): PlacedLine {
  const fit = lyingOn(fits)[0];
  return fit ? placedOnEdge(fit) : { a: [drawn.a[0], drawn.a[1]], b: [drawn.b[0], drawn.b[1]], ...hand };
}
