import { decode } from 'fast-png';
import { BAND_ROWS, largestSample, type Raster } from '@able-plumb/core';
import type { BandFile, Shape } from './band-file';
import { PictureFileError, viewOf } from './bytes';
import type { Metadata } from './metadata';
import { metadataChunks, pngChunk, PNG_SIGNATURE } from './png-chunks';

/**
 * Decodes a PNG of any colour type to 8 or 16 bit grey or RGB, with alpha where the file has transparency.
 * @throws PictureFileError when it is damaged
 */
export function decodePng(bytes: Uint8Array, name: string): Raster {
  let png: ReturnType<typeof decode>;
  try {
    png = decode(bytes, { checkCrc: true });
  } catch {
    throw new PictureFileError(
      'png-damaged',
      `${name} is damaged and cannot be decoded.`,
      'Copy it again from the disk; nothing else was changed.',
    );
  }
  const { width, height } = png;
  if (png.palette) return fromPalette(png.data, png.palette, width, height, png.depth);
  const samples: Raster['data'] =
    png.depth < 8 ? unpackGrey(png.data as Uint8Array, width, height, png.depth) : (png.data as Uint8Array | Uint16Array);
  const raster: Raster = { width, height, channels: png.channels as Raster['channels'], data: samples };
  return png.transparency && (raster.channels === 1 || raster.channels === 3) ? withColourKey(raster, png.transparency, png.depth) : raster;
}

function rowBits(data: Uint8Array, width: number, depth: number, height: number): (i: number, j: number) => number {
  if (data.length === width * height) return (i, j) => data[j * width + i] as number;
  const bytesPerRow = Math.ceil((width * depth) / 8);
  const mask = (1 << depth) - 1;
  return (i, j) => {
    const bit = i * depth;
    return ((data[j * bytesPerRow + (bit >> 3)] as number) >> (8 - depth - (bit & 7))) & mask;
  };
}

function unpackGrey(data: Uint8Array, width: number, height: number, depth: number): Uint8Array {
  const read = rowBits(data, width, depth, height);
  const scale = 255 / ((1 << depth) - 1);
  return Uint8Array.from({ length: width * height }, (_, k) => read(k % width, Math.floor(k / width)) * scale);
}

function fromPalette(
  data: ArrayLike<number>,
  palette: readonly (readonly number[])[],
  width: number,
  height: number,
  depth: number,
): Raster {
  const read = rowBits(data as Uint8Array, width, depth, height);
  const channels = palette.some((colour) => colour.length === 4 && colour[3] !== 255) ? 4 : 3;
  const out = new Uint8Array(width * height * channels);
  for (let j = 0, to = 0; j < height; j += 1) {
    for (let i = 0; i < width; i += 1, to += channels) {
      const colour = palette[read(i, j)] ?? [0, 0, 0, 255];
      for (let c = 0; c < channels; c += 1) out[to + c] = colour[c] ?? 255;
    }
  }
  return { width, height, channels, data: out };
}

/** A tRNS colour key becomes alpha. */
function withColourKey(raster: Raster, key: ArrayLike<number>, depth: number): Raster {
  const { width, height, channels, data } = raster;
  const top = largestSample(raster);
  const scale = depth < 8 ? 255 / ((1 << depth) - 1) : 1;
  const out = top === 255 ? new Uint8Array(width * height * (channels + 1)) : new Uint16Array(width * height * (channels + 1));
  for (let from = 0, to = 0; from < data.length; from += channels, to += channels + 1) {
    let same = true;
    for (let c = 0; c < channels; c += 1) {
      out[to + c] = data[from + c] as number;
      same = same && data[from + c] === Math.floor((key[c] as number) * scale);
    }
    out[to + channels] = same ? 0 : top;
  }
  return { width, height, channels: (channels + 1) as Raster['channels'], data: out };
}

const COLOUR_TYPES: Readonly<Record<Raster['channels'], number>> = { 1: 0, 2: 4, 3: 2, 4: 6 };

