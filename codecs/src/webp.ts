import decode, { init as initDecoder } from '@jsquash/webp/decode.js';
import encode, { init as initEncoder } from '@jsquash/webp/encode.js';
import { hasAlpha, type Raster } from '@able-plumb/core';
import { asciiBytes, hasAscii, joinBytes, PictureFileError, viewOf } from './bytes';
import { dropAlpha, ensureImageData, rgba8 } from './image-data';
import type { Metadata } from './metadata';
import { wasmModule } from './wasm-source';

type Init = (module: WebAssembly.Module) => Promise<void>;

let decoderReady: Promise<void> | null = null;
let encoderReady: Promise<void> | null = null;

/** Largest side of a WebP picture (RFC 9649: 14 bits). */
const LARGEST_WEBP = 16383;

/** What the chunks of a WebP file say, without decoding. */
export interface WebpHeader {
  readonly width: number;
  readonly height: number;
  readonly alpha: boolean;
  readonly metadata: Metadata;
}

interface Chunk {
  readonly type: string;
  readonly data: Uint8Array;
}

function chunksOf(bytes: Uint8Array, name: string): Chunk[] {
  const view = viewOf(bytes);
  const chunks: Chunk[] = [];
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4, true);
    if (at + 8 + length > bytes.length) return damaged(name, 'is cut short: its last part is missing');
    chunks.push({ type: new TextDecoder('latin1').decode(bytes.subarray(at, at + 4)), data: bytes.subarray(at + 8, at + 8 + length) });
    at += 8 + length + (length % 2);
  }
  return chunks;
}

function damaged(name: string, what: string): never {
  throw new PictureFileError('webp-damaged', `${name} ${what}.`, 'Copy it again from the disk; nothing else was changed.');
}

const uint24 = (data: Uint8Array, at: number): number =>
  (data[at] as number) | ((data[at + 1] as number) << 8) | ((data[at + 2] as number) << 16);

/**
 * Walks the chunks of a WebP file (RFC 9649).
 * @throws PictureFileError when it is cut short, damaged, or moves
 */
export function readWebpHeader(bytes: Uint8Array, name: string): WebpHeader {
  const chunks = chunksOf(bytes, name);
  const of = (type: string): Uint8Array | undefined => chunks.find((c) => c.type === type)?.data;
  if (of('ANIM'))
    throw new PictureFileError(
      'webp-kind',
      `${name} is a moving WebP picture.`,
      'Save one of its pictures by itself; the file is untouched.',
    );
  const exif = of('EXIF');
  const metadata: Metadata = {
    exif: exif && (hasAscii(exif, 0, 'Exif\0\0') ? exif.slice(6) : exif.slice()),
    xmp: of('XMP ')?.slice(),
    icc: of('ICCP')?.slice(),
  };
  const size = sizeOf(of('VP8X'), of('VP8 '), of('VP8L'));
  return size ? { ...size, metadata } : damaged(name, 'is damaged: it holds no picture');
}

function sizeOf(extended?: Uint8Array, lossy?: Uint8Array, lossless?: Uint8Array): Omit<WebpHeader, 'metadata'> | null {
  if (extended && extended.length >= 10 && (lossy || lossless))
    return { width: uint24(extended, 4) + 1, height: uint24(extended, 7) + 1, alpha: ((extended[0] as number) & 0x10) !== 0 };
  if (lossy && lossy.length >= 10) {
    const view = viewOf(lossy);
    return { width: view.getUint16(6, true) & 0x3fff, height: view.getUint16(8, true) & 0x3fff, alpha: false };
  }
  if (!lossless || lossless.length < 5) return null;
  const bits = viewOf(lossless).getUint32(1, true);
  return { width: (bits & 0x3fff) + 1, height: ((bits >>> 14) & 0x3fff) + 1, alpha: ((bits >>> 28) & 1) === 1 };
}

/**
 * Decodes a WebP picture to RGB, with alpha where it has any.
 * @throws PictureFileError when the decoder gives up
 */
