import { largestSample, sharpened, type ExportFormat, type KeptMetadata, type Raster, type Sharpening } from '@able-plumb/core';
import { encodeAvif } from './avif';
import type { BandFile, Shape } from './band-file';
import { joinBytes, PictureFileError } from './bytes';
import { convertColours, convertedChannels, profileOf, type ColourSpace } from './colour';
import { rowsOf, withoutAlpha } from './image-data';
import { jpegFile, smallestJpeg } from './jpeg';
import { codesBands, type JpegOptions } from './jpeg-bands';
import { encodeJxl } from './jxl';
import { exportedMetadata, type Metadata } from './metadata';
import { pngFile } from './png';
import { tiffFile } from './tiff';
import { encodeWebp } from './webp';
import { withFilled } from './xmp-packet';

/** The `Software` tag of exported files. */
export const SOFTWARE = 'Able Plumb';

export const EXPORT_FORMATS = {
  jpeg: { ending: 'jpg', mime: 'image/jpeg', alpha: false, name: 'JPEG' },
  png: { ending: 'png', mime: 'image/png', alpha: true, name: 'PNG' },
  tiff: { ending: 'tif', mime: 'image/tiff', alpha: true, name: 'TIFF' },
  webp: { ending: 'webp', mime: 'image/webp', alpha: true, name: 'WebP' },
  avif: { ending: 'avif', mime: 'image/avif', alpha: true, name: 'AVIF' },
  jxl: { ending: 'jxl', mime: 'image/jxl', alpha: true, name: 'JPEG XL' },
} as const;

/** What goes into an exported file besides its pixels. */
export interface FileNotes {
  readonly metadata: Metadata;
  readonly kept: KeptMetadata;
  /** Colours as the source has them, or converted to a space. */
  readonly colour: 'as-is' | ColourSpace;
  readonly sharpen: Sharpening;
  /** Share of the picture that was filled from its surroundings, 0..1: the file says so, whatever else it says. */
  readonly filled: number;
  /** Pixels an inch for printing; null leaves what the source said. */
  readonly ppi: number | null;
}

/** The notes of a file that says nothing but its pixels. */
const NO_NOTES: FileNotes = { metadata: {}, kept: 'all', colour: 'as-is', sharpen: 'none', filled: 0, ppi: null };

/**
 * Encodes a rendered picture with the source's metadata: orientation 1, new dimensions, profile as it was or that of the space that was
 * asked for; sharpened before that where it was asked for.
 * @throws PictureFileError where the colours cannot be converted, or the file cannot be made as small as asked
 */
export async function writePicture(
  rendered: Raster,
  format: ExportFormat,
  notes: Partial<FileNotes> = {},
): Promise<Uint8Array<ArrayBuffer>> {
  const asked = { ...NO_NOTES, ...notes };
  const crisp = sharpened(rendered, asked.sharpen);
  return 'mostBytes' in format && format.mostBytes !== undefined && !('lossless' in format && format.lossless)
    ? within(format.mostBytes, format, (tried) => encode(crisp, tried, asked))
    : encode(crisp, format, asked);
}

/** Whether a file has to be made of the whole picture: where pixels are sharpened, or it has to fit, or its format has no bands. */
export const needsWhole = (format: ExportFormat, notes: Partial<FileNotes>): boolean =>
  (notes.sharpen ?? 'none') !== 'none' || ('mostBytes' in format && format.mostBytes !== undefined) || !inBands(format);

const inBands = (format: ExportFormat): boolean =>
  format.kind === 'png' || format.kind === 'tiff' || (format.kind === 'jpeg' && format.smallest !== true && codesBands());

/**
 * A file that is made in bands of the picture as it was drawn; their colours and depth are changed on the way where that was asked for.
 * @param drawn the picture that is drawn
 * @throws Error for what {@link needsWhole}
 */
export function bandFile(drawn: Shape, format: ExportFormat, notes: Partial<FileNotes>): BandFile {
  const { metadata: source, kept, ppi, colour, filled } = { ...NO_NOTES, ...notes };
  const channels = colour === 'as-is' ? drawn.channels : convertedChannels(drawn.channels, source.icc, colour);
  const { width, height } = drawn;
  const bits = 'bits' in format ? (format.bits === 'as-taken' ? drawn.bits : format.bits) : 8;
  const shape: Shape = { width, height, channels, bits };
  const metadata = metadataOf(shape, source, { kept, ppi, colour, filled });
  const file = fileOf(shape, format, metadata);
  return {
    ...file,
    make: async (band) => file.make(await asWritten(band, format, source, colour)),
  };
}

function fileOf(shape: Shape, format: ExportFormat, metadata: Metadata): BandFile {
  switch (format.kind) {
    case 'jpeg':
      return jpegFile(shape, format, metadata);
    case 'png':
      return pngFile(shape, metadata);
    case 'tiff':
      return tiffFile(shape, format, metadata);
    default:
      throw new Error(`A ${EXPORT_FORMATS[format.kind].name} is made of the whole picture.`);
  }
}

