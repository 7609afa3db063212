import { BAND_ROWS, type Raster } from '@able-plumb/core';
import type { BandFile, Shape } from './band-file';
import { joinBytes, PictureFileError, throughStream } from './bytes';
import { deflate } from './deflate';
import { directoryBytes, inlineNumber, numberBytes, openBlock, readDirectory, type Block, type WrittenEntry } from './directories';
import { emptyBlock, evenBytes } from './exif-block';
import type { Metadata } from './metadata';
import { allRows, type RowReader, type Rows } from './picture-rows';
import { blockBytes, COMPRESSION, PHOTOMETRIC, readTiffHeader, samplesUsed, type TiffLayout } from './tiff-header';
import { unpackBits, unpackLzw } from './tiff-unpack';
import { inflateShort, lzwShort } from './unpack-short';

type Samples = Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;

/**
 * Decodes a TIFF to grey or RGB at its own depth (1, 2 and 4 bits become 8), with straight alpha where it says that it has alpha.
 * @throws PictureFileError when it is damaged
 */
export async function decodeTiff(bytes: Uint8Array, name: string): Promise<Raster> {
  return allRows(tiffRows(bytes, name), false) as Promise<Raster>;
}

/** Rows that come, or a sentence. */
interface SoundRows extends RowReader {
  next(): Promise<Rows>;
}

/**
 * Rows of a TIFF, as many at a time as its strips or tiles are high.
 * @throws PictureFileError when it is damaged
 */
export function tiffRows(bytes: Uint8Array, name: string): SoundRows {
  const { layout } = readTiffHeader(bytes, name);
  const { width, height, blockHeight } = layout;
  let from = 0;
  return {
    width,
    height,
    channels: channelsOf(layout),
    bits: layout.sampleBits === 16 ? 16 : 8,
    step: Math.min(height, blockHeight),
    next: async () => {
      const rows = Math.min(blockHeight, height - from);
      try {
        const stored = await storedRows(bytes, layout, from / blockHeight, rows);
        from += rows;
        return meaningOf(stored, layout);
      } catch {
        throw new PictureFileError(
          'tiff-damaged',
          `${name} is damaged and cannot be decoded.`,
          'Copy it again from the disk; nothing else was changed.',
        );
      }
    },
  };
}

const samplesFor = (bits: number, length: number): Samples => (bits === 16 ? new Uint16Array(length) : new Uint8Array(length));

/** The samples that are used of a row of blocks, interleaved. */
async function storedRows(bytes: Uint8Array, layout: TiffLayout, by: number, height: number): Promise<Samples> {
  const { width, samples, planar, blockWidth, blockHeight } = layout;
  const used = samplesUsed(layout);
  const stored = samplesFor(layout.sampleBits, width * height * used);
  const [across, down] = [Math.ceil(width / blockWidth), Math.ceil(layout.height / blockHeight)];
  const inBlock = planar ? 1 : samples;
  // strips hold the rows that are left; tiles are always whole
  const rows = blockWidth === width ? height : blockHeight;
  for (let plane = 0; plane < (planar ? used : 1); plane += 1)
    for (let bx = 0; bx < across; bx += 1) {
      const raw = await unpacked(bytes, layout, (plane * down + by) * across + bx, blockBytes(layout, rows));
      const block = samplesOf(raw, layout, blockWidth * inBlock, rows);
      if (layout.predictor) addUp(block, blockWidth * inBlock, inBlock);
      const columns = Math.min(blockWidth, width - bx * blockWidth);
      for (let j = 0; j < height; j += 1) {
        const to = (j * width + bx * blockWidth) * used + plane;
        const from = j * blockWidth * inBlock;
        if (planar) for (let i = 0; i < columns; i += 1) stored[to + i * used] = block[from + i] as number;
        else if (used === samples) stored.set(block.subarray(from, from + columns * samples), to);
        else
          for (let i = 0; i < columns; i += 1)
            for (let c = 0; c < used; c += 1) stored[to + i * used + c] = block[from + i * samples + c] as number;
      }
    }
  return stored;
}