export async function decodeWebp(bytes: Uint8Array, name: string): Promise<Raster> {
  const { alpha } = readWebpHeader(bytes, name);
  ensureImageData();
  decoderReady ??= wasmModule('webp_dec').then((module) => (initDecoder as unknown as Init)(module));
  await decoderReady;
  try {
    const image = await decode(bytes as unknown as ArrayBuffer);
    const { width, height } = image;
    return alpha
      ? { width, height, channels: 4, data: new Uint8Array(image.data) }
      : { width, height, channels: 3, data: dropAlpha(image.data) };
  } catch {
    return damaged(name, 'is damaged and cannot be decoded');
  }
}

/** How a WebP is written. */
export interface WebpOptions {
  /** 1..100. */
  readonly quality: number;
  /** Every pixel as it is, whatever the quality. */
  readonly lossless: boolean;
}

/**
 * Encodes to WebP of 8 bits; the metadata goes in as chunks.
 * @throws PictureFileError when the picture is larger than the format allows
 */
export async function encodeWebp(raster: Raster, { quality, lossless }: WebpOptions, metadata: Metadata): Promise<Uint8Array<ArrayBuffer>> {
  const { width, height } = raster;
  if (width > LARGEST_WEBP || height > LARGEST_WEBP)
    throw new PictureFileError(
      'webp-too-large',
      `A WebP picture has at most ${LARGEST_WEBP} px a side; this one has ${width} × ${height}.`,
      'Choose a smaller size, or another format.',
    );
  encoderReady ??= wasmModule('webp_enc_simd').then((module) => (initEncoder as unknown as Init)(module));
  await encoderReady;
  const image = { data: rgba8(raster), width, height, colorSpace: 'srgb' } as ImageData;
  const encoded = encode(image, { quality, lossless: lossless ? 1 : 0, exact: lossless ? 1 : 0, alpha_quality: 100 });
  const file = await encoded.catch(() => {
    encoderReady = null;
    throw new PictureFileError(
      'webp-too-large',
      `The WebP encoder has no room for ${width} × ${height} px.`,
      'Choose a smaller size, or PNG.',
    );
  });
  const pixels = chunksOf(new Uint8Array(file), 'The picture').filter((c) => ['VP8 ', 'VP8L', 'ALPH'].includes(c.type));
  return container(pixels, { width, height, alpha: hasAlpha(raster) }, metadata);
}

/** The extended container: header, profile, pixels, capture data, packet, in the order that the format wants. */
function container(
  pixels: readonly Chunk[],
  { width, height, alpha }: Pick<WebpHeader, 'width' | 'height' | 'alpha'>,
  { exif, xmp, icc }: Metadata,
): Uint8Array<ArrayBuffer> {
  const header = new Uint8Array(10);
  header[0] = (icc ? 0x20 : 0) | (alpha ? 0x10 : 0) | (exif ? 0x08 : 0) | (xmp ? 0x04 : 0);
  [width - 1, height - 1].forEach((v, i) => header.set([v & 255, (v >> 8) & 255, v >> 16], 4 + 3 * i));
  const chunk = ({ type, data }: Chunk): Uint8Array => {
    const head = joinBytes([asciiBytes(type), new Uint8Array(4)]);
    viewOf(head).setUint32(4, data.length, true);
    return joinBytes([head, data, new Uint8Array(data.length % 2)]);
  };
  const parts = [
    chunk({ type: 'VP8X', data: header }),
    ...(icc ? [chunk({ type: 'ICCP', data: icc })] : []),
    ...pixels.map(chunk),
    ...(exif ? [chunk({ type: 'EXIF', data: exif })] : []),
    ...(xmp ? [chunk({ type: 'XMP ', data: xmp })] : []),
  ];
  const out = joinBytes([asciiBytes('RIFF'), new Uint8Array(4), asciiBytes('WEBP'), ...parts]);
  viewOf(out).setUint32(4, out.length - 8, true);
  return out;
}
