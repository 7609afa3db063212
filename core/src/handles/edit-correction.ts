import { correctionSchema, type Correction, type EdgeEase, type Panel, type Reference } from '../correction/schema';
import { turnedGuides } from './guides';
import { composeWarp } from '../crop/compose-warp';
import { PlumbError } from '../picture/failure';
import { verticalLeanDeg } from '../warp/shown-direction';
import type { Movement } from '../stance/determined-by';
import type { PlaneWarp } from '../warp/plane-warp';
import { planeWarp, toPicture, toPlane } from '../warp/plane-warp';
import { kindBySlope } from '../picture/line-angle';
import { multiply3, rotationZ, transpose3 } from '../linear/mat3';
import { attitudeFromRotation, rotationFromAttitude, type Attitude } from '../stance/attitude';
import { normaliseQuarterTurns, turnPoint, turnedSize } from '../picture/quarter-turns';
import { rectAround, rectCentre, type Point, type Rect, type Size } from '../picture/point';
import { solveCorrection } from '../stance/solve-correction';

const sizeOf = (c: Correction): Size => c.picture;

/** Next free reference id: r1, r2, ... */
export function nextReferenceId(references: readonly Reference[]): string {
  const largest = references.reduce((most, r) => Math.max(most, Number(/^r(\d+)$/.exec(r.id)?.[1] ?? 0)), 0);
  return `r${largest + 1}`;
}

/** A reference between two picture points, its kind by its slope in the turned picture. */
export function newReference(correction: Correction, a: Point, b: Point): Reference {
  const turn = (p: Point): Point => turnPoint(p, sizeOf(correction), correction.stance.quarterTurns);
  return {
    id: nextReferenceId(correction.references),
    kind: kindBySlope(turn(a), turn(b)),
    a: [...a],
    b: [...b],
    statedAngle: 0,
    used: true,
  };
}

/** The document with other references, solved anew; a crop by hand stays over the same picture point. */
export function withReferences(correction: Correction, references: readonly Reference[]): Correction {
  const solved = solveCorrection({ ...correction, references: [...references] }, sizeOf(correction)).correction;
  return keepCropInPlace(correction, solved);
}

/** The document with one reference changed. */
export const withReference = (correction: Correction, id: string, change: Partial<Reference>): Correction =>
  withReferences(
    correction,
    correction.references.map((r) => (r.id === id ? { ...r, ...change } : r)),
  );

const inDegrees = (deg: number, limit: number): number => Math.max(-limit, Math.min(limit, Math.round(deg * 1e6) / 1e6));

/** What the hand adds to roll, degrees; a crop by hand stays over the same picture point. */
export const withRollAdjust = (correction: Correction, rollDeg: number): Correction =>
  withStance(correction, { adjust: { ...correction.stance.adjust, roll: inDegrees(rollDeg, 180) } });

/** A whole movement set by hand, degrees: `adjust` becomes what is missing from the solved value. */
export const withMovement = (correction: Correction, movement: Movement, totalDeg: number): Correction =>
  withStance(correction, { adjust: { ...correction.stance.adjust, [movement]: inDegrees(totalDeg - correction.stance[movement], 180) } });

/** The document with other movements; a crop by hand stays over the same picture point. */
export const withStance = (correction: Correction, change: Partial<Correction['stance']>): Correction =>
  keepCropInPlace(correction, { ...correction, stance: { ...correction.stance, ...change } });

/** The part of tilt or swing that is taken out (1: all); of both alike when linked. */
export const withStrength = (correction: Correction, which: 'tilt' | 'swing', share: number, linked: boolean): Correction =>
  withStance(correction, { strength: linked ? { tilt: share, swing: share } : { ...correction.stance.strength, [which]: share } });

/** The crop re-fits itself while the aim turns, so its middle is followed until it stays, degrees. */
const MIDDLE_SETTLED_DEG = 1e-4;
const MIDDLE_ROUNDS = 8;

