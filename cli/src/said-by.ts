import { appliedTo, newCorrection, whatItSays, type Correction, type Raster, type Said, type Suggestion } from '@able-plumb/core';
import { readPixels } from '@able-plumb/codecs';
import { readPictureFile } from './files';

/** What a picture says by itself, and the picture. */
export interface SaidBy extends Said {
  readonly source: Raster;
}

/**
 * What a picture file says of how its camera stood.
 * @param base lens, camera and crop to go by; scaled to the picture's size. What the file says of itself without one.
 */
export async function saidBy(path: string, base: Correction | null): Promise<SaidBy> {
  const { bytes, info, name } = await readPictureFile(path);
  const { width, height, focal35, level } = info;
  const correction = base ? appliedTo(base, { name, width, height }).correction : newCorrection({ name, width, height, focal35, level });
  const source = await readPixels(bytes, name, info);
  return { ...whatItSays(source, correction), source };
}

/** A suggestion as the command line prints it: angles in degrees, ends in picture px. */
export const printed = ({ kind, sure, withinDeg, stance, sd, focalPx, evidence, cost, correction }: Suggestion): unknown => ({
  kind,
  sure,
  withinDeg,
  stance,
  sd,
  ...(focalPx === null ? {} : { focalPx }),
  evidence,
  cost,
  correction,
});
