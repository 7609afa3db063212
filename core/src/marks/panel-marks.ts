import type { Correction, Panel } from '../correction/schema';
import { apply3 } from '../linear/mat3';
import { type View, planeToScreen } from './view';
import type { Point } from '../picture/point';
import { homographyFromCorners, sortCorners } from '../stance/homography-from-corners';
import { panelPoints } from '../stance/panel-points';
import { panelOnPlane } from '../warp/panel-plane';
import { type PlaneWarp, toPlane } from '../warp/plane-warp';
import { quadOf, type Quad } from '../picture/quad';

/** A panel as the stage draws it, screen px. */
export interface PanelMark {
  readonly id: string;
  readonly number: number;
  /** What can be dragged, in the document's order: its corners, or the ends of its edges (first edge's ends, second edge's ends, ...). */
  readonly handles: readonly Point[];
  /** The four edges as they were drawn; empty for a panel by corners. */
  readonly edges: string;
  readonly path: string;
  /** Mason's squares: small angles outside each corner. */
  readonly squares: string;
  /** Perspective grid inside; empty while the corners are no rectangle. */
  readonly grid: string;
  readonly badge: Point;
  readonly used: boolean;
}

const SQUARE_PX = 14;
const SQUARE_OFF_PX = 5;
const GRID = 6;
/** The number stands here along the upper side, clear of the margin's peg in its middle. */
const BADGE_SHARE = 0.25;

const along = (a: Point, b: Point, t: number): Point => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];

/** Marks of all panels that have an image on the stage. */
export function panelMarks(view: View, warp: PlaneWarp, correction: Correction): PanelMark[] {
  return correction.panels.flatMap((panel, index) => {
    const handles = panelPoints(panel).map((p) => toPlane(warp, p));
    if (!handles.every((p) => p !== null)) return [];
    const onScreen = handles.map((p) => planeToScreen(view, p));
    const quad = panelOnPlane(correction, warp, panel);
    // edges that do not meet yet are joined in the order they were drawn
    const corners = quad?.map((p) => planeToScreen(view, p)) ?? (panel.edges ? [0, 2, 4, 6].map((k) => onScreen[k] as Point) : onScreen);
    const four = quadOf(corners);
    return four ? [markOf(panel, index + 1, four, onScreen)] : [];
  });
}

function markOf(panel: Panel, number: number, corners: Quad, handles: readonly Point[]): PanelMark {
  const text = (points: readonly Point[]): string => points.map((p) => `${p[0].toFixed(2)} ${p[1].toFixed(2)}`).join('L');
  let sorted: Quad = corners;
  let grid = '';
  try {
    sorted = sortCorners(corners);
    const h = homographyFromCorners(sorted);
    const at = (x: number, y: number): Point => {
      const [u, v, w] = apply3(h, [x, y, 1]);
      return [u / w, v / w];
    };
    for (let k = 1; k < GRID; k += 1) grid += `M${text([at(k / GRID, 0), at(k / GRID, 1)])}M${text([at(0, k / GRID), at(1, k / GRID)])}`;
  } catch {
    // not a rectangle yet: drawn without its grid, the list says why
  }
  const [cx, cy] = [0, 1].map((k) => sorted.reduce((sum, p) => sum + (p[k] as number), 0) / 4) as [number, number];
  const squares = sorted
    .map((p, i) => {
      const toward = (q: Point): Point => {
        const length = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
        return [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
      };
      const [e, g] = [toward(sorted[(i + 3) % 4] as Point), toward(sorted[(i + 1) % 4] as Point)];
      const out = toward([cx, cy]);
      const o: Point = [p[0] - out[0] * SQUARE_OFF_PX, p[1] - out[1] * SQUARE_OFF_PX];
      return `M${text([[o[0] + e[0] * SQUARE_PX, o[1] + e[1] * SQUARE_PX], o, [o[0] + g[0] * SQUARE_PX, o[1] + g[1] * SQUARE_PX]])}`;
    })
    .join('');
  return {
    id: panel.id,
    number,
    handles,
    edges: panel.edges ? [0, 2, 4, 6].map((k) => `M${text([handles[k] as Point, handles[k + 1] as Point])}`).join('') : '',
    path: `M${text(sorted)}Z`,
    squares,
    grid,
    badge: along(sorted[0], sorted[1], BADGE_SHARE),
    used: panel.used,
  };
}
