import { decode } from 'fast-png';
import { BAND_ROWS, largestSample, type Raster } from '@able-plumb/core';
import type { BandFile, Shape } from './band-file';
import { hasAscii, joinBytes, PictureFileError, viewOf } from './bytes';
import { deflatePart, joinSums, NO_SUM, ZLIB_HEAD, zlibTail } from './deflate';
import type { Metadata } from './metadata';
import { metadataChunks, pngChunk, PNG_SIGNATURE } from './png-chunks';
import type { RowReader } from './picture-rows';
import { crc32, filterRows, restoreRows } from './png-kernel';

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

/** How many rows of a PNG come at a time. */
const ROWS_READ = 64;

/**
 * A PNG's rows as they are unpacked; null for a kind that does not come so: with a palette or fewer than 8 bits, interlaced, with a colour that
 * is clear. What is not sound ends in null, for {@link decodePng} to say so.
 */
export function pngRows(bytes: Uint8Array): RowReader | null {
  const { width, height, bits, channels, chunks } = storedPixels(bytes) ?? {};
  if (!chunks || !width || !height || !channels || (bits !== 8 && bits !== 16)) return null;
  const step = (channels * bits) / 8;
  let above: Uint8Array = new Uint8Array(width * step);
  const stream = unpackedStream(chunks);
  let there = 0;
  return {
    width,
    height,
    channels,
    bits,
    step: Math.min(ROWS_READ, height),
    next: async () => {
      const rows = Math.min(ROWS_READ, height - there);
      const filtered = await stream.take(rows * (above.length + 1));
      const restored = filtered && restoreRows(filtered, above, step, bits);
      there += rows;
      // the sum of all comes last
      if (!restored || (there === height && !(await stream.isSound()))) return null;
      above = restored.last;
      return restored.samples;
    },
  };
}

/** Samples a pixel by colour type; palettes have none of their own. */
const CHANNELS: Readonly<Record<number, Raster['channels']>> = { 0: 1, 4: 2, 2: 3, 6: 4 };

/** What a PNG's head says, and its chunks of pixels; null where it is not plain, or damaged. */
function storedPixels(
  bytes: Uint8Array,
): { width: number; height: number; bits: number; channels: Raster['channels'] | undefined; chunks: Uint8Array[] } | null {
  const view = viewOf(bytes);
  const chunks: Uint8Array[] = [];
  // compression, filters and order of rows other than the usual ones
  if (bytes.length < 33 || bytes[26] !== 0 || bytes[27] !== 0 || bytes[28] !== 0) return null;
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    const end = at + 12 + length;
    if (end > bytes.length || hasAscii(bytes, at + 4, 'tRNS') || crc32(bytes.subarray(at + 4, end - 4)) !== view.getUint32(end - 4))
      return null;
    if (hasAscii(bytes, at + 4, 'IDAT')) chunks.push(bytes.subarray(at + 8, end - 4));
    if (hasAscii(bytes, at + 4, 'IEND')) {
      const [width, height] = [view.getUint32(16), view.getUint32(20)];
      return { width, height, bits: bytes[24] as number, channels: CHANNELS[bytes[25] as number], chunks };
    }
    at = end;
  }
  return null;
}

/** zlib data in parts, unpacked by the platform; what is damaged is nothing. */
function unpackedStream(parts: readonly Uint8Array[]): { take(length: number): Promise<Uint8Array | null>; isSound(): Promise<boolean> } {
  const stream = new DecompressionStream('deflate');
  const writer = stream.writable.getWriter();
  const written = (async () => {
    for (const part of parts) await writer.write(part as Uint8Array<ArrayBuffer>);
    await writer.close();
  })();
  // told by reading
  written.catch(() => undefined);
  const reader = (stream.readable as ReadableStream<Uint8Array>).getReader();
  let left: Uint8Array = new Uint8Array();
  const more = (): Promise<Uint8Array | null> =>
    reader.read().then(
      ({ value }) => value ?? null,
      () => null,
    );
  return {
    take: async (length) => {
      const out = new Uint8Array(length);
      for (let at = 0; ;) {
        const some = left.subarray(0, length - at);
        out.set(some, at);
        at += some.length;
        left = left.subarray(some.length);
        if (at === length) return out;
        const next = await more();
        if (!next) return null;
        left = next;
      }
    },
    isSound: async () =>
      left.length === 0 &&
      (await more()) === null &&
      (await written.then(
        () => true,
        () => false,
      )),
  };
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

/** Bytes of the sum of what a band packs, before its chunk. */
const SUM_BYTES = 4;

/**
 * A PNG (ISO/IEC 15948) in bands, each with its rows filtered and packed by itself and in a chunk of its own; together they are one stream
 * of zlib data. The metadata goes in as chunks.
 */
export function pngFile({ width, height, channels, bits }: Shape, metadata: Metadata): BandFile {
  const step = (channels * bits) / 8;
  const rowLength = width * step;
  return {
    rows: BAND_ROWS,
    make: async ({ data }) => {
      const { data: packed, sum } = deflatePart(filterRows(data, rowLength, step));
      const first = new Uint8Array(SUM_BYTES);
      viewOf(first).setUint32(0, sum);
      return joinBytes([first, pngChunk('IDAT', packed)]);
    },
    bind: async (put) => {
      const header = new Uint8Array(13);
      const view = viewOf(header);
      view.setUint32(0, width);
      view.setUint32(4, height);
      header[8] = bits;
      header[9] = COLOUR_TYPES[channels];
      for (const part of [PNG_SIGNATURE, pngChunk('IHDR', header), ...(await metadataChunks(metadata))]) put(part);
      put(pngChunk('IDAT', ZLIB_HEAD));
      let [sum, rows] = [NO_SUM, 0];
      return {
        add: async (band) => {
          const some = Math.min(BAND_ROWS, height - rows);
          sum = joinSums(sum, viewOf(band).getUint32(0), some * (rowLength + 1));
          rows += some;
          put(band.subarray(SUM_BYTES));
        },
        end: async () => {
          put(pngChunk('IDAT', zlibTail(sum)));
          put(pngChunk('IEND'));
          return null;
        },
      };
    },
  };
}
