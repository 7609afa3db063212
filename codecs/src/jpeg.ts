import decode, { init as initDecoder } from '@jsquash/jpeg/decode.js';
import encode, { init as initEncoder } from '@jsquash/jpeg/encode.js';
import type { Raster } from '@able-plumb/core';
import { PictureFileError } from './bytes';
import { dropAlpha, ensureImageData, opaqueRgba } from './image-data';
import { isWhole } from './jpeg-whole';
import { spliceMetadata, withoutMetadata } from './jpeg-segments';
import type { Metadata } from './metadata';
import { wasmModule } from './wasm-source';

type Init = (module: WebAssembly.Module) => Promise<void>;

let decoderReady: Promise<void> | null = null;
let encoderReady: Promise<void> | null = null;

/**
 * Decodes a JPEG to RGB as stored: no orientation, no colour conversion but YCbCr to RGB.
 * @throws PictureFileError when the decoder gives up
 */
export async function decodeJpeg(bytes: Uint8Array, name: string): Promise<Raster> {
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

/** How a JPEG is written. */
export interface JpegOptions {
  /** 1..100. */
  readonly quality: number;
  /** Colour at full (4:4:4) or half resolution (4:2:0). */
  readonly chroma: '4:4:4' | '4:2:0';
}

/** What a platform does to JPEGs in native code, many times as quick as the compiled codecs; null where it gives up or does not do it. */
export interface PlatformJpeg {
  /** RGB as stored, of a file without EXIF, XMP and ICC. */
  decode?(bytes: Uint8Array<ArrayBuffer>): Promise<Raster | null>;
  /** A baseline JPEG of a picture without its alpha. */
  encode?(raster: Raster, options: JpegOptions): Promise<Uint8Array | null>;
}

let platformJpeg: PlatformJpeg = {};

/** Says what the platform does by itself; called once by an entry that can. */
export function providePlatformJpeg(platform: PlatformJpeg): void {
  platformJpeg = platform;
}

/**
 * Encodes to a baseline JPEG and puts the metadata in; 16-bit samples are rounded to 8, alpha is ignored.
 * @throws PictureFileError when the picture is too large for the encoder's memory
 */
export async function encodeJpeg(raster: Raster, options: JpegOptions, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  const quick = await platformJpeg.encode?.(raster, options);
  if (quick) return spliceMetadata(quick, metadata);
  const { quality, chroma } = options;
  const { width, height } = raster;
  const rgba = opaqueRgba(raster);
  encoderReady ??= wasmModule('mozjpeg_enc').then((module) => (initEncoder as unknown as Init)(module));
  await encoderReady;
  const encoded = encode({ data: rgba, width, height, colorSpace: 'srgb' } as ImageData, {
    quality,
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
      'Choose a smaller size, or PNG.',
    );
  });
  return spliceMetadata(new Uint8Array(jpeg), metadata);
}
