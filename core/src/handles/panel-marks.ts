import type { Panel } from '../correction/schema';
import { apply3 } from '../linear/mat3';
import { midpoint, type Point } from '../picture/point';
import { homographyFromCorners, sortCorners, type Quad } from '../stance/homography-from-corners';
import { toPicture, toPlane, type PlaneWarp } from '../warp/plane-warp';
import { planeToScreen, type View } from './view';

/** A panel as the stage draws it, screen px. */
export interface PanelMark {
  readonly id: string;
  readonly number: number;
  /** Corners in the document's order, for handles. */
  readonly corners: readonly Point[];
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

/** Marks of all panels that have an image on the stage. */
export function panelMarks(view: View, warp: PlaneWarp, panels: readonly Panel[]): PanelMark[] {
  return panels.flatMap((panel, index) => {
    const corners = panel.corners.map((p) => toPlane(warp, p)).filter((p) => p !== null);
    if (corners.length < 4) return [];
    return [markOf(panel, index + 1, corners.map((p) => planeToScreen(view, p)) as unknown as Quad)];
  });
}

function markOf(panel: Panel, number: number, corners: Quad): PanelMark {
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
    corners,
    path: `M${text(sorted)}Z`,
    squares,
    grid,
    badge: midpoint(sorted[0], sorted[1]),
    used: panel.used,
  };
}

/** A panel with one corner moved by a way on the plane; null without an image there. */
export function movedCorner(warp: PlaneWarp, panel: Panel, index: number, by: Point): Panel | null {
  const at = toPlane(warp, panel.corners[index] as Point);
  const next = at && toPicture(warp, [at[0] + by[0], at[1] + by[1]]);
  if (!next) return null;
  return { ...panel, corners: panel.corners.map((p, i) => (i === index ? [next[0], next[1]] : p)) as Panel['corners'] };
}
