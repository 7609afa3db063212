import { focal35FromPx } from '../correction/new-correction';
import type { LensModel } from '../correction/schema';
import { normaliseQuarterTurns, turnedSize } from '../picture/quarter-turns';
import { SAME_FOCAL, type LensFacts } from './lens-for-picture';
import { lensProfileSchema, type LensProfile, type ProfileRow } from './schema';
import { turnedModel, turnsOfOrientation } from './turned-model';

/** A lens that was found in a picture, as a profile keeps it. */
export interface FoundLens {
  readonly model: Exclude<LensModel, { kind: 'none' }>;
  /** Focal length in px of the picture; null where it is not known. */
  readonly focalPx: number | null;
  readonly lateral?: ProfileRow['lateral'];
  readonly reach: number;
  readonly madeFrom: string;
}

/** A found lens as the row of a profile: turned back to how the sensor lay. */
export function profileRow(found: FoundLens, facts: LensFacts): { readonly frame: LensProfile['frame']; readonly row: ProfileRow } {
  const { turns, mirrored } = turnsOfOrientation(facts.orientation);
  const back = normaliseQuarterTurns(-turns);
  const frame = turnedSize({ width: facts.width, height: facts.height }, back);
  const upright = turnedModel(found.model, facts, back);
  return {
    frame,
    row: {
      focalMm: facts.focalMm,
      focal35: found.focalPx === null ? null : focal35FromPx(found.focalPx, facts),
      model: mirrored ? turnedModel(upright, frame, 0, true) : upright,
      lateral: found.lateral ?? { red: 1, blue: 1 },
      reach: Math.min(1.5, found.reach),
      madeFrom: found.madeFrom,
    },
  };
}

/** A new profile for the camera and lens of a picture, with one row. */
export function profileFrom(found: FoundLens, facts: LensFacts, id: string, name: string): LensProfile {
  const { frame, row } = profileRow(found, facts);
  return lensProfileSchema.parse({
    format: 'able-plumb/lens-profile',
    version: 1,
    id,
    name,
    cameras: facts.camera === null ? [] : [facts.camera],
    lenses: facts.lens === null ? [] : [facts.lens],
    frame,
    rows: [row],
  });
}

/** A profile with a row more, or in place of the one for the same focal length; null where its frame or missing focal lengths forbid it. */
export function withProfileRow(profile: LensProfile, { frame, row }: ReturnType<typeof profileRow>): LensProfile | null {
  if (frame.width !== profile.frame.width || frame.height !== profile.frame.height) return null;
  const others = profile.rows.filter((r) => !sameFocal(r.focalMm, row.focalMm));
  const rows = [...others, row].sort((p, q) => (p.focalMm ?? 0) - (q.focalMm ?? 0));
  return rows.length > 1 && rows.some((r) => r.focalMm === null) ? null : { ...profile, rows };
}

const sameFocal = (p: number | null, q: number | null): boolean =>
  p === null || q === null ? p === q : Math.abs(Math.log(p / q)) < SAME_FOCAL;
