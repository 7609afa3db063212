import { PictureFileError } from './bytes';
import { nextDirectory, numberOf, numbersOf, openBlock, readDirectory, type Block, type Entry } from './directories';
import { captureBlock } from './exif-block';
import { iimOf } from './iptc';
import type { Metadata } from './metadata';

const TAG = {
  subfile: 254,
  width: 256,
  length: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  stripOffsets: 273,
  samples: 277,
  rowsPerStrip: 278,
  stripCounts: 279,
  planar: 284,
  predictor: 317,
  colourMap: 320,
  tileWidth: 322,
  tileLength: 323,
  tileOffsets: 324,
  tileCounts: 325,
  extraSamples: 338,
  sampleFormat: 339,
  xmp: 700,
  icc: 34675,
  iptc: 33723,
  resources: 34377,
  dngVersion: 50706,
} as const;

/** Compressions that are read: none, LZW, Deflate (both its numbers), PackBits. */
export const COMPRESSION = { none: 1, lzw: 5, deflate: 8, oldDeflate: 32946, packBits: 32773 } as const;

/** What the values of a sample mean: grey from white, grey from black, RGB, an index into a palette. */
export const PHOTOMETRIC = { whiteIsZero: 0, blackIsZero: 1, rgb: 2, palette: 3 } as const;

/** How the pixels of a TIFF file lie. */
export interface TiffLayout {
  readonly little: boolean;
  readonly width: number;
  readonly height: number;
  /** Bits of one sample as stored. */
  readonly sampleBits: 1 | 2 | 4 | 8 | 16;
  readonly samples: number;
  readonly photometric: number;
  readonly compression: number;
  /** The bits of each byte run from the low end (TIFF 6.0, FillOrder 2). */
  readonly reversed: boolean;
  /** Each row holds differences (TIFF 6.0, section 14). */
  readonly predictor: boolean;
  /** Each sample in blocks of its own. */
  readonly planar: boolean;
  /** 0 none, 1 premultiplied, 2 straight. */
  readonly alpha: 0 | 1 | 2;
  /** Red, green and blue of a palette in three rows of shorts, or null. */
  readonly palette: readonly number[] | null;
  /** Strips are blocks as wide as the picture. */
  readonly blockWidth: number;
  readonly blockHeight: number;
  readonly offsets: readonly number[];
  readonly counts: readonly number[];
}

/** What a TIFF file says of itself. */
export interface TiffHeader {
  readonly layout: TiffLayout;
  readonly metadata: Metadata;
}

/**
 * Reads the directory of the first full picture in a TIFF file (TIFF 6.0).
 * @throws PictureFileError when it is damaged, cut short, or of a kind that is not read
 */
export function readTiffHeader(bytes: Uint8Array, name: string): TiffHeader {
  const file = openBlock(bytes);
  const found = file && firstPicture(file);
  if (!file || !found) return damaged(name, 'is damaged: it holds no picture');
  const { at, entries } = found;
  const number = (tag: number, without: number): number => numberOf(file, entries, tag) ?? without;
  const numbers = (tag: number): number[] => numbersOf(file, entries, tag) ?? [];
  if (entries.some((e) => e.tag === TAG.dngVersion) || number(TAG.photometric, 1) > 32800)
    throw new PictureFileError(
      'camera-raw',
      `${name} is a raw file from a camera.`,
      'Develop it to a 16-bit TIFF first, then open that; the raw file is untouched.',
    );
  const width = number(TAG.width, 0);
  const height = number(TAG.length, 0);
  const tiled = entries.some((e) => e.tag === TAG.tileOffsets);
  const bits = numbers(TAG.bits);
  const extra = numbers(TAG.extraSamples)[0] ?? -1;
  const layout: TiffLayout = {
    little: file.little,
    width,
    height,
    sampleBits: (bits[0] ?? 1) as TiffLayout['sampleBits'],
    samples: number(TAG.samples, 1),
    photometric: number(TAG.photometric, 1),
    compression: number(TAG.compression, 1),
    reversed: number(TAG.fillOrder, 1) === 2,
    predictor: number(TAG.predictor, 1) === 2,
    planar: number(TAG.planar, 1) === 2,
    alpha: extra === 1 || extra === 2 ? extra : 0,
    palette: numbersOf(file, entries, TAG.colourMap),
    blockWidth: tiled ? number(TAG.tileWidth, 0) : width,
    blockHeight: tiled ? number(TAG.tileLength, 0) : Math.min(height, number(TAG.rowsPerStrip, height)),
    offsets: numbers(tiled ? TAG.tileOffsets : TAG.stripOffsets),
    counts: numbers(tiled ? TAG.tileCounts : TAG.stripCounts),
  };
  refuse(name, layout, bits, number(TAG.sampleFormat, 1), number(TAG.predictor, 1));
  checkBlocks(name, layout, bytes.length);
  const blob = (tag: number): Uint8Array | undefined => entries.find((e) => e.tag === tag)?.value.slice();
  const resources = blob(TAG.resources);
  const iptc = blob(TAG.iptc) ?? (resources && iimOf(resources));
  return { layout, metadata: { exif: captureBlock(file, at), xmp: blob(TAG.xmp), icc: blob(TAG.icc), iptc } };
}