/** Pixels as a file has them: in its colours, at its depth, without alpha where it has none. */
async function asWritten(raster: Raster, format: ExportFormat, source: Metadata, colour: FileNotes['colour']): Promise<Raster> {
  const converted = colour === 'as-is' ? raster : await convertColours(raster, source.icc, colour);
  if (format.kind === 'jpeg') return withoutAlpha(toBits(converted, 8));
  return 'bits' in format ? toBits(converted, format.bits) : converted;
}

function metadataOf(
  { width, height }: Shape,
  source: Metadata,
  { kept, ppi, colour, filled }: Pick<FileNotes, 'kept' | 'ppi' | 'colour' | 'filled'>,
): Metadata {
  const written = exportedMetadata(source, kept, { width, height, software: SOFTWARE, ppi });
  const told = filled > 0 ? { ...written, xmp: withFilled(written.xmp, filled) } : written;
  return colour === 'as-is' ? told : { ...told, icc: profileOf(colour) };
}

/** Below this quality a picture is not worth sending, and its tables are too coarse for baseline JPEG. */
const LEAST_QUALITY = 30;

/** The file of the highest quality, up to what was asked for, that is no larger than it may be. */
async function within<T extends ExportFormat & { readonly quality: number }>(
  most: number,
  format: T,
  encoded: (format: T) => Promise<Uint8Array<ArrayBuffer>>,
): Promise<Uint8Array<ArrayBuffer>> {
  const first = await encoded(format);
  if (first.length <= most) return first;
  let [low, high] = [LEAST_QUALITY, format.quality];
  let best = await encoded({ ...format, quality: Math.min(low, high) });
  // what is made quickly is a tenth larger, more at low quality
  if (best.length > most && format.kind === 'jpeg' && format.smallest !== true) return within(most, { ...format, smallest: true }, encoded);
  if (best.length > most)
    throw new PictureFileError(
      'too-large-file',
      `Even at quality ${LEAST_QUALITY} the file has ${Math.ceil(best.length / 1000)} kB; ${Math.floor(most / 1000)} kB were asked for.`,
      'Choose a smaller size in pixels, or a larger file. Nothing was written.',
    );
  while (high - low > 1) {
    const quality = Math.round((low + high) / 2);
    const file = await encoded({ ...format, quality });
    if (file.length <= most) [low, best] = [quality, file];
    else high = quality;
  }
  return best;
}

async function encode(raster: Raster, format: ExportFormat, notes: FileNotes): Promise<Uint8Array<ArrayBuffer>> {
  if (!inBands(format)) {
    // a JPEG XL of this encoder has no profile: its colours are sRGB
    const colour = format.kind === 'jxl' ? 'srgb' : notes.colour;
    const written = await asWritten(raster, format, notes.metadata, colour);
    const metadata = metadataOf(shapeOf(written), notes.metadata, { ...notes, colour });
    if (format.kind === 'webp') return encodeWebp(written, format, metadata);
    if (format.kind === 'avif') return encodeAvif(written, format, metadata);
    if (format.kind === 'jxl') return encodeJxl(written, format, metadata);
    return encodeJpeg(written, format as JpegFormat, metadata);
  }
  return bound(bandFile(shapeOf(raster), format, notes), raster);
}

/** A file of bands, whole, by this thread alone. */
async function bound(file: BandFile, raster: Raster): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array[] = [];
  const binder = await file.bind((bytes) => parts.push(bytes));
  for (let from = 0; from < raster.height; from += file.rows)
    await binder.add(await file.make(rowsOf(raster, from, Math.min(raster.height, from + file.rows))));
  const patch = await binder.end();
  const whole = joinBytes(parts);
  if (patch) whole.set(patch.bytes, patch.at);
  return whole;
}

/** A baseline JPEG with just this metadata; 16-bit samples are rounded to 8, alpha is ignored. */
export async function encodeJpeg(raster: Raster, options: JpegOptions, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  const plain = withoutAlpha(toBits(raster, 8));
  return options.smallest || !codesBands()
    ? smallestJpeg(plain, options, metadata)
    : bound(jpegFile(shapeOf(plain), options, metadata), plain);
}

type JpegFormat = ExportFormat & { readonly kind: 'jpeg' };

/** Size and kind of a raster's pixels. */
export const shapeOf = (raster: Raster): Shape => ({
  width: raster.width,
  height: raster.height,
  channels: raster.channels,
  bits: largestSample(raster) === 255 ? 8 : 16,
});

/** The raster at another depth, or at its own: 255 and 65535 mean the same. */
export function toBits(raster: Raster, bits: 8 | 16 | 'as-taken'): Raster {
  if (bits === 'as-taken') return raster;
  const { data } = raster;
  if (data instanceof Uint16Array) {
    if (bits === 16) return raster;
    const out = new Uint8Array(data.length);
    for (let k = 0; k < data.length; k += 1) out[k] = Math.round((data[k] as number) / 257);
    return { ...raster, data: out };
  }
  if (bits === 8) return raster;
  const out = new Uint16Array(data.length);
  for (let k = 0; k < data.length; k += 1) out[k] = (data[k] as number) * 257;
  return { ...raster, data: out };
}
