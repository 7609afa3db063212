import { opticalCentreOf } from '../correction/new-correction';
import type { Correction, LensModel, TracedEdge } from '../correction/schema';
import { calibrateEdges, type EdgeCalibrationOutcome } from '../lens/calibrate-edges';
import type { PictureLens } from '../profile/lens-for-picture';
import { solveCorrection } from '../stance/solve-correction';
import { keepCropInPlace } from './edit-correction';

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
  from: 'hand',
  lateral: { red: 1, blue: 1 },
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
  return withCamera(correction, { lens: { ...NO_LENS, model } });
}

/** What {@link withBend} set, percent; null while another model is in use. */
export function bendOf({ lens: { model } }: Correction): number | null {
  if (model.kind === 'none') return 0;
  return model.kind === 'division' && model.l2 === 0 ? model.l1 * 100 : null;
}

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

/** The document without any lens; what came from its profile goes with it. Traced edges stay and no longer decide. */
export function withoutLens(correction: Correction, told: Pick<Correction['camera'], 'focalPx' | 'focalFrom'>): Correction {
  const { centre, ...camera } = correction.camera;
  const kept: Correction['camera'] = {
    ...camera,
    ...(camera.focalFrom === 'profile' ? told : {}),
    ...(camera.centreFrom === 'profile' ? { centreFrom: 'middle' } : centre ? { centre } : {}),
  };
  return withCamera({ ...correction, camera: kept }, { lens: NO_LENS });
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

/** The document with one traced edge more, picture px. */
export function withNewEdge(correction: Correction, points: readonly (readonly [number, number])[]): Correction {
  const { edges } = correction.lens;
  const largest = edges.reduce((most, e) => Math.max(most, Number(/^e(\d+)$/.exec(e.id)?.[1] ?? 0)), 0);
  return withEdges(correction, [...edges, { id: `e${largest + 1}`, points: points.map((p) => [p[0], p[1]]) }]);
}
