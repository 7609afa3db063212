import decode, { init as initDecoder } from '@jsquash/jpeg/decode.js';
import encode, { init as initEncoder } from '@jsquash/jpeg/encode.js';
import type { Raster } from '@able-plumb/core';
import type { BandFile, Shape } from './band-file';
import { PictureFileError } from './bytes';
import { dropAlpha, ensureImageData, opaqueRgba } from './image-data';
import { isWhole } from './jpeg-whole';
import { spliceMetadata, withoutMetadata } from './jpeg-segments';
import { JPEG_END, jpegBandCoder, jpegBandRows, jpegHead, restart, type JpegOptions } from './jpeg-bands';
import { decodeBaseline } from './jpeg-rows';
import type { Metadata } from './metadata';
import { wasmModule } from './wasm-source';

type Init = (module: WebAssembly.Module) => Promise<void>;

let decoderReady: Promise<void> | null = null;
let encoderReady: Promise<void> | null = null;

/**
 * Decodes a JPEG to RGB as stored: no orientation, no colour conversion but YCbCr to RGB.
 * @param grey whether a file of one component becomes a grey raster, as a profile for grey wants it; grey is RGB otherwise
 * @throws PictureFileError when the decoder gives up
 */
export async function decodeJpeg(bytes: Uint8Array, name: string, grey = false): Promise<Raster> {
  const baseline = decodeBaseline(bytes, grey);
  if (baseline) return baseline;
  const colour = await decodeOther(bytes, name);
  return grey ? firstChannel(colour) : colour;
}

/** What is not baseline, or is damaged somewhere. */
async function decodeOther(bytes: Uint8Array, name: string): Promise<Raster> {
  const quick = await platformJpeg.decode?.(withoutMetadata(bytes));
  if (quick) return wholly(quick, bytes, name);
  ensureImageData();
  decoderReady ??= wasmModule('mozjpeg_dec').then((module) => (initDecoder as unknown as Init)(module));
  await decoderReady;
  try {
    const image = await decode(bytes as unknown as ArrayBuffer, { preserveOrientation: false });
    return wholly({ width: image.width, height: image.height, channels: 3, data: dropAlpha(image.data) }, bytes, name);
  } catch (error) {
    if (error instanceof PictureFileError) throw error;
    throw new PictureFileError(
      'jpeg-damaged',
      `${name} is damaged and cannot be decoded.`,
      'Copy it again from the card or the disk; nothing else was changed.',
    );
  }
}

const firstChannel = (raster: Raster): Raster => ({
  ...raster,
  channels: 1,
  data: Uint8Array.from({ length: raster.width * raster.height }, (_, k) => raster.data[k * raster.channels] as number),
});

/** What decoders fill missing pixels with. */
const FILLED = 128;

/** Whether samples of the last rows are what missing ones look like: then it is worth counting. */
export const looksFilled = (samples: ArrayLike<number>): boolean =>
  Array.prototype.every.call(samples, (v: number) => Math.abs(v - FILLED) <= 1);

/** @throws PictureFileError where the lower part is missing, which decoders fill with grey */
export function refuseCutShort(bytes: Uint8Array, name: string): void {
  if (!isWhole(bytes))
    throw new PictureFileError(
      'jpeg-damaged',
      `${name} is cut short: its lower part is missing.`,
      'Copy it again from the card or the disk; nothing else was changed.',
    );
}

function wholly(raster: Raster, bytes: Uint8Array, name: string): Raster {
  if (looksFilled(raster.data.subarray(raster.data.length - raster.width * raster.channels))) refuseCutShort(bytes, name);
  return raster;
}

/** Colour spaces as the compiled encoder counts them. */
const [GREY_SPACE, YCBCR_SPACE] = [1, 3];

/** How a platform decodes JPEGs in native code, more quickly than the compiled codec. */
export interface PlatformJpeg {
  /** RGB as stored, of a file without EXIF, XMP and ICC; null where it gives up. */
  decode?(bytes: Uint8Array<ArrayBuffer>): Promise<Raster | null>;
}

let platformJpeg: PlatformJpeg = {};

/** Says what the platform does by itself; called once by an entry that can. */
export function providePlatformJpeg(platform: PlatformJpeg): void {
  platformJpeg = platform;
}

/**
 * A baseline JPEG in bands, with the metadata before its pixels; grey has one component.
 * @param shape 8 bits without alpha
 */
export function jpegFile({ width, height, channels }: Shape, options: JpegOptions, metadata: Metadata): BandFile {
  const colours = channels < 3 ? 1 : 3;
  const rows = jpegBandRows(width, colours, options);
  let code: ((band: Raster) => Uint8Array<ArrayBuffer>) | null = null;
  return {
    rows,
    make: async (band) => (code ??= jpegBandCoder(width, colours, options))(band),
    bind: async (put) => {
      let bands = 0;
      put(spliceMetadata(jpegHead({ width, height }, colours, rows, options), metadata));
      return {
        add: async (band) => {
          if (bands > 0) put(restart(bands - 1));
          bands += 1;
          put(band);
        },
        end: async () => {
          put(JPEG_END);
          return null;
        },
      };
    },
  };
}

/**
 * Encodes to a baseline JPEG as small as its quality allows, and puts the metadata in; 16-bit samples are rounded to 8, alpha is ignored.
 * @throws PictureFileError when the picture is too large for the encoder's memory
 */
export async function smallestJpeg(raster: Raster, options: JpegOptions, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  const { quality, chroma } = options;
  const { width, height } = raster;
  const rgba = opaqueRgba(raster);
  encoderReady ??= wasmModule('mozjpeg_enc').then((module) => (initEncoder as unknown as Init)(module));
  await encoderReady;
  const encoded = encode({ data: rgba, width, height, colorSpace: 'srgb' } as ImageData, {
    quality,
    // grey has one component, as its profile wants it
    color_space: raster.channels < 3 ? GREY_SPACE : YCBCR_SPACE,
    baseline: true,
    progressive: false,
    auto_subsample: false,
    chroma_subsample: chroma === '4:4:4' ? 1 : 2,
  });
  const jpeg = await encoded.catch(() => {
    // an encoder that ran out of memory is not used again
    encoderReady = null;
    throw new PictureFileError(
      'jpeg-too-large',
      `The JPEG encoder has no room for ${width} × ${height} px.`,
      'Choose a smaller size, or leave “smallest file” out.',
    );
  });
  return spliceMetadata(new Uint8Array(jpeg), metadata);
}
