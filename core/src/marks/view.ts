import type { Point, Rect, Size } from '../picture/point';
import { boundsOf } from '../picture/polygon';

/** How the stage looks at the plane: the plane point in the middle of the stage, screen px a plane px, mirroring. */
export interface View {
  readonly centre: Point;
  readonly scale: number;
  /** Stage size in screen (CSS) px. */
  readonly stage: Size;
  readonly mirrorX: boolean;
  readonly mirrorY: boolean;
}

const SMALLEST_SCALE = 0.005;
const LARGEST_SCALE = 32;

const signX = (v: View): number => (v.mirrorX ? -1 : 1);
const signY = (v: View): number => (v.mirrorY ? -1 : 1);

/** Plane -> screen; both px, the stage's top left corner is the screen's origin. */
export const planeToScreen = (v: View, [x, y]: Point): Point => [
  v.stage.width / 2 + signX(v) * (x - v.centre[0]) * v.scale,
  v.stage.height / 2 + signY(v) * (y - v.centre[1]) * v.scale,
];

/** Screen -> plane. */
export const screenToPlane = (v: View, [x, y]: Point): Point => [
  v.centre[0] + (signX(v) * (x - v.stage.width / 2)) / v.scale,
  v.centre[1] + (signY(v) * (y - v.stage.height / 2)) / v.scale,
];

/** A view in which `rect` fills the stage but for a margin (share of the stage's smaller side). */
export function fitView(rect: Rect, stage: Size, mirrorX: boolean, mirrorY: boolean, margin = 0.06): View {
  const room = Math.min(stage.width, stage.height) * margin;
  const scale = Math.min((stage.width - 2 * room) / rect.width, (stage.height - 2 * room) / rect.height);
  return {
    centre: [rect.x + rect.width / 2, rect.y + rect.height / 2],
    scale: Math.min(LARGEST_SCALE, Math.max(SMALLEST_SCALE, Number.isFinite(scale) ? scale : 1)),
    stage,
    mirrorX,
    mirrorY,
  };
}

/** A view that shows a whole outline and, with it, a crop. */
export const fitOutline = (outline: readonly Point[], crop: Rect | null, stage: Size, mirrorX: boolean, mirrorY: boolean): View => {
  const extra: Point[] = crop
    ? [
        [crop.x, crop.y],
        [crop.x + crop.width, crop.y + crop.height],
      ]
    : [];
  return fitView(boundsOf([...outline, ...extra]), stage, mirrorX, mirrorY);
};

/** Room around a small crop, as a share of its larger side. */
const CLOSE_UP_ROOM = 0.35;

/** A view of a crop that is a small part of the picture, with some of its surroundings. */
export function fitCloseUp(crop: Rect, stage: Size, mirrorX: boolean, mirrorY: boolean): View {
  const room = CLOSE_UP_ROOM * Math.max(crop.width, crop.height);
  const around = { x: crop.x - room, y: crop.y - room, width: crop.width + 2 * room, height: crop.height + 2 * room };
  return fitView(around, stage, mirrorX, mirrorY);
}

/** The same view with everything moved across the screen, px. */
export const movedView = (v: View, dx: number): View => ({ ...v, centre: [v.centre[0] - (signX(v) * dx) / v.scale, v.centre[1]] });

/** Zoom by a factor; what lies under the pointer stays there. */
export function zoomAt(v: View, pointer: Point, factor: number): View {
  const scale = Math.min(LARGEST_SCALE, Math.max(SMALLEST_SCALE, v.scale * factor));
  const [px, py] = screenToPlane(v, pointer);
  return {
    ...v,
    scale,
    centre: [px - (signX(v) * (pointer[0] - v.stage.width / 2)) / scale, py - (signY(v) * (pointer[1] - v.stage.height / 2)) / scale],
  };
}

/** Pan by screen px: the picture follows the pointer. */
export const panBy = (v: View, [dx, dy]: Point): View => ({
  ...v,
  centre: [v.centre[0] - (signX(v) * dx) / v.scale, v.centre[1] - (signY(v) * dy) / v.scale],
});

/** Ruler ticks along one axis: plane values at round steps with their screen positions. */
export function rulerTicks(
  v: View,
  axis: 'x' | 'y',
  origin: number,
  smallestGapPx = 70,
): readonly { readonly value: number; readonly at: number }[] {
  const length = axis === 'x' ? v.stage.width : v.stage.height;
  const raw = smallestGapPx / v.scale;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((k) => k * power).find((s) => s >= raw) ?? power * 10;
  const ends = [0, length].map((s) => {
    const [x, y] = screenToPlane(v, [s, s]);
    return (axis === 'x' ? x : y) - origin;
  });
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const ticks: { value: number; at: number }[] = [];
  for (let value = Math.ceil(low / step) * step; value <= high; value += step) {
    const [x, y] = planeToScreen(v, [value + origin, value + origin]);
    ticks.push({ value: Math.round(value), at: axis === 'x' ? x : y });
  }
  return ticks;
}