/**
 * A PNG (ISO/IEC 15948) in bands: rows filtered by the smallest sum of absolute differences of Sub, Up and Paeth, the first of a band by Sub
 * alone, which needs no other; compressed by the platform's deflate as one stream; the metadata goes in as chunks.
 */
export function pngFile({ width, height, channels, bits }: Shape, metadata: Metadata): BandFile {
  const bytesPerPixel = (channels * bits) / 8;
  const rowLength = width * bytesPerPixel;
  return {
    rows: BAND_ROWS,
    make: async (band) => {
      const out = new Uint8Array(band.height * (rowLength + 1));
      let previous: Uint8Array | null = null;
      for (let j = 0; j < band.height; j += 1) {
        const row = rowBytes(band, j, rowLength);
        filterRow(row, previous, bytesPerPixel, out.subarray(j * (rowLength + 1), (j + 1) * (rowLength + 1)));
        previous = row;
      }
      return out;
    },
    bind: async (put) => {
      const header = new Uint8Array(13);
      const view = viewOf(header);
      view.setUint32(0, width);
      view.setUint32(4, height);
      header[8] = bits;
      header[9] = COLOUR_TYPES[channels];
      for (const part of [PNG_SIGNATURE, pngChunk('IHDR', header), ...(await metadataChunks(metadata))]) put(part);
      const stream = new CompressionStream('deflate');
      const writer = stream.writable.getWriter();
      const reader = (stream.readable as ReadableStream<Uint8Array<ArrayBuffer>>).getReader();
      const read = (async () => {
        for (;;) {
          const { done, value } = await reader.read();
          if (done) return;
          put(pngChunk('IDAT', value));
        }
      })();
      // where its bytes cannot be taken, the next band is told so
      read.catch((error: unknown) => writer.abort(error).catch(() => undefined));
      return {
        add: async (band) => writer.write(band),
        end: async () => {
          await writer.close();
          await read;
          put(pngChunk('IEND'));
          return null;
        },
      };
    },
  };
}

function rowBytes({ width, channels, data }: Raster, j: number, rowLength: number): Uint8Array<ArrayBuffer> {
  const from = j * width * channels;
  const out = new Uint8Array(rowLength);
  if (!(data instanceof Uint16Array)) {
    out.set(data.subarray(from, from + rowLength));
    return out;
  }
  for (let k = 0; k < width * channels; k += 1) {
    const value = data[from + k] as number;
    out[2 * k] = value >> 8;
    out[2 * k + 1] = value & 255;
  }
  return out;
}

/** @param above null for the first row of a band */
function filterRow(row: Uint8Array, above: Uint8Array | null, bpp: number, out: Uint8Array): void {
  const n = row.length;
  if (!above) {
    out[0] = 1;
    for (let k = 0; k < n; k += 1) out[k + 1] = (row[k] as number) - (k >= bpp ? (row[k - bpp] as number) : 0);
    return;
  }
  let [sub, up, paeth] = [0, 0, 0];
  const magnitude = (v: number): number => (v & 128 ? 256 - (v & 255) : v & 255);
  for (let k = 0; k < n; k += 3) {
    const [x, a, b, c] = [
      row[k] as number,
      k >= bpp ? (row[k - bpp] as number) : 0,
      above[k] as number,
      k >= bpp ? (above[k - bpp] as number) : 0,
    ];
    sub += magnitude(x - a);
    up += magnitude(x - b);
    paeth += magnitude(x - predict(a, b, c));
  }
  const kind = paeth <= sub && paeth <= up ? 4 : up <= sub ? 2 : 1;
  out[0] = kind;
  for (let k = 0; k < n; k += 1) {
    const x = row[k] as number;
    if (kind === 2) out[k + 1] = x - (above[k] as number);
    else {
      const a = k >= bpp ? (row[k - bpp] as number) : 0;
      out[k + 1] = kind === 1 ? x - a : x - predict(a, above[k] as number, k >= bpp ? (above[k - bpp] as number) : 0);
    }
  }
}

/** Paeth predictor. */
function predict(a: number, b: number, c: number): number {
  const [pa, pb, pc] = [Math.abs(b - c), Math.abs(a - c), Math.abs(a + b - 2 * c)];
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}
