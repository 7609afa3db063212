import { closeSync, openSync, writeSync } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import {
  appliedTo,
  FILTERS,
  kernelName,
  outputPpi,
  PlumbError,
  requireSoundStance,
  type Correction,
  type ExportFormat,
  type FilterName,
  type KeptMetadata,
  type Raster,
} from '@able-plumb/core';
import { arrivingPixels, EXPORT_FORMATS, readPixels, readShared, type Arriving, type PictureInfo } from '@able-plumb/codecs';
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
  /** A JPEG as small as its quality allows. */
  readonly smallest: boolean;
  readonly kept: KeptMetadata;
  readonly filter?: FilterName | undefined;
  /** Undefined: that of the correction. */
  readonly light?: Correction['output']['light'] | undefined;
  readonly longEdge?: number | undefined;
}

/** Options that take a value, and those that take none; those of {@link exportOptions}. */
export const EXPORT_VALUES = ['quality', 'bits', 'filter', 'light', 'long-edge', 'compression', 'metadata'];
export const EXPORT_FLAGS = ['lossless', 'smallest', 'force'];

export const EXPORT_FORM =
  '[--quality 1..100] [--bits 8|16] [--compression deflate|none] [--lossless] [--smallest] [--metadata all|no-position|none] [--filter NAME] [--light encoded|linear] [--long-edge PX] [--force]';

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
    smallest: parsed.options.has('smallest'),
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
  avif: 'avif',
  jxl: 'jxl',
};

export const ENDINGS = Object.keys(KINDS);

/** The format that a file's ending asks for. */
export function formatFor(ending: string, options: ExportOptions, sourceBits: 8 | 16): ExportFormat {
  const kind = KINDS[ending.toLowerCase().replace(/^\./, '')];
  if (!kind) throw new UsageError(`"${ending}": the name must end in ${ENDINGS.map((e) => `.${e}`).join(', ')}.`);
  const { quality, compression, lossless, smallest } = options;
  const bits = options.bits ?? sourceBits;
  if (options.bits === 16 && (kind === 'jpeg' || kind === 'webp' || kind === 'avif' || kind === 'jxl'))
    throw new UsageError(`A ${EXPORT_FORMATS[kind].name} has 8 bits; use .png or .tif for 16.`);
  switch (kind) {
    case 'jpeg':
      return { kind, quality, chroma: '4:4:4', ...(smallest ? { smallest } : {}) };
    case 'png':
      return { kind, bits };
    case 'tiff':
      return { kind, bits, compression };
    case 'webp':
    case 'avif':
    case 'jxl':
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
  /** Reading, and decoding where that is done at once; then what goes side by side: decoding by rows, drawing, coding, writing. */
  readonly ms: Readonly<Record<'read' | 'export', number>>;
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
  const decoding = known ? Promise.resolve(known) : pixelsOf(bytes, name, info, threads > 1);
  // a correction that cannot be composed is told first
  decoding.catch(() => undefined);
  const renderer = startRenderer(correction, threads);
  const partial = partialOf(out);
  try {
    const source = await decoding;
    const read = performance.now();
    // at once: an interrupt must not find it about to be made
    const file = begunFile(partial, out);
    /** @param at where; behind what was written before by default */
    const put = (bytes: Uint8Array, at?: number): void => {
      try {
        for (let done = 0; done < bytes.length;)
          done += writeSync(file, bytes, done, bytes.length - done, at === undefined ? null : at + done);
      } catch (error) {
        cannotWrite(out, error as Error);
      }
    };
    const { colour, sharpen } = correction.output;
    const notes = { kept: options.kept, ppi: outputPpi(correction), colour, sharpen };
    const done = await renderer
      .export({ source, metadata: info.metadata, format, notes, put })
      .then(({ patch, ...rest }) => {
        if (patch) put(patch.bytes, patch.at);
        return rest;
      })
      .finally(() => closeSync(file));
    const made = performance.now();
    await rename(partial, out).catch((error: Error) => cannotWrite(out, error));
    const round = (ms: number): number => Math.round(ms * 10) / 10;
    return {
      file: out,
      width: done.width,
      height: done.height,
      kernel: kernelName(),
      ...(done.filled > 0 ? { filled: Math.round(done.filled * 1e4) / 1e4 } : {}),
      megapixels: Math.round((done.width * done.height) / 1e4) / 100,
      ms: { read: round(read - started), export: round(made - read) },
    };
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  } finally {
    await renderer.stop();
  }
}

/** A picture's pixels: by rows where its file allows it; for several threads in memory that they share. */
async function pixelsOf(bytes: Uint8Array, name: string, info: PictureInfo, shared: boolean): Promise<Raster | Arriving> {
  const arriving = arrivingPixels(bytes, name, info);
  if (arriving) return arriving;
  if (!shared) return readPixels(bytes, name, info);
  const pixels = await readShared(bytes, name, info);
  // the decoder's copy, where there was one
  await giveBack();
  return pixels;
}

function begunFile(partial: string, out: string): number {
  try {
    return openSync(partial, 'w');
  } catch (error) {
    return cannotWrite(out, error as Error);
  }
}

function cannotWrite(out: string, error: Error): never {
  throw new PlumbError('cannot-write', `${out} cannot be written: ${error.message}.`);
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
