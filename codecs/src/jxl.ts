import type { Raster } from '@able-plumb/core';
import type { ModernOptions } from './avif';
import { box, boxesIn, type Box } from './boxes';
import { joinBytes, PictureFileError, viewOf } from './bytes';
import { startGlue, type Glue } from './glue';
import { dropAlpha, ensureImageData, rgba8 } from './image-data';
import type { Metadata } from './metadata';

/** What the head of a JPEG XL file says (ISO/IEC 18181-1 and -2). Decoders turn pixels upright: so are width and height. */
export interface JxlHeader {
  readonly width: number;
  readonly height: number;
  readonly metadata: Metadata;
}

const SIGNATURE = Uint8Array.of(0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a);

/** Whether bytes are a JPEG XL codestream, or a file with one in it. */
export const isJxl = (bytes: Uint8Array): boolean =>
  (bytes[0] === 0xff && bytes[1] === 0x0a) || (bytes.length > 12 && SIGNATURE.every((byte, k) => bytes[k] === byte));

function fail(name: string, what: string): never {
  throw new PictureFileError('jxl-damaged', `${name} ${what}.`, 'Copy it again from the disk; nothing else was changed.');
}

/**
 * Reads the head of a JPEG XL file.
 * @throws PictureFileError when it is damaged
 */
export function readJxlHeader(bytes: Uint8Array, name: string): JxlHeader {
  try {
    if (bytes[0] === 0xff) return { ...sizeOf(bytes), metadata: {} };
    const boxes = boxesIn(bytes, 0, bytes.length);
    const first = boxes.find(({ type }) => type === 'jxlc' || type === 'jxlp');
    if (!first) return fail(name, 'is damaged: it holds no picture');
    const part = (type: string): Box | undefined => boxes.find((one) => one.type === type);
    const [exif, xmp] = [part('Exif'), part('xml ')];
    return {
      ...sizeOf(bytes.subarray(first.type === 'jxlp' ? first.from + 4 : first.from, first.to)),
      metadata: {
        exif: exif && bytes.slice(exif.from + 4 + viewOf(bytes).getUint32(exif.from), exif.to),
        xmp: xmp && bytes.slice(xmp.from, xmp.to),
      },
    };
  } catch (error) {
    if (error instanceof PictureFileError) throw error;
    return fail(name, 'is cut short or damaged');
  }
}

/** Width by height, where it is said as a proportion. */
const RATIOS: readonly (readonly [number, number])[] = [[1, 1], [1, 1], [12, 10], [4, 3], [3, 2], [16, 9], [5, 4], [2, 1]]; // prettier-ignore

/** The size header of a codestream and, behind it, how it lies: bits from the low end of each byte. */
function sizeOf(codestream: Uint8Array): { readonly width: number; readonly height: number } {
  if (codestream.length < 16) throw new RangeError('too short');
  let at = 16;
  const take = (count: number): number => {
    let value = 0;
    for (let k = 0; k < count; k += 1, at += 1) value += (((codestream[at >> 3] as number) >> (at & 7)) & 1) * 2 ** k;
    return value;
  };
  const small = take(1) === 1;
  const side = (): number => (small ? 8 * (1 + take(5)) : 1 + take([9, 13, 18, 30][take(2)] as number));
  const high = side();
  const ratio = take(3);
  const [across, down] = RATIOS[ratio] as readonly [number, number];
  const wide = ratio === 0 ? side() : Math.floor((high * across) / down);
  // of what follows only the way it lies, where anything is said at all
  const lies = take(1) === 0 && take(1) === 1 ? take(3) + 1 : 1;
  return lies >= 5 ? { width: high, height: wide } : { width: wide, height: high };
}

interface Decoder {
  decode(bytes: Uint8Array): { readonly width: number; readonly height: number; readonly data: Uint8ClampedArray } | null;
}

interface Encoder {
  encode(samples: Uint8ClampedArray, width: number, height: number, options: object): Uint8Array | null;
}

/**
 * Decodes a JPEG XL picture upright to RGB of 8 bits in sRGB, with alpha where any of it is not opaque.
 * @throws PictureFileError when the decoder gives up
 */
export async function decodeJxl(bytes: Uint8Array, name: string): Promise<Raster> {
  ensureImageData();
  const decoder = await startGlue<Decoder>(
    'jxl_dec',
    (await import('@jsquash/jxl/codec/dec/jxl_dec.js')).default as unknown as Glue<Decoder>,
  );
  let picture: ReturnType<Decoder['decode']> = null;
  try {
    picture = decoder.decode(bytes);
  } catch {
    // told below
  }
  if (!picture) return fail(name, 'is damaged and cannot be decoded');
  const { width, height, data } = picture;
  let opaque = true;
  for (let k = 3; k < data.length && opaque; k += 4) opaque = data[k] === 255;
  return opaque ? { width, height, channels: 3, data: dropAlpha(data) } : { width, height, channels: 4, data: new Uint8Array(data) };
}

/**
 * Encodes to JPEG XL of 8 bits; EXIF and XMP go in as boxes. Samples are sRGB: the compiled encoder has no place for a profile.
 * @throws PictureFileError when the encoder has no room for it
 */
export async function encodeJxl(
  raster: Raster,
  { quality, lossless }: ModernOptions,
  { exif, xmp }: Metadata,
): Promise<Uint8Array<ArrayBuffer>> {
  const { width, height } = raster;
  const encoder = await startGlue<Encoder>(
    'jxl_enc',
    (await import('@jsquash/jxl/codec/enc/jxl_enc.js')).default as unknown as Glue<Encoder>,
  );
  let codestream: Uint8Array | null = null;
  try {
    codestream = encoder.encode(rgba8(raster), width, height, {
      effort: 3,
      quality: lossless ? 100 : quality,
      progressive: false,
      epf: -1,
      lossyPalette: false,
      decodingSpeedTier: 0,
      photonNoiseIso: 0,
      lossyModular: false,
      lossless,
    });
  } catch {
    // told below
  }
  if (!codestream)
    throw new PictureFileError(
      'jxl-too-large',
      `The JPEG XL encoder has no room for ${width} × ${height} px.`,
      'Choose a smaller size, JPEG or TIFF.',
    );
  return joinBytes([
    SIGNATURE,
    box('ftyp', new TextEncoder().encode('jxl \0\0\0\0jxl ')),
    ...(exif ? [box('Exif', new Uint8Array(4), exif)] : []),
    ...(xmp ? [box('xml ', xmp)] : []),
    box('jxlc', codestream),
  ]);
}
