import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { PlumbError } from '@able-plumb/core';
import { EXPORT_FLAGS, EXPORT_FORM, EXPORT_VALUES, exportOptions, exportPicture, formatFor } from '../export-picture';
import { readCorrection } from '../correction-file';
import { isSameFile } from '../files';
import { noteBegun } from '../partial-files';
import { parseArguments, requirePositions, textOption, UsageError, wholeOption } from '../usage';

const FORM = `apply CORRECTION PICTURE --out FILE [--threads N] ${EXPORT_FORM}`;

/** `apply CORRECTION PICTURE --out FILE`: a full-quality export; the file appears under its name only when complete. */
export async function apply(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['out', 'threads', ...EXPORT_VALUES], EXPORT_FLAGS);
  const [correctionPath, picturePath] = requirePositions(parsed, 2, FORM) as readonly [string, string];
  const out = textOption(parsed, 'out');
  if (out === undefined) throw new UsageError(`Use: plumb ${FORM}`);
  const options = exportOptions(parsed);
  // a wrong ending is wrong use, whatever the picture holds
  formatFor(extname(out), options, 8);
  if ((await isSameFile(correctionPath, out)) || (await isSameFile(picturePath, out)))
    throw new PlumbError('overwrites-input', `${out} is one of the inputs; originals are never overwritten.`);
  if (existsSync(out) && !parsed.options.has('force'))
    throw new PlumbError('exists', `${out} exists already.`, 'Choose another name, or add --force.');
  const threads = wholeOption(parsed, 'threads', 1, 64) ?? Math.min(8, availableParallelism());
  noteBegun(out);
  return exportPicture(await readCorrection(correctionPath), picturePath, out, extname(out), options, { threads, fit: 'refuse' });
}