/** The aim turned so that the vertical in the middle of the crop is plumb, the convergence being kept; unchanged where there is none. */
export function withMiddlePlumb(correction: Correction): Correction {
  let next = correction;
  try {
    for (let round = 0; round < MIDDLE_ROUNDS; round += 1) {
      const warp = composeWarp(next, sizeOf(next));
      const lean = verticalLeanDeg(next, warp, rectCentre(warp.crop));
      if (Math.abs(lean) < MIDDLE_SETTLED_DEG) break;
      next = withStance(next, { aim: { ...next.stance.aim, roll: inDegrees(next.stance.aim.roll - lean, 90) } });
    }
  } catch (error) {
    // a correction that cannot be shown has its own sentence; the aim stays as it is
    if (!(error instanceof PlumbError)) throw error;
  }
  return next;
}

/** What follows from any change by itself: the middle kept plumb, where that is wished. */
export const withStandingWishes = (correction: Correction): Correction =>
  correction.stance.keepMiddle ? withMiddlePlumb(correction) : correction;

/** A rectangle by hand keeps its size and the picture point under its centre when the geometry under it changes. */
export function keepCropInPlace(before: Correction, after: Correction): Correction {
  const { crop, deliveries } = after;
  if (!crop.rect && !deliveries.some((d) => d.rect)) return after;
  try {
    const [from, to] = [planeWarp(before, sizeOf(before)), planeWarp(after, sizeOf(after))];
    const moved = (rect: Rect): Rect => {
      const point = toPicture(from, rectCentre(rect));
      const centre = point && toPlane(to, point);
      return centre ? rectAround(centre, rect.width, rect.height) : rect;
    };
    return {
      ...after,
      crop: crop.rect ? { ...crop, rect: moved(crop.rect) } : crop,
      deliveries: deliveries.map((d) => (d.rect ? { ...d, rect: moved(d.rect) } : d)),
    };
  } catch {
    return after;
  }
}

/**
 * The document after clockwise quarter turns: what is seen turns. References keep pointing at the same picture points and change their
 * kind with the turn; a stance by hand is re-expressed; a crop by hand turns along.
 */
export function withQuarterTurn(correction: Correction, by: number): Correction {
  const turns = normaliseQuarterTurns(by);
  if (turns === 0) return correction;
  const { stance, crop } = correction;
  const swapsAxes = turns % 2 === 1;
  const swapKind = (kind: Reference['kind']): Reference['kind'] => (kind === 'plumb' ? 'level' : kind === 'level' ? 'plumb' : kind);
  const references = correction.references.map((r) => (swapsAxes ? { ...r, kind: swapKind(r.kind) } : r));
  const turned: Correction = solveCorrection(
    {
      ...correction,
      references,
      guides: turnedGuides(correction.guides, turns),
      ease: { ...correction.ease, edges: correction.ease.edges.map((e) => turnedEdge(e, turns)) },
      stance: {
        ...stance,
        quarterTurns: normaliseQuarterTurns(stance.quarterTurns + turns),
        ...turnedStance(stance, turns),
        ...(swapsAxes ? { flipX: stance.flipY, flipY: stance.flipX, aspect: 1 / stance.aspect } : {}),
      },
      crop: { ...crop, ...(typeof crop.ratio === 'number' && swapsAxes ? { ratio: 1 / crop.ratio } : {}) },
    },
    sizeOf(correction),
  ).correction;
  return {
    ...turned,
    crop: crop.rect ? { ...turned.crop, rect: turnedRect(crop.rect, turns) } : turned.crop,
    deliveries: correction.deliveries.map((d) => (d.rect ? { ...d, rect: turnedRect(d.rect, turns) } : d)),
  };
}

const SIDES = ['top', 'right', 'bottom', 'left'] as const;

/** An edge easing turned clockwise with what is seen; what was across is then up and down. */
function turnedEdge(edge: EdgeEase, turns: number): EdgeEase {
  const from = SIDES.indexOf(edge.side);
  const side = SIDES[(from + turns) % 4] as EdgeEase['side'];
  // a coordinate keeps its sign unless it turns from down to across, or by half
  const signs = [...Array<unknown>(turns)].reduce<number>((sign, _, i) => ((from + i) % 2 === 0 ? -sign : sign), 1);
  return { ...edge, side, room: edge.room && { ...edge.room, frame: signs * edge.room.frame } };
}

/** A rectangle turned about the plane's origin, which is the picture's middle. */
function turnedRect(rect: Rect, turns: number): Rect {
  const c = rectCentre(rect);
  const centre: Point = turns === 1 ? [-c[1], c[0]] : turns === 2 ? [-c[0], -c[1]] : [c[1], -c[0]];
  const [w, h] = turns % 2 === 1 ? [rect.height, rect.width] : [rect.width, rect.height];
  return rectAround(centre, w, h);
}

