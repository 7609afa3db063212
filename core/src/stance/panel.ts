import type { Correction, Panel } from '../correction/schema';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import { lensOf } from '../lens/lens-of';
import { noLens } from '../lens/none';
import { apply3, multiply3, type Mat3 } from '../linear/mat3';
import { diagonal, type Point, type Size } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { homographyFromCorners, sortCorners, squareFromCorners, type Quad } from './homography-from-corners';
import { rqSplit, type RqSplit } from './rq-split';

/** What a panel says about the stance. */
export interface PanelSolution {
  /** Corners in ideal space (turned), top left first. */
  readonly ideal: Quad;
  /** Width / height, and where it came from. */
  readonly ratio: number;
  readonly ratioFrom: 'typed' | 'computed';
  readonly split: RqSplit;
  /** Focal length that the panel itself asks for, px; null where it cannot say (too square-on). */
  readonly focalPx: number | null;
}

const MM: Readonly<Record<'mm' | 'cm' | 'm' | 'in' | 'ft', number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 };

/** Length of one unit of a panel's size, mm; null when the size is a mere ratio. */
export const unitMm = (panel: Panel): number | null =>
  panel.size && 'width' in panel.size && panel.size.unit ? MM[panel.size.unit] : null;

/** Typed width / height of a panel, or null when it is to be computed. */
export function typedRatio({ size }: Panel): number | null {
  if (!size) return null;
  return 'ratio' in size ? size.ratio : size.width / size.height;
}

/** A panel's corners in ideal space (turned), sorted; null when one has no image through the lens. */
export function panelInIdeal(correction: Correction, size: Size, panel: Pick<Panel, 'corners'>): Quad | null {
  const lens = correction.lens.on ? lensOf(correction.lens.model, size) : noLens(size);
  const out = new Float64Array(2);
  const ideal = panel.corners.map((p) =>
    lens.undistort(p[0], p[1], out) ? turnPoint([out[0] as number, out[1] as number], size, correction.stance.quarterTurns) : null,
  );
  return ideal.every((p) => p !== null) ? sortCorners(ideal as unknown as Quad) : null;
}

/**
 * The exact homography of a panel as camera movements: the panel becomes an upright rectangle of its ratio.
 *
 * The ratio is typed, or computed from the lens's geometry: with the focal length known, HK = UQ leaves the unit square's stretch as the
 * ratio. The panel's own focal length follows from its two vanishing points, f^2 = -(v1 - c) . (v2 - c), where tilt and swing both
 * exceed about 3 degrees.
 * @throws DegeneratePanelError
 * @returns null when a corner has no image, or the map is mirrored
 * Source: Zhang, He 2007, Whiteboard scanning and image enhancement; Caprile, Torre 1990.
 */
export function solvePanel(correction: Correction, size: Size, panel: Panel): PanelSolution | null {
  const ideal = panelInIdeal(correction, size, panel);
  if (!ideal) return null;
  const f = correction.camera.flat ? 1000 * diagonal(size) : focalPxOfCorrection(correction);
  const c = turnPoint(opticalCentreOf(correction), size, correction.stance.quarterTurns);
  const k: Mat3 = [f, 0, c[0], 0, f, c[1], 0, 0, 1];
  const toSquare = squareFromCorners(ideal);
  const onSquare = rqSplit(multiply3(toSquare, k));
  if (!onSquare) return null;
  const typed = typedRatio(panel);
  const ratio = typed ?? 1 / onSquare.aspect;
  const split = rqSplit(multiply3([ratio, 0, 0, 0, 1, 0, 0, 0, 1], toSquare, k));
  return (
    split && {
      ideal,
      ratio,
      ratioFrom: typed === null ? 'computed' : 'typed',
      split,
      focalPx: focalFromPanel(ideal, c, diagonal(size), onSquare),
    }
  );
}

const FEWEST_DEGREES = 3;

function focalFromPanel(ideal: Quad, c: Point, diagonalPx: number, { attitude }: RqSplit): number | null {
  if (Math.abs(attitude.tilt) < FEWEST_DEGREES || Math.abs(attitude.swing) < FEWEST_DEGREES) return null;
  const h = homographyFromCorners(ideal);
  const [across, down] = [apply3(h, [1, 0, 0]), apply3(h, [0, 1, 0])];
  if (Math.abs(across[2]) < 1e-12 || Math.abs(down[2]) < 1e-12) return null;
  const dot = (across[0] / across[2] - c[0]) * (down[0] / down[2] - c[0]) + (across[1] / across[2] - c[1]) * (down[1] / down[2] - c[1]);
  const f = Math.sqrt(-dot);
  return Number.isFinite(f) && f > 0.2 * diagonalPx && f < 10 * diagonalPx ? f : null;
}
