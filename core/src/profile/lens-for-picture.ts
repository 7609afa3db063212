import type { Lateral, LensModel } from '../correction/schema';
import { focalPxFrom35 } from '../correction/new-correction';
import { PlumbError } from '../picture/failure';
import { turnedSize, type QuarterTurns } from '../picture/quarter-turns';
import type { Size } from '../picture/point';
import { blendedModel } from './blended-model';
import { scaledModel } from './scaled-model';
import type { LensProfile, ProfileRow } from './schema';
import { turnedModel, turnsOfOrientation } from './turned-model';

/** What a picture's metadata say of its lens; size as its orientation tag shows it, px. */
export interface LensFacts extends Size {
  readonly camera: string | null;
  readonly lens: string | null;
  readonly focalMm: number | null;
  /** Value of the orientation tag. */
  readonly orientation: number;
}

/** The facts of a picture's lens among everything that is known of it; what older records lack is not known. */
export const lensFactsOf = (
  picture: Size & {
    readonly camera: string | null;
    readonly lens: string | null;
    readonly focalMm?: number | null | undefined;
    readonly orientation?: number | undefined;
  },
): LensFacts => ({
  width: picture.width,
  height: picture.height,
  camera: picture.camera,
  lens: picture.lens,
  focalMm: picture.focalMm ?? null,
  orientation: picture.orientation ?? 1,
});

/** Where a focal length lies in a profile's table: on a row, between two, beyond the ends (the end is held), or not known. */
export type FocalPlace = 'on' | 'between' | 'held' | 'unknown';

/** A profile as it holds for one picture. */
export interface PictureLens {
  readonly model: Exclude<LensModel, { kind: 'none' }>;
  readonly lateral: Lateral;
  /** Focal length that the profile tells, px of the picture; null where it tells none. */
  readonly focalPx: number | null;
  /** Largest radius that was measured, in half diagonals. */
  readonly reach: number;
  readonly place: FocalPlace;
}

/** Frames whose proportions differ by more than this are not the same frame. */
const SAME_ASPECT = 0.01;
/** Focal lengths nearer than this are one setting: metadata round. */
export const SAME_FOCAL = 0.02;

const bending = (row: ProfileRow): PictureLens['model'] => row.model as PictureLens['model'];

/** How a picture lies against a profile's frame; null when its proportions are others. */
export function turnsAgainstFrame(frame: Size, facts: LensFacts): { readonly turns: QuarterTurns; readonly mirrored: boolean } | null {
  const fits = (turns: QuarterTurns): boolean => {
    const { width, height } = turnedSize(frame, turns);
    return Math.abs(Math.log(width / height / (facts.width / facts.height))) < SAME_ASPECT;
  };
  const told = turnsOfOrientation(facts.orientation);
  if (fits(told.turns)) return told;
  // turned before it came here, and the tag with it
  return facts.orientation === 1 && fits(1) ? { turns: 1, mirrored: false } : null;
}

/** Where a focal length lies in the table. */
export function placeOf({ rows }: Pick<LensProfile, 'rows'>, focalMm: number | null): FocalPlace {
  const focals = rows.flatMap((row) => row.focalMm ?? []);
  if (focalMm === null || focals.length === 0) return 'unknown';
  if (focals.some((f) => Math.abs(Math.log(f / focalMm)) < SAME_FOCAL)) return 'on';
  return focalMm > Math.min(...focals) && focalMm < Math.max(...focals) ? 'between' : 'held';
}

/**
 * The lens that a profile tells for a picture: interpolated between the neighbouring focal lengths, never beyond the ends, scaled to the
 * picture's size and turned as the picture was.
 * @throws PlumbError when the picture's proportions are not those of the profile's frame
 */
export function lensForPicture(profile: LensProfile, facts: LensFacts): PictureLens {
  const { frame } = profile;
  const lie = turnsAgainstFrame(frame, facts);
  if (!lie) {
    throw new PlumbError(
      'profile-frame',
      `${profile.name} was made from pictures of ${frame.width} x ${frame.height} px; this one has other proportions (${facts.width} x ${facts.height}), so it was cropped since and the lens's centre is not known.`,
      'Nothing was changed; trace edges instead.',
    );
  }
  const place = placeOf(profile, facts.focalMm);
  const row = rowAt(profile, facts.focalMm, place);
  const turned = turnedSize(frame, lie.turns);
  const factor = facts.width / turned.width;
  return {
    model: scaledModel(turnedModel(bending(row), frame, lie.turns, lie.mirrored), factor),
    lateral: row.lateral,
    focalPx: row.focal35 === null ? null : focalPxFrom35(row.focal35, facts),
    reach: row.reach,
    place,
  };
}

function rowAt({ rows, frame }: LensProfile, focalMm: number | null, place: FocalPlace): ProfileRow {
  const sorted = [...rows].sort((p, q) => (p.focalMm ?? 0) - (q.focalMm ?? 0));
  const first = sorted[0] as ProfileRow;
  if (focalMm === null || place === 'unknown') return first;
  const above = sorted.findIndex((row) => (row.focalMm ?? 0) >= focalMm);
  if (place !== 'between') return sorted.reduce((best, row) => (off(row, focalMm) < off(best, focalMm) ? row : best), first);
  const [low, high] = [sorted[above - 1] as ProfileRow, sorted[above] as ProfileRow];
  const share = (focalMm - (low.focalMm as number)) / ((high.focalMm as number) - (low.focalMm as number));
  const mix = (p: number, q: number): number => p + (q - p) * share;
  return {
    focalMm,
    focal35: low.focal35 !== null && high.focal35 !== null ? mix(low.focal35, high.focal35) : null,
    model: blendedModel(bending(low), bending(high), share, frame),
    lateral: { red: mix(low.lateral.red, high.lateral.red), blue: mix(low.lateral.blue, high.lateral.blue) },
    reach: Math.min(low.reach, high.reach),
    madeFrom: '',
  };
}

const off = (row: ProfileRow, focalMm: number): number => Math.abs(Math.log((row.focalMm ?? 1e9) / focalMm));