/** One block's bytes as they were before they were packed; what is missing at its end stays zero. */
async function unpacked(bytes: Uint8Array, layout: TiffLayout, index: number, length: number): Promise<Uint8Array> {
  const from = layout.offsets[index] as number;
  const stored = bytes.subarray(from, from + (layout.counts[index] ?? length));
  const data = layout.reversed ? stored.map((byte) => REVERSED[byte] as number) : stored;
  switch (layout.compression) {
    case COMPRESSION.none:
      if (data.length >= length) return data.subarray(0, length);
      throw new RangeError('too few bytes');
    case COMPRESSION.lzw:
    case COMPRESSION.packBits: {
      const out = new Uint8Array(length);
      const came = layout.compression === COMPRESSION.lzw ? (lzwShort(data, out) ?? unpackLzw(data, out)) : unpackBits(data, out);
      if (came === 0) throw new RangeError('nothing comes out');
      return out;
    }
    default: {
      const out = inflateShort(data, length) ?? (await throughStream(data, new DecompressionStream('deflate'), length, 'is left'));
      return out.length >= length ? out : joinBytes([out, new Uint8Array(length - out.length)]);
    }
  }
}

/** Bytes with their bits the other way round. */
const REVERSED = Uint8Array.from({ length: 256 }, (_, byte) =>
  [0, 1, 2, 3, 4, 5, 6, 7].reduce((out, bit) => out | (((byte >> bit) & 1) << (7 - bit)), 0),
);

const HOST_IS_LITTLE = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

/** Bytes as samples in the host's order; bits become bytes of the same number. */
function samplesOf(raw: Uint8Array, { sampleBits, little }: TiffLayout, perRow: number, rows: number): Samples {
  if (sampleBits === 8) return raw.slice();
  if (sampleBits === 16) {
    const out = new Uint16Array(raw.slice().buffer);
    if (little !== HOST_IS_LITTLE) swapBytes(out);
    return out;
  }
  const out = new Uint8Array(perRow * rows);
  const bytesPerRow = Math.ceil((perRow * sampleBits) / 8);
  const mask = (1 << sampleBits) - 1;
  for (let j = 0, to = 0; j < rows; j += 1)
    for (let i = 0; i < perRow; i += 1, to += 1) {
      const bit = i * sampleBits;
      out[to] = ((raw[j * bytesPerRow + (bit >> 3)] as number) >> (8 - sampleBits - (bit & 7))) & mask;
    }
  return out;
}

function swapBytes(samples: Uint16Array): void {
  for (let k = 0; k < samples.length; k += 1) {
    const v = samples[k] as number;
    samples[k] = (v << 8) | (v >> 8);
  }
}

/** Differences along each row become values, one colour after the other: a sum that stays in a register takes half of the time. */
function addUp(block: Samples, perRow: number, step: number): void {
  for (let row = 0; row < block.length; row += perRow)
    for (let c = 0; c < step; c += 1)
      for (let k = row + c, sum = 0; k < row + perRow; k += step) {
        sum = (sum + (block[k] as number)) & 0xffff;
        block[k] = sum;
      }
}

/** Colours that the pixels of a layout have, and whether alpha goes with them. */
function coloursOf(layout: TiffLayout): { readonly colours: 1 | 3; readonly hasOne: boolean } {
  const { photometric, palette, alpha } = layout;
  if (photometric === PHOTOMETRIC.palette && palette) return { colours: 3, hasOne: false };
  const colours = photometric === PHOTOMETRIC.rgb ? 3 : 1;
  return { colours, hasOne: alpha !== 0 && samplesUsed(layout) > colours };
}

const channelsOf = (layout: TiffLayout): Raster['channels'] => {
  const { colours, hasOne } = coloursOf(layout);
  return (colours + (hasOne ? 1 : 0)) as Raster['channels'];
};

