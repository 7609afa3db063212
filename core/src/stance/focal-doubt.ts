import { focal35FromPx, focalPxOfCorrection } from '../correction/new-correction';
import type { Correction } from '../correction/schema';

/** A focal length that is told to better than this, of its logarithm, speaks for itself beside a mere assumption. */
export const SURE_LOG_FOCAL = 0.05;
/** Metadata round a 35 mm equivalent to whole millimetres: uniform, so 0.29 mm. */
const ROUNDED_MM = 1 / Math.sqrt(12);
/** A focal length that nobody knows is off by this factor either way (common practice, no published source). */
const ASSUMED_FACTOR = 1.6;
/** A profile was measured, but the picture's own focus and temperature move it (a matter of judgement). */
const PROFILE_SD = 0.005;

/**
 * What is not known of a correction's focal length: standard deviation of its logarithm. What was solved or measured says so itself; a
 * length of metadata is as good as it is rounded, one that was typed is taken at its word, an assumed one is off by a factor of 1.6.
 */
export function focalSdLog(correction: Correction): number {
  const { focalFrom, focalSd, flat } = correction.camera;
  if (flat) return 0;
  switch (focalFrom) {
    case 'metadata':
      return ROUNDED_MM / focal35FromPx(focalPxOfCorrection(correction), correction.picture);
    case 'profile':
      return PROFILE_SD;
    case 'references':
      return focalSd ?? Math.log(ASSUMED_FACTOR);
    case 'typed':
      return 0;
    case 'assumed':
      return Math.log(ASSUMED_FACTOR);
  }
}
