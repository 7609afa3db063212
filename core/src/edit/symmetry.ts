import type { Correction } from '../correction/schema';
import { type Point, type Rect, rectCentre } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { panelPoints } from '../stance/panel-points';
import { directionOnPlane, meetingPoint, worldDirection } from '../stance/world-direction';
import { type PlaneWarp, eased, toPlane, uneased } from '../warp/plane-warp';
import { meetingShown } from '../warp/shown-direction';

/** Something that a crop can be centred on: a plumb line (across), a level one (up and down), a panel or the meeting point (both). */
export interface CentringAim {
  readonly key: string;
  readonly name: string;
  /** Where it lies on the plane, px; null in the direction in which it says nothing. */
  readonly x: number | null;
  readonly y: number | null;
}

/** What a crop can be centred on: the selected line, every used panel, and the point where lines that run straight away meet. */
export function centringAims(correction: Correction, warp: PlaneWarp, selectedId: string | null): readonly CentringAim[] {
  const aims: CentringAim[] = [];
  const line = correction.references.find((r) => r.id === selectedId);
  const ends = line && [toPlane(warp, line.a), toPlane(warp, line.b)];
  if (line && ends?.[0] && ends[1]) {
    const [x, y] = [0, 1].map((k) => ((ends[0] as Point)[k as 0 | 1] + (ends[1] as Point)[k as 0 | 1]) / 2) as [number, number];
    const upright = line.kind === 'plumb';
    aims.push({ key: 'line', name: 'the selected line', x: upright ? x : null, y: upright ? null : y });
  }
  correction.panels.forEach((panel, i) => {
    const corners = panelPoints(panel)
      .map((p) => toPlane(warp, p))
      .filter((p) => p !== null);
    if (!panel.used || corners.length < 4) return;
    const [x, y] = rectCentre(boundsOf(corners));
    aims.push({ key: panel.id, name: `panel ${i + 1}`, x, y });
  });
  const meeting = correction.camera.flat ? null : meetingShown(correction, warp, worldDirection('return'));
  if (meeting) aims.push({ key: 'meeting', name: 'the meeting point', x: meeting[0], y: meeting[1] });
  return aims;
}

/** How far a crop's middle lies off an aim, plane px: to the right and below positive; null where the aim says nothing. */
export function offAim(crop: Rect, aim: CentringAim): readonly [number | null, number | null] {
  const [x, y] = rectCentre(crop);
  return [aim.x === null ? null : x - aim.x, aim.y === null ? null : y - aim.y];
}

/** The crop with its middle on an aim. */
export const centredOn = (crop: Rect, aim: CentringAim): Rect => ({
  ...crop,
  x: aim.x === null ? crop.x : aim.x - crop.width / 2,
  y: aim.y === null ? crop.y : aim.y - crop.height / 2,
});

/** Where the eye's height lies on the plane in the middle of a crop, px down; and what says so. */
export interface EyeHeight {
  readonly y: number;
  readonly from: 'eye line' | 'stance';
}

/**
 * The height of the eye: along a line marked as eye line, else where the stance puts the horizon. Never from a level line, which may lie
 * at any height. Null for floors, ceilings and sheets, and where nothing has told the stance.
 */
export function eyeHeight(correction: Correction, warp: PlaneWarp, crop: Rect): EyeHeight | null {
  const { camera, stance, references } = correction;
  if (camera.flat || stance.front !== 'wall') return null;
  const middle = crop.x + crop.width / 2;
  for (const { a, b } of references.filter((r) => r.kind === 'eye' && r.used)) {
    const [p, q] = [toPlane(warp, a), toPlane(warp, b)];
    if (!p || !q || Math.abs(q[0] - p[0]) < 1) continue;
    return { y: p[1] + ((q[1] - p[1]) * (middle - p[0])) / (q[0] - p[0]), from: 'eye line' };
  }
  const told = stance.from !== 'hand' || Math.hypot(stance.adjust.roll, stance.adjust.tilt, stance.adjust.swing) > 0;
  if (!told) return null;
  const meeting = meetingPoint(correction, warp.stance, worldDirection('return'));
  if (!meeting) return null;
  // the horizon runs through it as a level line does there
  const along = directionOnPlane(correction, warp.stance, worldDirection('level'), meeting);
  const slope = Math.abs(along[0]) < 1e-12 ? 0 : along[1] / along[0];
  const flatMiddle = uneased(warp, [middle, meeting[1]])?.[0] ?? middle;
  const at = eased(warp, [flatMiddle, meeting[1] + slope * (flatMiddle - meeting[0])]);
  return at && { y: at[1], from: 'stance' };
}

/** The height of something in a crop, percent from its lower edge. */
export const heightInCrop = (crop: Rect, y: number): number => (100 * (crop.y + crop.height - y)) / crop.height;