/** Stored numbers as grey or RGB with straight alpha. */
function meaningOf(stored: Samples, layout: TiffLayout): Samples {
  const { photometric, sampleBits, palette, alpha } = layout;
  const samples = samplesUsed(layout);
  const area = stored.length / samples;
  const top = sampleBits === 16 ? 65535 : 255;
  if (photometric === PHOTOMETRIC.palette && palette) {
    const out = new Uint8Array(area * 3);
    const entries = palette.length / 3;
    // palettes are of 16 bits; some writers fill only the low byte
    const shift = palette.some((v) => v > 255) ? 8 : 0;
    for (let k = 0; k < area; k += 1) {
      const index = stored[k * samples] as number;
      for (let c = 0; c < 3; c += 1) out[3 * k + c] = (palette[c * entries + index] ?? 0) >> shift;
    }
    return out;
  }
  if (sampleBits < 8) {
    const scale = 255 / ((1 << sampleBits) - 1);
    for (let k = 0; k < area; k += 1) stored[k] = (stored[k] as number) * scale;
  }
  const { colours, hasOne } = coloursOf(layout);
  const channels = channelsOf(layout);
  const data = channels === samples ? stored : samplesFor(sampleBits, area * channels);
  if (data !== stored)
    for (let k = 0; k < area; k += 1) for (let c = 0; c < channels; c += 1) data[k * channels + c] = stored[k * samples + c] as number;
  if (photometric === PHOTOMETRIC.whiteIsZero) for (let k = 0; k < area; k += 1) data[k * channels] = top - (data[k * channels] as number);
  if (hasOne && alpha === 1)
    for (let k = 0; k < data.length; k += channels) {
      const a = data[k + colours] as number;
      for (let c = 0; c < colours; c += 1) data[k + c] = a === 0 ? 0 : Math.min(top, Math.round(((data[k + c] as number) * top) / a));
    }
  return data;
}

/** How a TIFF is written. */
export interface TiffOptions {
  readonly compression: 'none' | 'deflate';
}

/** Bytes of a strip before it is packed, about. */
const STRIP_BYTES = 1 << 20;
/** Types of a value: short, long. */
const FORMAT_SHORT = 3;
const FORMAT_LONG = 4;

/**
 * A TIFF 6.0 in bands, one strip each, unpacked or by Deflate over differences. The EXIF block is itself such a file: it comes
 * first, and its first directory is written again behind the pixels with what these need.
 */
export function tiffFile(shape: Shape, { compression }: TiffOptions, metadata: Metadata): BandFile {
  const { width, channels, bits } = shape;
  const base = evenBytes(metadata.exif ?? emptyBlock());
  const { little } = openBlock(base) as Block;
  const packed = compression === 'deflate';
  const rows = Math.max(BAND_ROWS, BAND_ROWS * Math.floor(STRIP_BYTES / ((BAND_ROWS * width * channels * bits) / 8)));
  return {
    rows,
    make: async (band) => {
      const strip = stripBytes(band, packed, little);
      return packed ? deflate(strip) : strip;
    },
    bind: async (put) => {
      let end = 0;
      const place = (bytes: Uint8Array): number => {
        const at = end;
        const even = evenBytes(bytes);
        put(even);
        end += even.length;
        return at;
      };
      place(base);
      const [offsets, counts]: [number[], number[]] = [[], []];
      return {
        add: async (strip) => {
          counts.push(strip.length);
          offsets.push(place(strip));
          // offsets are of 32 bits
          if (end > LARGEST_TIFF)
            throw new PictureFileError(
              'tiff-too-large',
              'The file would be larger than the 4 GB that a TIFF can have.',
              'Choose a smaller size, 8 bits or Deflate. Nothing was written.',
            );
        },
        end: async () => {
          const directory = directoryOf(shape, compression, rows, base, metadata, { offsets, counts }, place);
          return { at: 4, bytes: numberBytes([place(directory)], FORMAT_LONG, little) };
        },
      };
    },
  };
}

