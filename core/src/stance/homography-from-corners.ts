import { solveLinear } from '../linear/levenberg-marquardt';
import { inverse3, multiply3, type Mat3 } from '../linear/mat3';
import { PlumbError } from '../picture/failure';
import { distance, type Point } from '../picture/point';
import { mapQuad, type Quad } from '../picture/quad';

/** Three corners on one line, or a corner inside the triangle of the others: no rectangle looks like that. */
export class DegeneratePanelError extends PlumbError {
  constructor(corner: string | null) {
    super(
      'panel-degenerate',
      corner === null
        ? 'These four edges cannot be a rectangle: two neighbouring sides run alike and never meet.'
        : `These four corners cannot be a rectangle: the ${corner} corner lies on or inside the line between its neighbours.`,
      corner === null ? 'Draw one edge along each of the four sides.' : 'Move that corner outwards.',
    );
    this.name = 'DegeneratePanelError';
  }
}

const NAMES = ['top left', 'top right', 'bottom right', 'bottom left'] as const;

/** A corner counts as lying on its neighbours' line below this share of their distance. */
const COLLINEAR = 0.002;

/**
 * Corners in any order brought into top left, top right, bottom right, bottom left: sorted around their centroid, starting where the
 * rectangle is turned least.
 * @throws DegeneratePanelError naming the corner
 */
export function sortCorners(corners: Quad): Quad {
  const [cx, cy] = [0, 1].map((k) => corners.reduce((sum, p) => sum + (p[k] as number), 0) / 4) as [number, number];
  const round = [...corners].sort((p, q) => Math.atan2(p[1] - cy, p[0] - cx) - Math.atan2(q[1] - cy, q[0] - cx));
  const turned = Array.from({ length: 4 }, (_, k) => mapQuad(corners, (_corner, i) => round[(i + k) % 4] as Point));
  const roll = ([a, b, c, d]: Quad): number => Math.abs(Math.atan2(b[1] + c[1] - a[1] - d[1], b[0] + c[0] - a[0] - d[0]));
  const sorted = turned.reduce((best, quad) => (roll(quad) < roll(best) ? quad : best));
  sorted.forEach((p, i) => {
    const [before, after] = [sorted[(i + 3) % 4] as Point, sorted[(i + 1) % 4] as Point];
    const outward = (after[0] - before[0]) * (p[1] - before[1]) - (after[1] - before[1]) * (p[0] - before[0]);
    if (-outward < COLLINEAR * distance(before, after) ** 2) throw new DegeneratePanelError(NAMES[i] as string);
  });
  return sorted;
}

/**
 * Homography that takes the unit square to `corners`.
 *
 * @param corners top left, top right, bottom right, bottom left; px, x right, y down
 * @returns row-major 3x3, square -> picture (not the inverse)
 * @throws DegeneratePanelError when no homography exists
 * Source: Hartley 1997, In defense of the eight-point algorithm (normalisation); four points determine it exactly.
 */
export function homographyFromCorners(corners: Quad): Mat3 {
  const [cx, cy] = [0, 1].map((k) => corners.reduce((sum, p) => sum + (p[k] as number), 0) / 4) as [number, number];
  const spread = corners.reduce((sum, p) => sum + Math.hypot(p[0] - cx, p[1] - cy), 0) / 4 / Math.SQRT2 || 1;
  const square: Quad = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  const rows: number[] = [];
  const right: number[] = [];
  square.forEach(([x, y], i) => {
    const [u, v] = [((corners[i] as Point)[0] - cx) / spread, ((corners[i] as Point)[1] - cy) / spread];
    rows.push(x, y, 1, 0, 0, 0, -u * x, -u * y, 0, 0, 0, x, y, 1, -v * x, -v * y);
    right.push(u, v);
  });
  const h = solveLinear(rows, right);
  if (!h || !h.every(Number.isFinite)) throw new DegeneratePanelError('last');
  const place: Mat3 = [spread, 0, cx, 0, spread, cy, 0, 0, 1];
  return multiply3(place, [h[0], h[1], h[2], h[3], h[4], h[5], h[6], h[7], 1] as unknown as Mat3);
}

/** The reverse of {@link homographyFromCorners}: picture -> unit square. */
export function squareFromCorners(corners: Quad): Mat3 {
  const inverse = inverse3(homographyFromCorners(corners));
  if (!inverse) throw new DegeneratePanelError('last');
  return inverse;
}