/** The first directory that is no smaller copy of another (NewSubfileType, bit 0). */
function firstPicture(file: Block): { at: number; entries: readonly Entry[] } | null {
  const seen = new Set<number>();
  for (let at = file.firstIfd; at !== 0 && !seen.has(at) && seen.size < 64; at = nextDirectory(file, at)) {
    seen.add(at);
    const entries = readDirectory(file, at);
    if (entries.some((e) => e.tag === TAG.width) && ((numberOf(file, entries, TAG.subfile) ?? 0) & 1) === 0) return { at, entries };
  }
  return null;
}

function damaged(name: string, what: string): never {
  throw new PictureFileError('tiff-damaged', `${name} ${what}.`, 'Copy it again from the disk; nothing else was changed.');
}

const COLOURS: Readonly<Record<number, string>> = { 4: 'a mask', 5: 'CMYK', 6: 'YCbCr', 8: 'Lab', 9: 'Lab', 10: 'Lab' };

function refuse(name: string, layout: TiffLayout, bits: readonly number[], format: number, predictor: number): void {
  const no = (what: string): never => {
    throw new PictureFileError(
      'tiff-kind',
      `${name} is ${what}, which cannot be opened.`,
      'Save it as an RGB or grey TIFF of 8 or 16 bits; the file is untouched.',
    );
  };
  const { samples, sampleBits, photometric, compression } = layout;
  if (!(Object.values(COMPRESSION) as number[]).includes(compression))
    no(compression === 6 || compression === 7 ? 'a TIFF with JPEG inside' : `a TIFF packed in a way that is not read (${compression})`);
  if (!(Object.values(PHOTOMETRIC) as number[]).includes(photometric)) no(`a TIFF in ${COLOURS[photometric] ?? 'unknown colours'}`);
  if (format !== 1 && format !== 4) no(format === 3 ? 'a TIFF of floating-point numbers' : 'a TIFF of signed numbers');
  if (bits.some((b) => b !== bits[0]) || ![1, 2, 4, 8, 16].includes(sampleBits)) no(`a TIFF of ${[...new Set(bits)].join(', ')} bits`);
  if (photometric === PHOTOMETRIC.palette && !layout.palette) damaged(name, 'is damaged: its palette is missing');
  if (samples < (photometric === PHOTOMETRIC.rgb ? 3 : 1) || samples > 32) damaged(name, 'is damaged: it has no such number of channels');
  if (sampleBits < 8 && (samples > 1 || predictor !== 1)) no(`a TIFF of ${samples} channels of ${sampleBits} bits`);
  if (predictor > 2) no('a TIFF of floating-point differences');
}

/** Samples that mean something: colours, and alpha where there is one. Others are passed over. */
export const samplesUsed = ({ photometric, alpha, samples }: TiffLayout): number =>
  Math.min(samples, (photometric === PHOTOMETRIC.rgb ? 3 : 1) + (alpha === 0 ? 0 : 1));

/** More bytes than this in one block are not unpacked: no room would be left for the picture. */
const LARGEST_BLOCK = 1.5e9;

/** Samples that are stored apart have blocks of their own. */
const planesOf = (layout: TiffLayout): number => (layout.planar ? layout.samples : 1);

/** Bytes of one unpacked block. */
export function blockBytes({ blockWidth, sampleBits, samples, planar }: TiffLayout, rows: number): number {
  return Math.ceil((blockWidth * (planar ? 1 : samples) * sampleBits) / 8) * rows;
}

function checkBlocks(name: string, layout: TiffLayout, length: number): void {
  const { width, height, blockWidth, blockHeight, offsets, counts } = layout;
  // sizes that are impossible are refused by the reader of all formats
  if (width < 1 || height < 1) return;
  if (blockWidth < 1 || blockHeight < 1 || blockWidth > 1e6 || blockHeight > 1e6) damaged(name, 'is damaged: its blocks have no size');
  if (blockBytes(layout, blockHeight) > LARGEST_BLOCK)
    throw new PictureFileError(
      'too-large',
      `${name} cannot be opened: its pixels lie in pieces of ${Math.round(blockBytes(layout, blockHeight) / 1e6)} MB.`,
      'Save it with fewer channels, or in strips; the file is untouched.',
    );
  const wanted = Math.ceil(width / blockWidth) * Math.ceil(height / blockHeight) * planesOf(layout);
  if (offsets.length < wanted || (counts.length < wanted && layout.compression !== COMPRESSION.none))
    damaged(name, 'is cut short: some of its parts are missing');
  for (let i = 0; i < wanted; i += 1)
    if ((offsets[i] as number) + (counts[i] ?? 0) > length) damaged(name, 'is cut short: its last part is missing');
}