/**
 * A stance seen from the turned picture: R' = Rz R Rz^-1, exact at full strength. By hand, all of it ends in `adjust`; from references,
 * the references solve it anew and only what the hand added is turned.
 */
function turnedStance(stance: Correction['stance'], turns: number): Partial<Correction['stance']> {
  const about = rotationZ((turns * Math.PI) / 2);
  const turnAttitude = (a: Attitude): Attitude => attitudeFromRotation(multiply3(about, rotationFromAttitude(a), transpose3(about)));
  const { roll, tilt, swing, adjust } = stance;
  const strength = turns % 2 === 1 ? { tilt: stance.strength.swing, swing: stance.strength.tilt } : stance.strength;
  if (stance.from === 'references') return { strength, adjust: turnAttitude(adjust) };
  const all = turnAttitude({ roll: roll + adjust.roll, tilt: tilt + adjust.tilt, swing: swing + adjust.swing });
  return { strength, roll: 0, tilt: 0, swing: 0, adjust: all };
}

/** The document with held proportions; a crop by hand takes them about its centre with the same area. */
export function withRatio(correction: Correction, ratio: Correction['crop']['ratio']): Correction {
  const { rect, ...rest } = correction.crop;
  if (!rect || ratio === 'free') return { ...correction, crop: { ...rest, ratio, ...(rect ? { rect } : {}) } };
  const turned = turnedSize(sizeOf(correction), correction.stance.quarterTurns);
  const value = ratio === 'as-taken' ? turned.width / turned.height : ratio;
  const area = rect.width * rect.height;
  return { ...correction, crop: { ...rest, ratio, rect: rectAround(rectCentre(rect), Math.sqrt(area * value), Math.sqrt(area / value)) } };
}

/** A crop computed from its answers again: what was dragged is dropped. */
export function withTrim(correction: Correction, answers: Partial<Pick<Correction['crop'], 'edges' | 'around' | 'ratio'>>): Correction {
  const { rect: _dropped, ...crop } = correction.crop;
  return { ...correction, crop: { ...crop, ...answers } };
}

/** A crop by hand, plane px. */
export const withCropRect = (correction: Correction, rect: Correction['crop']['rect']): Correction =>
  rect ? { ...correction, crop: { ...correction.crop, rect } } : withTrim(correction, {});

/** A point moved by a way on the plane, px; null without an image there. */
export function movedPoint(warp: PlaneWarp, p: Point, by: Point): [number, number] | null {
  const at = toPlane(warp, p);
  const next = at && toPicture(warp, [at[0] + by[0], at[1] + by[1]]);
  return next && [next[0], next[1]];
}

/** The line moved on the stage: both ends by the same way on the plane, or one end to a plane point; null without an image there. */
export function movedReference<T extends Pick<Reference, 'a' | 'b'>>(
  warp: PlaneWarp,
  line: T,
  which: 'a' | 'b' | 'both',
  by: Point,
): T | null {
  const a = which === 'b' ? line.a : movedPoint(warp, line.a, by);
  const b = which === 'a' ? line.b : movedPoint(warp, line.b, by);
  return a && b ? { ...line, a, b } : null;
}

/** The crop's proportions turned: tall for wide. As taken becomes the turned number; a crop by hand turns about its centre. */
export function turnProportion(correction: Correction): Correction {
  const { ratio, rect } = correction.crop;
  const turned = turnedSize(sizeOf(correction), correction.stance.quarterTurns);
  const next = ratio === 'free' ? ratio : 1 / (ratio === 'as-taken' ? turned.width / turned.height : ratio);
  const back = typeof next === 'number' && Math.abs(next - turned.width / turned.height) < 1e-12 ? 'as-taken' : next;
  const crop: Correction['crop'] = { ...correction.crop, ratio: back };
  return { ...correction, crop: rect ? { ...crop, rect: rectAround(rectCentre(rect), rect.height, rect.width) } : crop };
}

