import { diagonal, type Point, type Size } from '../picture/point';
import { correctionSchema, type Correction } from './schema';

/** What is known of a picture when it is opened. `focal35` in mm of the 36 x 24 frame by the diagonal, or null. */
export interface PictureFacts {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly sha256?: string | undefined;
  readonly focal35: number | null;
  readonly flat?: boolean | undefined;
  /** How the camera stood by its own level, degrees. */
  readonly level?: { readonly roll: number | null; readonly tilt: number | null } | null | undefined;
}

/** Assumed when nothing says otherwise, and marked as assumed wherever it matters. */
export const ASSUMED_FOCAL35 = 28;

/** Diagonal of the 36 x 24 mm frame. */
export const FRAME_DIAGONAL_MM = Math.hypot(36, 24);

/** Focal length in px of the picture from the 35 mm equivalent, by the diagonal (CIPA DC-008, FocalLengthIn35mmFilm). */
export const focalPxFrom35 = (focal35: number, size: Size): number => (focal35 / FRAME_DIAGONAL_MM) * diagonal(size);

/** The reverse of {@link focalPxFrom35}. */
export const focal35FromPx = (focalPx: number, size: Size): number => (focalPx * FRAME_DIAGONAL_MM) / diagonal(size);

/** The focal length that metadata tell, or the assumed one, as a camera writes it into the document. */
export const toldFocal = (focal35: number | null, size: Size): Pick<Correction['camera'], 'focalPx' | 'focalFrom'> => ({
  focalPx: focalPxFrom35(focal35 ?? ASSUMED_FOCAL35, size),
  focalFrom: focal35 === null ? 'assumed' : 'metadata',
});

/** The correction of a picture that nobody has touched: it changes nothing. */
export function newCorrection(facts: PictureFacts): Correction {
  const { level } = facts;
  return correctionSchema.parse({
    format: 'able-plumb/correction',
    version: 1,
    picture: { name: facts.name, width: facts.width, height: facts.height, ...(facts.sha256 ? { sha256: facts.sha256 } : {}) },
    camera: {
      ...toldFocal(facts.focal35, facts),
      flat: facts.flat ?? false,
      ...(level
        ? { level: { ...(level.roll === null ? {} : { roll: level.roll }), ...(level.tilt === null ? {} : { tilt: level.tilt }) } }
        : {}),
    },
  });
}

/** Focal length in px that a correction uses: its own, or the assumed one. */
export const focalPxOfCorrection = (c: Correction): number => c.camera.focalPx ?? focalPxFrom35(ASSUMED_FOCAL35, c.picture);

/** Optical centre in picture px: its own, or the middle. */
export const opticalCentreOf = (c: Correction): Point => c.camera.centre ?? [c.picture.width / 2, c.picture.height / 2];
