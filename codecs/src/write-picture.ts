import { sharpened, type ExportFormat, type KeptMetadata, type Raster, type Sharpening } from '@able-plumb/core';
import { PictureFileError } from './bytes';
import { convertColours, profileOf, type ColourSpace } from './colour';
import { encodeJpeg } from './jpeg';
import { exportedMetadata, type Metadata } from './metadata';
import { encodePng } from './png';
import { encodeTiff } from './tiff';
import { encodeWebp } from './webp';
import { withFilled } from './xmp-packet';

/** The `Software` tag of exported files. */
export const SOFTWARE = 'Able Plumb';

export const EXPORT_FORMATS = {
  jpeg: { ending: 'jpg', mime: 'image/jpeg', alpha: false, name: 'JPEG' },
  png: { ending: 'png', mime: 'image/png', alpha: true, name: 'PNG' },
  tiff: { ending: 'tif', mime: 'image/tiff', alpha: true, name: 'TIFF' },
  webp: { ending: 'webp', mime: 'image/webp', alpha: true, name: 'WebP' },
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
  const { metadata: source = {}, kept = 'all', ppi = null, colour = 'as-is', sharpen = 'none', filled = 0 } = notes;
  const crisp = sharpened(rendered, sharpen);
  const raster = colour === 'as-is' ? crisp : await convertColours(crisp, source.icc, colour);
  const written = exportedMetadata(source, kept, { width: raster.width, height: raster.height, software: SOFTWARE, ppi });
  const told = filled > 0 ? { ...written, xmp: withFilled(written.xmp, filled) } : written;
  const metadata = colour === 'as-is' ? told : { ...told, icc: profileOf(colour) };
  return 'mostBytes' in format && format.mostBytes !== undefined && !('lossless' in format && format.lossless)
    ? within(format.mostBytes, format, (tried) => encode(raster, tried, metadata))
    : encode(raster, format, metadata);
}

/** Below this quality a picture is not worth sending, and its tables are too coarse for baseline JPEG. */
const LEAST_QUALITY = 30;

/** The file of the highest quality, up to what was asked for, that is no larger than it may be. */
async function within<T extends { readonly quality: number }>(
  most: number,
  format: T,
  encoded: (format: T) => Promise<Uint8Array<ArrayBuffer>>,
): Promise<Uint8Array<ArrayBuffer>> {
  const first = await encoded(format);
  if (first.length <= most) return first;
  let [low, high] = [LEAST_QUALITY, format.quality];
  let best = await encoded({ ...format, quality: Math.min(low, high) });
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

async function encode(raster: Raster, format: ExportFormat, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  switch (format.kind) {
    case 'jpeg':
      return encodeJpeg(raster, format, metadata);
    case 'png':
      return encodePng(toBits(raster, format.bits), metadata);
    case 'tiff':
      return encodeTiff(toBits(raster, format.bits), format, metadata);
    case 'webp':
      return encodeWebp(raster, format, metadata);
  }
}

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