/** A panel by its corners or by its edges, picture px; it decides the stance from now on. */
export function withNewPanel(correction: Correction, marked: Pick<Panel, 'corners'> | Pick<Panel, 'edges'>): Correction {
  const largest = correction.panels.reduce((most, p) => Math.max(most, Number(/^p(\d+)$/.exec(p.id)?.[1] ?? 0)), 0);
  const panel: Panel = { id: `p${largest + 1}`, ...marked, size: null, margins: { top: 0, right: 0, bottom: 0, left: 0 }, used: true };
  return withPanels({ ...correction, stance: { ...correction.stance, from: 'panel' } }, [...correction.panels, panel]);
}

/** The document with other panels, solved anew; a crop around a panel that is gone goes back to the picture. */
export function withPanels(correction: Correction, panels: readonly Panel[]): Correction {
  const used = panels.some((p) => p.used);
  // a panel that comes back into use decides again, whatever was set meanwhile
  const gained = used && !correction.panels.some((p) => p.used);
  const { crop, stance } = correction;
  const next: Correction = {
    ...correction,
    panels: [...panels],
    stance: { ...stance, from: gained ? 'panel' : stance.from },
    crop: crop.around === 'panel' && !used ? { ...crop, around: 'picture' } : crop,
  };
  return keepCropInPlace(correction, solveCorrection(next, sizeOf(correction)).correction);
}

/**
 * Who decides while there are panels and lines: the first panel exactly, or all lines together with the panels' edges, which leave
 * aspect and shear alone.
 */
export function withDecider(correction: Correction, from: 'panel' | 'references'): Correction {
  const shape: Partial<Correction['stance']> = from === 'references' ? { aspect: 1, shear: 0, pull: { scale: 1, shift: [0, 0] } } : {};
  const asked = { ...correction, stance: { ...correction.stance, from, ...shape } };
  return keepCropInPlace(correction, solveCorrection(asked, sizeOf(correction)).correction);
}

/** A picture of its own from one panel: the same original, only that panel left, the crop around it. */
export function ofPanelAlone(correction: Correction, id: string): Correction {
  const panels = correction.panels.filter((p) => p.id === id).map((p) => ({ ...p, used: true }));
  const { rect: _dropped, ...crop } = correction.crop;
  const alone: Correction = {
    ...correction,
    references: [],
    measures: [],
    guides: [],
    panels,
    stance: {
      ...correctionSchema.shape.stance.parse({}),
      from: 'panel',
      front: correction.stance.front,
      quarterTurns: correction.stance.quarterTurns,
    },
    crop: { ...crop, around: 'panel', edges: 'clear' },
  };
  return solveCorrection(alone, sizeOf(correction)).correction;
}

/** The document without one panel. */
export const withoutPanel = (correction: Correction, id: string): Correction =>
  withPanels(
    correction,
    correction.panels.filter((p) => p.id !== id),
  );

/** The document with one panel changed. */
export const withPanel = (correction: Correction, id: string, change: Partial<Panel>): Correction =>
  withPanels(
    correction,
    correction.panels.map((p) => (p.id === id ? { ...p, ...change } : p)),
  );

/** A side of the picture as a reference: its two corners. */
export function borderReference(correction: Correction, side: 'top' | 'right' | 'bottom' | 'left'): Reference {
  const { width, height } = correction.picture;
  const ends: Readonly<Record<typeof side, readonly [Point, Point]>> = {
    top: [
      [0, 0],
      [width, 0],
    ],
    right: [
      [width, 0],
      [width, height],
    ],
    bottom: [
      [0, height],
      [width, height],
    ],
    left: [
      [0, 0],
      [0, height],
    ],
  };
  return newReference(correction, ...ends[side]);
}

/** What the result faces; a sheet is flat, so it only turns. */
export function withFront(correction: Correction, front: Correction['stance']['front']): Correction {
  const next: Correction = {
    ...correction,
    camera: { ...correction.camera, flat: front === 'sheet' },
    stance: { ...correction.stance, front },
  };
  return keepCropInPlace(correction, solveCorrection(next, sizeOf(correction)).correction);
}

/** The document with one measuring line more, ends in picture px. */
export function withMeasure(correction: Correction, a: Point, b: Point): Correction {
  const largest = correction.measures.reduce((most, m) => Math.max(most, Number(/^m(\d+)$/.exec(m.id)?.[1] ?? 0)), 0);
  return { ...correction, measures: [...correction.measures, { id: `m${largest + 1}`, a: [a[0], a[1]], b: [b[0], b[1]] }] };
}
