import { ASSUMED_FOCAL35, focalPxFrom35 } from '@able-plumb/core';
import { readPictureFile } from '../files';
import { parseArguments, requirePositions } from '../usage';

/** `info PICTURE`: what a file says of itself, without decoding its pixels. */
export async function info(args: readonly string[]): Promise<unknown> {
  const [path] = requirePositions(parseArguments(args, []), 1, 'info PICTURE');
  const { info: i } = await readPictureFile(path as string);
  return {
    width: i.width,
    height: i.height,
    orientation: i.orientation,
    format: i.format,
    bits: i.bits,
    channels: i.channels,
    profile: i.profileName,
    focal35: i.focal35,
    focalPx: focalPxFrom35(i.focal35 ?? ASSUMED_FOCAL35, i),
    focalFrom: i.focal35 === null ? 'assumed' : 'metadata',
    camera: i.camera,
    lens: i.lens,
    takenAt: i.takenAt,
    ppi: i.ppi,
    croppedFrom: i.croppedFrom,
  };
}
