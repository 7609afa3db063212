import { type Correction, correctionSchema } from '../correction/schema';

/** The correction under which the stage shows the original: the right way up and turned by quarters, nothing else. */
export function originalOf(correction: Correction): Correction {
  const { quarterTurns, flipX, flipY } = correction.stance;
  const bare = correctionSchema.parse({ format: correction.format, version: correction.version, picture: correction.picture });
  return { ...bare, camera: { ...correction.camera, flat: true }, stance: { ...bare.stance, quarterTurns, flipX, flipY } };
}
