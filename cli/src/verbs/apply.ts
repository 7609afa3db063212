import { existsSync } from 'node:fs';
import { rename, rm, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { extname, resolve } from 'node:path';
import { FILTERS, kernelName, outputPpi, PlumbError, type Correction, type FilterName } from '@able-plumb/core';
import { EXPORT_FORMATS, readPixels, writePicture, type ExportFormat } from '@able-plumb/codecs';
import { readCorrection, readPictureFile } from '../files';
import { renderPicture } from '../render-picture';
import { parseArguments, requirePositions, textOption, UsageError, wholeOption, type Arguments } from '../usage';

const FORM =
  'apply CORRECTION PICTURE --out FILE [--quality 1..100] [--bits 8|16] [--filter NAME] [--long-edge PX] [--threads N] [--force]';

/** `apply CORRECTION PICTURE --out FILE`: a full-quality export; the file appears under its name only when complete. */
export async function apply(args: readonly string[]): Promise<unknown> {
  const parsed = parseArguments(args, ['out', 'quality', 'bits', 'filter', 'long-edge', 'threads'], ['force']);
  const [correctionPath, picturePath] = requirePositions(parsed, 2, FORM) as readonly [string, string];
  const out = textOption(parsed, 'out');
  if (out === undefined) throw new UsageError(`Use: plumb ${FORM}`);
  refuseOverwriting(out, [correctionPath, picturePath], parsed.options.has('force'));
  const correction = withOptions(await readCorrection(correctionPath), parsed);
  const started = performance.now();
  const { bytes, info, name } = await readPictureFile(picturePath);
  const format = formatFor(out, parsed, info.bits);
  if (info.width !== correction.picture.width || info.height !== correction.picture.height) {
    throw new PlumbError(
      'size-differs',
      `The correction was made for ${correction.picture.width} x ${correction.picture.height} px; ${name} has ${info.width} x ${info.height}.`,
      'Nothing was written.',
    );
  }
  const source = await readPixels(bytes, name, info);
  const decoded = performance.now();
  const threads = wholeOption(parsed, 'threads', 1, 64) ?? Math.min(8, availableParallelism());
  const result = await renderPicture(correction, source, EXPORT_FORMATS[format.kind].alpha, threads);
  const warped = performance.now();
  const file = await writePicture(result, format, info.metadata, outputPpi(correction));
  const encoded = performance.now();
  const partial = `${out}.part-${process.pid}`;
  try {
    await writeFile(partial, file);
    await rename(partial, out);
  } catch (error) {
    await rm(partial, { force: true });
    throw new PlumbError('cannot-write', `${out} cannot be written: ${(error as Error).message}.`);
  }
  const round = (ms: number): number => Math.round(ms * 10) / 10;
  return {
    file: out,
    width: result.width,
    height: result.height,
    kernel: kernelName(),
    megapixels: Math.round((result.width * result.height) / 1e4) / 100,
    ms: {
      decode: round(decoded - started),
      warp: round(warped - decoded),
      encode: round(encoded - warped),
      write: round(performance.now() - encoded),
    },
  };
}

function refuseOverwriting(out: string, inputs: readonly string[], force: boolean): void {
  if (inputs.some((input) => resolve(input) === resolve(out)))
    throw new PlumbError('overwrites-input', `${out} is one of the inputs; originals are never overwritten.`);
  if (existsSync(out) && !force) throw new PlumbError('exists', `${out} exists already.`, 'Choose another name, or add --force.');
}

function withOptions(correction: Correction, parsed: Arguments): Correction {
  const filter = textOption(parsed, 'filter');
  if (filter !== undefined && !(filter in FILTERS)) throw new UsageError(`--filter is one of ${Object.keys(FILTERS).join(', ')}.`);
  const longEdge = wholeOption(parsed, 'long-edge', 1, 32767);
  return {
    ...correction,
    output: {
      ...correction.output,
      ...(filter === undefined ? {} : { filter: filter as FilterName }),
      ...(longEdge === undefined ? {} : { size: { kind: 'long-edge' as const, px: longEdge } }),
    },
  };
}

function formatFor(out: string, parsed: Arguments, sourceBits: 8 | 16): ExportFormat {
  const bits = wholeOption(parsed, 'bits', 8, 16);
  if (bits !== undefined && bits !== 8 && bits !== 16) throw new UsageError('--bits is 8 or 16.');
  switch (extname(out).toLowerCase()) {
    case '.jpg':
    case '.jpeg':
      if (bits === 16) throw new UsageError('A JPEG has 8 bits; use .png for 16.');
      return { kind: 'jpeg', quality: wholeOption(parsed, 'quality', 1, 100) ?? 92, chroma: '4:4:4' };
    case '.png':
      return { kind: 'png', bits: bits ?? sourceBits };
    default:
      throw new UsageError(`${out}: the name must end in .jpg or .png.`);
  }
}
