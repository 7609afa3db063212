import { hasAlpha, largestSample, type Raster } from '@able-plumb/core';
import { readAvifHeader, withAvifMetadata } from './avif-boxes';
import { PictureFileError } from './bytes';
import { startGlue, type Glue } from './glue';
import { dropAlpha, ensureImageData, rgba8 } from './image-data';
import type { Metadata } from './metadata';

/** How an AVIF or a JPEG XL is written. */
export interface ModernOptions {
  /** 1..100. */
  readonly quality: number;
  /** Every pixel as it is, whatever the quality. */
  readonly lossless: boolean;
}

interface Decoder {
  decode(
    bytes: Uint8Array,
    bits: number,
  ): { readonly width: number; readonly height: number; readonly data: Uint8ClampedArray | Uint16Array } | null;
}

interface Encoder {
  encode(samples: Uint8Array, width: number, height: number, options: object): Uint8Array | null;
}

/**
 * Decodes an AVIF picture to RGB, with alpha where it has any, at 8 bits, or 16 where it has more.
 * @throws PictureFileError when the decoder gives up
 */
export async function decodeAvif(bytes: Uint8Array, name: string): Promise<Raster> {
  const { bits, alpha } = readAvifHeader(bytes, name);
  ensureImageData();
  const decoder = await startGlue<Decoder>(
    'avif_dec',
    (await import('@jsquash/avif/codec/dec/avif_dec.js')).default as unknown as Glue<Decoder>,
  );
  let picture: ReturnType<Decoder['decode']> = null;
  try {
    picture = decoder.decode(bytes, bits > 8 ? 16 : 8);
  } catch {
    // told below
  }
  if (!picture)
    throw new PictureFileError(
      'avif-damaged',
      `${name} is damaged and cannot be decoded.`,
      'Copy it again from the disk; nothing else was changed.',
    );
  const { width, height, data } = picture;
  if (data instanceof Uint16Array) {
    if (alpha) return { width, height, channels: 4, data: data.slice() };
    const out = new Uint16Array(width * height * 3);
    for (let k = 0; k < width * height; k += 1) out.set(data.subarray(4 * k, 4 * k + 3), 3 * k);
    return { width, height, channels: 3, data: out };
  }
  return alpha ? { width, height, channels: 4, data: new Uint8Array(data) } : { width, height, channels: 3, data: dropAlpha(data) };
}

/** Bits of a file from samples of 16: what smooth skies need, and every reader knows. */
const MORE_BITS = 10;

/**
 * Encodes to AVIF with colour at full resolution, 8 bits, or 10 from samples of 16; the metadata goes in as items.
 * @throws PictureFileError when the encoder has no room for it
 */
export async function encodeAvif(
  raster: Raster,
  { quality, lossless }: ModernOptions,
  metadata: Metadata,
): Promise<Uint8Array<ArrayBuffer>> {
  const { width, height } = raster;
  const deep = largestSample(raster) !== 255;
  const encoder = await startGlue<Encoder>(
    'avif_enc',
    (await import('@jsquash/avif/codec/enc/avif_enc.js')).default as unknown as Glue<Encoder>,
  );
  const samples = deep ? rgba10(raster) : new Uint8Array(rgba8(raster).buffer);
  let file: Uint8Array | null = null;
  try {
    file = encoder.encode(samples, width, height, {
      quality: lossless ? 100 : quality,
      qualityAlpha: -1,
      denoiseLevel: 0,
      tileColsLog2: 0,
      tileRowsLog2: 0,
      speed: 9,
      subsample: 3,
      chromaDeltaQ: false,
      sharpness: 0,
      tune: 0,
      enableSharpYUV: false,
      bitDepth: deep ? MORE_BITS : 8,
      lossless,
    });
  } catch {
    // told below
  }
  if (!file)
    throw new PictureFileError(
      'avif-too-large',
      `The AVIF encoder has no room for ${width} × ${height} px.`,
      'Choose a smaller size, JPEG or TIFF.',
    );
  return withAvifMetadata(file, metadata);
}

/** Samples of 16 bits as RGBA of 10, as bytes. */
function rgba10(raster: Raster): Uint8Array {
  const { width, height, channels, data } = raster;
  const out = new Uint16Array(width * height * 4);
  const scale = (2 ** MORE_BITS - 1) / 65535;
  const alpha = hasAlpha(raster) ? channels - 1 : -1;
  const [green, blue] = channels <= 2 ? [0, 0] : [1, 2];
  for (let from = 0, to = 0; to < out.length; from += channels, to += 4) {
    out[to] = Math.round((data[from] as number) * scale);
    out[to + 1] = Math.round((data[from + green] as number) * scale);
    out[to + 2] = Math.round((data[from + blue] as number) * scale);
    out[to + 3] = alpha < 0 ? 2 ** MORE_BITS - 1 : Math.round((data[from + alpha] as number) * scale);
  }
  return new Uint8Array(out.buffer);
}
