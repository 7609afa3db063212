import decode, { init as initDecoder } from '@jsquash/jpeg/decode.js';
import encode, { init as initEncoder } from '@jsquash/jpeg/encode.js';
import type { Raster } from '@able-plumb/core';
import { PictureFileError } from './bytes';
import { dropAlpha, ensureImageData, opaqueRgba } from './image-data';
import { spliceMetadata } from './jpeg-segments';
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
  ensureImageData();
  decoderReady ??= wasmModule('mozjpeg_dec').then((module) => (initDecoder as unknown as Init)(module));
  await decoderReady;
  try {
    const image = await decode(bytes as unknown as ArrayBuffer, { preserveOrientation: false });
    return { width: image.width, height: image.height, channels: 3, data: dropAlpha(image.data) };
  } catch {
    throw new PictureFileError(
      'jpeg-damaged',
      `${name} is damaged and cannot be decoded.`,
      'Copy it again from the card or the disk; nothing else was changed.',
    );
  }
}

/** How a JPEG is written. */
export interface JpegOptions {
  /** 1..100. */
  readonly quality: number;
  /** Colour at full (4:4:4) or half resolution (4:2:0). */
  readonly chroma: '4:4:4' | '4:2:0';
}

/**
 * A platform's own encoder of baseline JPEGs with halved colour, many times as quick as the compiled one: RGBA of 8 bits and quality
 * 1..99 in, a JPEG file out; null where it gives up.
 */
export type PlatformJpeg = (
  rgba: Uint8ClampedArray<ArrayBuffer>,
  width: number,
  height: number,
  quality: number,
) => Promise<Uint8Array | null>;

let platformJpeg: PlatformJpeg | null = null;

/** Says how the platform encodes JPEGs by itself; called once by an entry that can. */
export function providePlatformJpeg(encoder: PlatformJpeg): void {
  platformJpeg = encoder;
}

/**
 * Encodes to a baseline JPEG and puts the metadata in; 16-bit samples are rounded to 8, alpha is ignored.
 * @throws PictureFileError when the picture is too large for the encoder's memory
 */
export async function encodeJpeg(raster: Raster, { quality, chroma }: JpegOptions, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  const rgba = opaqueRgba(raster);
  const { width, height } = raster;
  if (chroma === '4:2:0' && quality < 100) {
    const quick = await platformJpeg?.(rgba, width, height, quality);
    if (quick) return spliceMetadata(quick, metadata);
  }
  encoderReady ??= wasmModule('mozjpeg_enc').then((module) => (initEncoder as unknown as Init)(module));
  await encoderReady;
  const encoded = encode({ data: rgba, width, height, colorSpace: 'srgb' } as ImageData, {
    quality,
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
