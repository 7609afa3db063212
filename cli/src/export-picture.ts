import { rename, rm, writeFile } from 'node:fs/promises';
import {
  appliedTo,
  FILTERS,
  kernelName,
  outputPpi,
  PlumbError,
  requireSoundStance,
  sharedRaster,
  type Correction,
  type ExportFormat,
  type FilterName,
  type KeptMetadata,
  type Raster,
} from '@able-plumb/core';
import { EXPORT_FORMATS, readPixels, writePicture } from '@able-plumb/codecs';
import { readPictureFile } from './files';
import { giveBack } from './give-back';
import { partialOf } from './partial-files';
import { startRenderer } from './render-picture';
import { textOption, UsageError, wholeOption, type Arguments } from './usage';

/** What is asked for on the command line of every exported picture. */
export interface ExportOptions {
  readonly quality: number;
  /** Undefined: those of the source. */
  readonly bits?: 8 | 16 | undefined;
  readonly compression: 'none' | 'deflate';
  readonly lossless: boolean;
  readonly kept: KeptMetadata;
  readonly filter?: FilterName | undefined;
  /** Undefined: that of the correction. */
  readonly light?: Correction['output']['light'] | undefined;
  readonly longEdge?: number | undefined;
}

/** Options that take a value, and those that take none; those of {@link exportOptions}. */
export const EXPORT_VALUES = ['quality', 'bits', 'filter', 'light', 'long-edge', 'compression', 'metadata'];
export const EXPORT_FLAGS = ['lossless', 'force'];

export const EXPORT_FORM =
  '[--quality 1..100] [--bits 8|16] [--compression deflate|none] [--lossless] [--metadata all|no-position|none] [--filter NAME] [--light encoded|linear] [--long-edge PX] [--force]';

/** Reads what is asked for of every exported picture. */
export function exportOptions(parsed: Arguments): ExportOptions {
  const oneOf = <T extends string>(name: string, known: readonly T[]): T | undefined => {
    const value = textOption(parsed, name);
    if (value !== undefined && !(known as readonly string[]).includes(value))
      throw new UsageError(`--${name} is one of ${known.join(', ')}.`);
    return value as T | undefined;
  };
  const bits = oneOf('bits', ['8', '16']);
  return {
    quality: wholeOption(parsed, 'quality', 1, 100) ?? 92,
    bits: bits === undefined ? undefined : bits === '16' ? 16 : 8,
    compression: oneOf('compression', ['deflate', 'none']) ?? 'deflate',
    lossless: parsed.options.has('lossless'),
    kept: oneOf('metadata', ['all', 'no-position', 'none']) ?? 'all',
    filter: oneOf('filter', Object.keys(FILTERS) as FilterName[]),
    light: oneOf('light', ['encoded', 'linear']),
    longEdge: wholeOption(parsed, 'long-edge', 1, 32767),
  };
}

/** Endings of files and the formats they stand for. */
const KINDS: Readonly<Record<string, ExportFormat['kind']>> = {
  jpg: 'jpeg',
  jpeg: 'jpeg',
  png: 'png',
  tif: 'tiff',
  tiff: 'tiff',
  webp: 'webp',
};

export const ENDINGS = Object.keys(KINDS);

/** The format that a file's ending asks for. */
export function formatFor(ending: string, options: ExportOptions, sourceBits: 8 | 16): ExportFormat {
  const kind = KINDS[ending.toLowerCase().replace(/^\./, '')];
  if (!kind) throw new UsageError(`"${ending}": the name must end in ${ENDINGS.map((e) => `.${e}`).join(', ')}.`);
  const { quality, compression, lossless } = options;
  const bits = options.bits ?? sourceBits;
  if (options.bits === 16 && (kind === 'jpeg' || kind === 'webp'))
    throw new UsageError(`A ${EXPORT_FORMATS[kind].name} has 8 bits; use .png or .tif for 16.`);
  switch (kind) {
    case 'jpeg':
      return { kind, quality, chroma: '4:4:4' };
    case 'png':
      return { kind, bits };
    case 'tiff':
      return { kind, bits, compression };
    case 'webp':
      return { kind, quality, lossless };
  }
}

/** What became of one exported picture. */
export interface Exported {
  readonly file: string;
  readonly width: number;
  readonly height: number;
  readonly kernel: string;
  /** Share of the file that was filled from its surroundings, 0..1; nothing where none was. */
  readonly filled?: number;
  readonly megapixels: number;
  readonly ms: Readonly<Record<'decode' | 'warp' | 'encode' | 'write', number>>;
}

/**
 * Exports one picture at full size; the file appears under its name only when complete.
 * @param ending decides the format
 * @param decoded its pixels, where they were read before
 * @param fit what to do where the correction was made for another size: refuse, or scale it where the proportions are the same
 */
export async function exportPicture(
  asked: Correction,
  picturePath: string,
  out: string,
  ending: string,
  options: ExportOptions,
  { threads, fit, decoded: known }: { readonly threads: number; readonly fit: 'refuse' | 'scale'; readonly decoded?: Raster },
): Promise<Exported> {
  const started = performance.now();
  const { bytes, info, name } = await readPictureFile(picturePath);
  const format = formatFor(ending, options, info.bits);
  const { width, height } = info;
  if (fit === 'refuse' && (width !== asked.picture.width || height !== asked.picture.height))
    throw new PlumbError(
      'size-differs',
      `The correction was made for ${asked.picture.width} x ${asked.picture.height} px; ${name} has ${width} x ${height}.`,
      'Nothing was written.',
    );
  const correction = withOptions(appliedTo(asked, { name, width, height }).correction, options);
  requireSoundStance(correction);
  const decoding = known
    ? Promise.resolve(known)
    : threads > 1
      ? readPixels(bytes, name, info)
          .then(sharedRaster)
          .then(async (shared) => {
            await giveBack();
            return shared;
          })
      : readPixels(bytes, name, info);
  // a correction that cannot be composed is told first
  decoding.catch(() => undefined);
  const renderer = startRenderer(correction, threads);
  let decoded = started;
  const { raster: result, share: filled } = await decoding
    .then((source) => {
      decoded = performance.now();
      return renderer.render(source, EXPORT_FORMATS[format.kind].alpha);
    })
    .finally(() => renderer.stop());
  const warped = performance.now();
  const file = await writePicture(result, format, {
    metadata: info.metadata,
    kept: options.kept,
    ppi: outputPpi(correction),
    colour: correction.output.colour,
    sharpen: correction.output.sharpen,
    filled,
  });
  const encoded = performance.now();
  const partial = partialOf(out);
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
    ...(filled > 0 ? { filled: Math.round(filled * 1e4) / 1e4 } : {}),
    megapixels: Math.round((result.width * result.height) / 1e4) / 100,
    ms: {
      decode: round(decoded - started),
      warp: round(warped - decoded),
      encode: round(encoded - warped),
      write: round(performance.now() - encoded),
    },
  };
}

export function withOptions(correction: Correction, { filter, light, longEdge }: ExportOptions): Correction {
  return {
    ...correction,
    output: {
      ...correction.output,
      ...(filter === undefined ? {} : { filter }),
      ...(light === undefined ? {} : { light }),
      ...(longEdge === undefined ? {} : { size: { kind: 'long-edge' as const, px: longEdge } }),
    },
  };
}
