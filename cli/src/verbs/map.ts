import { composeWarp, PlumbError, type Point } from '@able-plumb/core';
import { readCorrection, readJson } from '../correction-file';
import { parseArguments, requirePositions, textOption, UsageError } from '../usage';

const FORM = 'map CORRECTION --points FILE [--inverse]';

/** `map CORRECTION --points FILE [--inverse]`: picture positions to the output file, or back; null where there is no image. */
export async function map(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['points'], ['inverse']);
  const [path] = requirePositions(parsed, 1, FORM);
  const file = textOption(parsed, 'points');
  if (file === undefined) throw new UsageError(`Use: plumb ${FORM}`);
  const correction = await readCorrection(path as string);
  const points = readPoints(await readJson(file), file);
  const warp = composeWarp(correction, correction.picture);
  return points.map(([x, y]) => (parsed.options.has('inverse') ? warp.toPicture(x, y) : warp.toOutput(x, y)));
}

function readPoints(value: unknown, file: string): Point[] {
  if (!Array.isArray(value)) throw new PlumbError('not-points', `${file} must hold a JSON array of [x, y].`);
  return value.map((point: unknown, i) => {
    if (Array.isArray(point) && point.length === 2 && point.every((v) => typeof v === 'number' && Number.isFinite(v)))
      return [point[0] as number, point[1] as number];
    throw new PlumbError('not-points', `${file}: entry ${i} is not [x, y] with two numbers.`);
  });
}
