import { composeWarp, costOf } from '@able-plumb/core';
import { readCorrection } from '../correction-file';
import { parseArguments, requirePositions } from '../usage';

/** `trim CORRECTION`: the crop as its answers give it, and what it costs. */
export async function trim(args: readonly string[]): Promise<unknown> {
  const [path] = requirePositions(parseArguments(args, []), 1, 'trim CORRECTION');
  const correction = await readCorrection(path as string);
  const warp = composeWarp(correction, correction.picture);
  const cost = costOf(warp, warp.crop);
  return { rect: warp.crop, output: warp.outputSize, kept: cost.kept, peakEnlargement: cost.peakEnlargement };
}
