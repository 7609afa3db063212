import type { Correction, Measure } from '../correction/schema';
import { apply3 } from '../linear/mat3';
import type { Point } from '../picture/point';
import { squareFromCorners } from '../stance/homography-from-corners';
import { MM_OF_UNIT, panelInIdeal, typedSize, unitMm } from '../stance/panel';
import { PLACED_PX } from '../stance/placed';
import { throughLens } from '../stance/through-lens';
import { planeScale, type PlaneScale } from '../warp/panel-plane';
import { toFlat, type PlaneWarp } from '../warp/plane-warp';
import { quadOf } from '../picture/quad';

/** A measuring line as it reads: a length in the unit of the panel that gives the scale. */
export interface MeasureReading {
  readonly id: string;
  readonly number: number;
  /** "1.204 m"; null where the plane has no scale or an end no image. */
  readonly text: string | null;
  readonly mm: number | null;
  /** Standard deviation, mm: how well its ends and the panel's corners were placed; null where it has no length. */
  readonly sdMm: number | null;
}

/** Distance in reality between two picture points of the panel's plane, mm; null where one has no image. */
export function distanceMm(warp: PlaneWarp, scale: PlaneScale, { a, b }: { readonly a: Point; readonly b: Point }): number | null {
  const [p, q] = [toFlat(warp, a), toFlat(warp, b)];
  return p && q && Math.hypot((p[0] - q[0]) * scale.mmPerPx[0], (p[1] - q[1]) * scale.mmPerPx[1]);
}

/**
 * Standard deviation of a length, mm: the ends and the panel's corners moved one coordinate at a time by how well they were placed, and
 * what each does to the length on the panel's own plane added up by squares. A typed size needs no focal length.
 */
function lengthSdMm(correction: Correction, warp: PlaneWarp, { panel }: PlaneScale, measure: Measure): number | null {
  const toIdeal = throughLens(correction, warp.pictureSize);
  const [a, b] = [toIdeal(measure.a), toIdeal(measure.b)];
  const corners = panelInIdeal(correction, warp.pictureSize, panel);
  const unit = unitMm(panel);
  if (!a || !b || !corners || unit === null) return null;
  const points: readonly Point[] = [a, b, ...corners];
  const lengthOf = (at: readonly Point[]): number => {
    const [, , ...rest] = at;
    const around = quadOf(rest);
    if (!around) return NaN;
    const toSquare = squareFromCorners(around);
    const [p, q] = [at[0] as Point, at[1] as Point].map(([x, y]) => {
      const [u, v, w] = apply3(toSquare, [x, y, 1]);
      return [u / w, v / w] as const;
    }) as [Point, Point];
    const size = typedSize(panel, 1);
    return size ? Math.hypot((p[0] - q[0]) * size.width, (p[1] - q[1]) * size.height) * unit : NaN;
  };
  const now = lengthOf(points);
  let squares = 0;
  points.forEach((_, i) => {
    const by = (i < 2 ? measure.placedPx : panel.placedPx) ?? PLACED_PX;
    for (const k of [0, 1]) {
      const moved = points.map((p, j): Point => (j !== i ? p : k === 0 ? [p[0] + by, p[1]] : [p[0], p[1] + by]));
      squares += (lengthOf(moved) - now) ** 2;
    }
  });
  return Number.isFinite(squares) ? Math.sqrt(squares) : null;
}

/** A length in the unit that a panel's size is typed in, to a thousandth of the panel or so, with its deviation where that is given. */
export function lengthText(mm: number, scale: PlaneScale, sdMm: number | null = null): string {
  const { size } = scale.panel;
  const unit = size && 'width' in size && size.unit ? size.unit : 'mm';
  const value = mm / MM_OF_UNIT[unit];
  const digits = Math.max(0, Math.min(4, 3 - Math.floor(Math.log10(Math.max(1e-6, value)))));
  const sd = sdMm === null ? '' : ` ±\u00a0${Math.max(10 ** -digits, sdMm / MM_OF_UNIT[unit]).toFixed(digits)}`;
  return `${value.toFixed(digits)}${sd} ${unit}`;
}

/** All measuring lines of a document. */
export function measureReadings(correction: Correction, warp: PlaneWarp): MeasureReading[] {
  if (correction.measures.length === 0) return [];
  const scale = planeScale(correction, warp);
  return correction.measures.map((measure, index) => {
    const mm = scale && distanceMm(warp, scale, measure);
    const sdMm = mm === null || !scale ? null : lengthSdMm(correction, warp, scale, measure);
    return { id: measure.id, number: index + 1, mm, sdMm, text: mm === null || !scale ? null : lengthText(mm, scale, sdMm) };
  });
}

/** Whether a panel gives the plane a scale. */
export const givesScale = (correction: Correction): boolean => correction.panels.some((p) => p.used && unitMm(p) !== null);
