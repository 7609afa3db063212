import type { Correction } from '../correction/schema';
import type { Point } from '../picture/point';
import { MM_OF_UNIT, unitMm } from '../stance/panel';
import { planeScale, type PlaneScale } from '../warp/panel-plane';
import { toFlat, type PlaneWarp } from '../warp/plane-warp';

/** A measuring line as it reads: a length in the unit of the panel that gives the scale. */
export interface MeasureReading {
  readonly id: string;
  readonly number: number;
  /** "1.204 m"; null where the plane has no scale or an end no image. */
  readonly text: string | null;
  readonly mm: number | null;
}

/** Distance in reality between two picture points of the panel's plane, mm; null where one has no image. */
export function distanceMm(warp: PlaneWarp, scale: PlaneScale, { a, b }: { readonly a: Point; readonly b: Point }): number | null {
  const [p, q] = [toFlat(warp, a), toFlat(warp, b)];
  return p && q && Math.hypot((p[0] - q[0]) * scale.mmPerPx[0], (p[1] - q[1]) * scale.mmPerPx[1]);
}

/** A length in the unit that a panel's size is typed in, to a thousandth of the panel or so. */
export function lengthText(mm: number, scale: PlaneScale): string {
  const { size } = scale.panel;
  const unit = size && 'width' in size && size.unit ? size.unit : 'mm';
  const value = mm / MM_OF_UNIT[unit];
  const digits = Math.max(0, Math.min(4, 3 - Math.floor(Math.log10(Math.max(1e-6, value)))));
  return `${value.toFixed(digits)} ${unit}`;
}

/** All measuring lines of a document. */
export function measureReadings(correction: Correction, warp: PlaneWarp): MeasureReading[] {
  if (correction.measures.length === 0) return [];
  const scale = planeScale(correction, warp);
  return correction.measures.map((measure, index) => {
    const mm = scale && distanceMm(warp, scale, measure);
    return { id: measure.id, number: index + 1, mm, text: mm === null || !scale ? null : lengthText(mm, scale) };
  });
}

/** Whether a panel gives the plane a scale. */
export const givesScale = (correction: Correction): boolean => correction.panels.some((p) => p.used && unitMm(p) !== null);