/** Offsets are of 32 bits; what stands behind the pixels needs some of them. */
const LARGEST_TIFF = 2 ** 32 - 2 ** 26;

/** The first directory with what was in it and what the pixels need; long values are placed before it. */
function directoryOf(
  { width, height, channels, bits }: Shape,
  compression: TiffOptions['compression'],
  rows: number,
  base: Uint8Array,
  metadata: Metadata,
  { offsets, counts }: { readonly offsets: readonly number[]; readonly counts: readonly number[] },
  put: (bytes: Uint8Array) => number,
): Uint8Array {
  const block = openBlock(base) as Block;
  const { little } = block;
  const number = (tag: number, type: 3 | 4, ...values: readonly number[]): WrittenEntry => {
    const bytes = numberBytes(values, type, little);
    const inline = bytes.length <= 4 ? joinBytes([bytes, new Uint8Array(4 - bytes.length)]) : inlineNumber(put(bytes), 4, little);
    return { tag, type, count: values.length, inline };
  };
  const blob = (tag: number, type: number, bytes: Uint8Array | undefined): WrittenEntry[] =>
    bytes ? [{ tag, type, count: bytes.length, inline: inlineNumber(put(joinBytes([bytes, new Uint8Array(4)])), 4, little) }] : [];
  const ratio = (tag: number, value: number): WrittenEntry => {
    const at = put(numberBytes([Math.round(value * 1000), 1000], FORMAT_LONG, little));
    return { tag, type: 5, count: 1, inline: inlineNumber(at, 4, little) };
  };
  const kept = readDirectory(block, block.firstIfd);
  // baseline TIFF wants a resolution: where nobody has set one it is stated without a unit
  const resolution =
    metadata.ppi === undefined && kept.some((e) => e.tag === 282)
      ? []
      : [ratio(282, metadata.ppi ?? 1), ratio(283, metadata.ppi ?? 1), number(296, FORMAT_SHORT, metadata.ppi === undefined ? 1 : 2)];
  const structure: WrittenEntry[] = [
    number(256, FORMAT_LONG, width),
    number(257, FORMAT_LONG, height),
    number(258, FORMAT_SHORT, ...Array.from({ length: channels }, () => bits)),
    number(259, FORMAT_SHORT, compression === 'deflate' ? COMPRESSION.deflate : COMPRESSION.none),
    number(262, FORMAT_SHORT, channels >= 3 ? PHOTOMETRIC.rgb : PHOTOMETRIC.blackIsZero),
    number(273, FORMAT_LONG, ...offsets),
    number(277, FORMAT_SHORT, channels),
    number(278, FORMAT_LONG, rows),
    number(279, FORMAT_LONG, ...counts),
    ...resolution,
    number(284, FORMAT_SHORT, 1),
    ...(compression === 'deflate' ? [number(317, FORMAT_SHORT, 2)] : []),
    ...(channels === 2 || channels === 4 ? [number(338, FORMAT_SHORT, 2)] : []),
    ...blob(700, 1, metadata.xmp),
    ...blob(33723, 7, metadata.iptc),
    ...blob(34675, 7, metadata.icc),
  ];
  return directoryBytes([...kept.filter((e) => !structure.some((s) => s.tag === e.tag)), ...structure], little);
}

/** Rows as bytes in the file's order, as differences from the pixel before where asked for. */
function stripBytes({ width, channels, data }: Raster, differences: boolean, little: boolean): Uint8Array<ArrayBuffer> {
  const perRow = width * channels;
  const strip: Samples = data instanceof Uint16Array ? new Uint16Array(data) : new Uint8Array(data);
  if (differences)
    for (let row = 0; row < strip.length; row += perRow)
      for (let k = row + perRow - 1; k >= row + channels; k -= 1) strip[k] = (strip[k] as number) - (strip[k - channels] as number);
  if (strip instanceof Uint16Array && little !== HOST_IS_LITTLE) swapBytes(strip);
  return new Uint8Array(strip.buffer);
}
