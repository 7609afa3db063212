import { focal35FromPx, focalPxOfCorrection } from '../correction/new-correction';
import type { Correction } from '../correction/schema';
import type { Readings } from './readings';

const FROM: Readonly<Record<Correction['camera']['focalFrom'], string>> = {
  metadata: 'from the metadata',
  profile: 'from the profile',
  references: 'from the lines',
  typed: 'typed',
  assumed: 'assumed',
};

/** A focal length as a 35 mm equivalent: one decimal below 100. */
export const focalMm = (focalPx: number, { picture }: Correction): string => {
  const mm = focal35FromPx(focalPx, picture);
  return mm < 100 ? mm.toFixed(1) : mm.toFixed(0);
};

/** What the lines say of the focal length as a range, in mm of the 35 mm equivalent: "45.2 to 58.1 mm, best 51.0"; null where they say nothing. */
export function focalRangeWords(correction: Correction, { focalSaid }: Pick<Readings, 'focalSaid'>): string | null {
  if (!focalSaid) return null;
  const { best, low, high } = focalSaid;
  const mm = (px: number): string => focalMm(px, correction);
  if (low === null) return high === null ? null : `up to ${mm(high)} mm`;
  return high === null ? `${mm(low)} mm or longer` : `${mm(low)} to ${mm(high)} mm, best ${mm(best)}`;
}

/** The focal length, where it is from, and what the lines say of it. */
export function focalWords(correction: Correction, readings: Pick<Readings, 'focalSaid'>): string {
  if (correction.camera.flat) return 'none: a sheet';
  const range = focalRangeWords(correction, readings);
  const used = `${focalMm(focalPxOfCorrection(correction), correction)} mm (35 mm equivalent), ${FROM[correction.camera.focalFrom]}`;
  return range === null ? used : `${used}; the lines fit ${range}`;
}
