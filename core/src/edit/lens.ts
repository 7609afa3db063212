import { opticalCentreOf } from '../correction/new-correction';
import type { Correction, LensModel, TracedEdge } from '../correction/schema';
import { keepCropInPlace } from './keep-crop-in-place';
import { withReferences } from './references';
import { bowOf } from '../lens/bow';
import { type EdgeCalibrationOutcome, calibrateEdges } from '../lens/calibrate-edges';
import type { LikelyBend } from '../lens/likely-bend';
import type { Point } from '../picture/point';
import { asRadial } from '../profile/blended-model';
import type { PictureLens } from '../profile/lens-for-picture';
import { solveCorrection } from '../stance/solve-correction';
import { usedLens } from '../stance/through-lens';

/** The document with other facts of the camera or another lens; what was pointed at is solved anew, a stance by hand stays. */
export function withCamera(
  correction: Correction,
  change: { camera?: Partial<Correction['camera']>; lens?: Partial<Correction['lens']> },
): Correction {
  const next: Correction = {
    ...correction,
    camera: { ...correction.camera, ...change.camera },
    lens: { ...correction.lens, ...change.lens },
  };
  const solved = next.stance.from === 'hand' ? next : solveCorrection(next, next.picture).correction;
  return keepCropInPlace(correction, solved);
}

/** A lens that nobody set. */
const NO_LENS: Partial<Correction['lens']> = {
  on: true,
  profile: null,
  model: { kind: 'none' },
  from: 'nobody',
};

/** Bend by hand that counts as none, in percent at the corner. */
const NO_BEND_PERCENT = 0.005;

/**
 * The document with a distortion set by eye: by how many percent of its height the picture's corner is displaced, positive for edges
 * that bow inwards (pincushion), negative for edges that bow outwards (barrel). A division model about the optical centre.
 */
export function withBend(correction: Correction, percent: number): Correction {
  const [cx, cy] = opticalCentreOf(correction);
  const model: LensModel = Math.abs(percent) < NO_BEND_PERCENT ? { kind: 'none' } : { kind: 'division', cx, cy, l1: percent / 100, l2: 0 };
  return withCamera(correction, { lens: { ...NO_LENS, model, from: 'hand' } });
}

/** What {@link withBend} set, percent; null while a measured model is in use. */
export function bendOf({ lens: { model, from } }: Correction): number | null {
  if (model.kind === 'none') return 0;
  return from === 'hand' && model.kind === 'division' && model.l2 === 0 ? model.l1 * 100 : null;
}

/** How much a lens that is known may still differ from what edges show, as k1. */
const KNOWN_BEND_SD = 0.02;

/** A profile's centre nearer to the middle than this is the middle, px. */
const OFF_MIDDLE_PX = 0.5;

/**
 * The document with a profile's lens switched on. Focal length and optical centre come from the profile where nothing better tells them.
 */
export function withProfile(correction: Correction, id: string, lens: PictureLens): Correction {
  const { camera, picture } = correction;
  const change: Partial<Correction['camera']> = {};
  if (lens.focalPx !== null && (camera.focalFrom === 'assumed' || camera.focalFrom === 'profile'))
    Object.assign(change, { focalPx: lens.focalPx, focalFrom: 'profile' });
  const { cx, cy } = lens.model;
  const off = Math.hypot(cx - picture.width / 2, cy - picture.height / 2);
  if ((camera.centreFrom === 'middle' || camera.centreFrom === 'profile') && off > OFF_MIDDLE_PX)
    Object.assign(change, { centre: [cx, cy], centreFrom: 'profile' });
  return withCamera(correction, {
    camera: change,
    lens: { on: true, profile: id, model: lens.model, lateral: lens.lateral, from: 'profile' },
  });
}

/**
 * The document without any lens; what came from its profile goes with it. Traced edges stay and no longer decide.
 * @param by nobody: a profile may be found for it again; hand: it stays without
 */
export function withoutLens(
  correction: Correction,
  told: Pick<Correction['camera'], 'focalPx' | 'focalFrom'>,
  by: 'nobody' | 'hand' = 'nobody',
): Correction {
  const { centre, ...camera } = correction.camera;
  const kept: Correction['camera'] = {
    ...camera,
    ...(camera.focalFrom === 'profile' ? told : {}),
    ...(camera.centreFrom === 'profile' ? { centreFrom: 'middle' } : centre ? { centre } : {}),
  };
  return withCamera({ ...correction, camera: kept }, { lens: { ...NO_LENS, from: by, lateral: { red: 1, blue: 1 } } });
}

/** What the traced edges say of the lens. */
export const edgeCalibrationOf = (correction: Correction): EdgeCalibrationOutcome =>
  calibrateEdges(correction.lens.edges, correction.picture, opticalCentreOf(correction));

/** The document with the lens that makes its traced edges straight; none where they say nothing. They decide from now on. */
export function withLensFromEdges(correction: Correction): Correction {
  const model: LensModel = edgeCalibrationOf(correction).found?.model ?? { kind: 'none' };
  return withCamera(correction, { lens: { ...NO_LENS, model, from: 'edges' } });
}

/** The document with other traced edges. They decide the lens where nothing else does. */
export function withEdges(correction: Correction, edges: readonly TracedEdge[]): Correction {
  const { lens } = correction;
  const next: Correction = { ...correction, lens: { ...lens, edges: [...edges] } };
  if (lens.from === 'edges' || (lens.model.kind === 'none' && lens.profile === null)) {
    return edges.length > 0 ? withLensFromEdges(next) : withCamera(next, { lens: NO_LENS });
  }
  return next;
}

/** The document with a reference line turned into the traced edge that it was drawn along, picture px. */
export const withLineAsEdge = (
  correction: Correction,
  id: string,
  points: readonly (readonly [number, number])[],
  bowSd?: number,
): Correction =>
  withNewEdge(
    withReferences(
      correction,
      correction.references.filter((r) => r.id !== id),
    ),
    points,
    bowSd,
  );

/** Bow that the lens in use leaves along an edge, ideal px; null where a bead has no image. */
export const bowLeft = (correction: Correction, points: readonly Point[]): number | null =>
  bowOf(usedLens(correction, correction.picture), points);

/** How much the lens in use bends, for following further edges; null where none is in use or it is no lens for straight things. */
export function likelyBendOf({ lens: { model }, picture }: Correction): LikelyBend | null {
  if (model.kind === 'none' || model.kind === 'fisheye') return null;
  return { centre: [model.cx, model.cy], k1: asRadial(model, picture).k1, sd: KNOWN_BEND_SD };
}

/**
 * The document with one traced edge more, picture px.
 * @param bowSd standard deviation of its bow where it was followed by itself, px
 */
export function withNewEdge(correction: Correction, points: readonly (readonly [number, number])[], bowSd?: number): Correction {
  const { edges } = correction.lens;
  const largest = edges.reduce((most, e) => Math.max(most, Number(/^e(\d+)$/.exec(e.id)?.[1] ?? 0)), 0);
  return withEdges(correction, [
    ...edges,
    { id: `e${largest + 1}`, points: points.map((p) => [p[0], p[1]]), ...(bowSd === undefined ? {} : { bowSd }) },
  ]);
}
