import decode, { init as initDecoder } from '@jsquash/jpeg/decode.js';
import encode, { init as initEncoder } from '@jsquash/jpeg/encode.js';
import { largestSample, type Raster } from '@able-plumb/core';
import { PictureFileError } from './bytes';
import { spliceMetadata } from './jpeg-segments';
import type { Metadata } from './metadata';
import { wasmModule } from './wasm-source';

type Init = (module: WebAssembly.Module) => Promise<void>;

let decoderReady: Promise<void> | null = null;
let encoderReady: Promise<void> | null = null;

/** The decoder hands its pixels out in the browser's own class; Node has none. */
function ensureImageData(): void {
  const scope = globalThis as { ImageData?: unknown };
  scope.ImageData ??= class {
    constructor(
      readonly data: Uint8ClampedArray,
      readonly width: number,
      readonly height: number,
    ) {}
  };
}

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

function dropAlpha(rgba: Uint8ClampedArray): Uint8Array {
  const out = new Uint8Array((rgba.length / 4) * 3);
  for (let from = 0, to = 0; from < rgba.length; from += 4, to += 3) {
    out[to] = rgba[from] as number;
    out[to + 1] = rgba[from + 1] as number;
    out[to + 2] = rgba[from + 2] as number;
  }
  return out;
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

/** Samples as RGBA of 8 bits, opaque. */
function opaqueRgba(raster: Raster): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, channels, data } = raster;
  const rgba = new Uint8ClampedArray(width * height * 4);
  const scale = largestSample(raster) === 255 ? 1 : 255 / 65535;
  const grey = channels <= 2;
  for (let from = 0, to = 0; to < rgba.length; from += channels, to += 4) {
    rgba[to] = (data[from] as number) * scale;
    rgba[to + 1] = (data[grey ? from : from + 1] as number) * scale;
    rgba[to + 2] = (data[grey ? from : from + 2] as number) * scale;
    rgba[to + 3] = 255;
  }
  return rgba;
}
