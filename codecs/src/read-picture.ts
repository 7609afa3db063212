import { LARGEST_AREA, LARGEST_SIDE, orientRaster, sharedRaster, type Raster } from '@able-plumb/core';
import { decodeAvif } from './avif';
import { readAvifHeader } from './avif-boxes';
import { PictureFileError } from './bytes';
import { readCameraFacts, type CameraFacts } from './exif-block';
import { decodeJpeg } from './jpeg';
import { decodeJxl, readJxlHeader } from './jxl';
import { baselineRows } from './jpeg-rows';
import { readJpegHeader } from './jpeg-segments';
import { iccName, isGreyProfile, type Metadata } from './metadata';
import { allRows, arrivingRows, canShare, shrunkRows, type Arriving, type RowReader } from './picture-rows';
import { decodePng, pngRows } from './png';
import { readPngHeader } from './png-chunks';
import { decodeTiff, tiffRows } from './tiff';
import { readTiffHeader } from './tiff-header';
import { sniffFormat, type PictureFormat } from './sniff';
import { poseOf } from './xmp-packet';
import { decodeWebp, readWebpHeader } from './webp';

/** What is known of a picture file before its pixels are decoded. Width and height are the right way up. */
export interface PictureInfo extends CameraFacts {
  readonly format: PictureFormat;
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16;
  readonly channels: number;
  readonly profileName: string | null;
  readonly metadata: Metadata;
  /** How the camera stood by its own level, degrees; null where it says nothing. */
  readonly level: { readonly roll: number | null; readonly tilt: number | null } | null;
}

/**
 * Reads a picture file's header and metadata; of the file's bytes nothing is held on to.
 * @throws PictureFileError for what is not a picture, is damaged, or too large
 */
export async function readPictureInfo(file: Uint8Array, name: string): Promise<PictureInfo> {
  const bytes = plain(file);
  const format = sniffFormat(bytes, name);
  const header = await HEADERS[format](bytes, name);
  const { width, height } = header;
  if (width < 1 || height < 1) throw new PictureFileError('empty-picture', `${name} has no pixels.`, 'The file is untouched.');
  if (width > LARGEST_SIDE || height > LARGEST_SIDE || width * height > LARGEST_AREA) {
    throw new PictureFileError(
      'too-large',
      `${name} is too large: ${width} x ${height} px (${Math.round((width * height) / 1e6)} megapixels); 32767 px a side and 300 megapixels are the limit.`,
      'Save a smaller copy and open that; the file is untouched.',
    );
  }
  const said = readCameraFacts(header.metadata.exif, width, height);
  const facts = { ...said, orientation: header.orientation ?? said.orientation };
  const swaps = facts.orientation >= 5;
  const pose = header.metadata.xmp ? poseOf(header.metadata.xmp) : { roll: null, tilt: null };
  const level = { roll: pose.roll, tilt: facts.elevation ?? pose.tilt };
  return {
    ...facts,
    ...header,
    format,
    width: swaps ? height : width,
    height: swaps ? width : height,
    profileName: iccName(header.metadata.icc),
    // what the file's own container says of its resolution goes before what a camera wrote
    ppi: header.metadata.ppi ?? facts.ppi,
    level: level.roll === null && level.tilt === null ? null : level,
  };
}

/** What a format's head says; `orientation` where its container says it, whatever EXIF says. */
type Header = Pick<PictureInfo, 'width' | 'height' | 'bits' | 'channels' | 'metadata'> & { readonly orientation?: number };

function fromJpeg(bytes: Uint8Array, name: string): Header {
  const header = readJpegHeader(bytes, name);
  return { width: header.width, height: header.height, bits: 8, channels: header.components, metadata: header.metadata };
}

const PNG_CHANNELS: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 3, 4: 2, 6: 4 };

async function fromPng(bytes: Uint8Array, name: string): Promise<Header> {
  const header = await readPngHeader(bytes, name);
  return {
    width: header.width,
    height: header.height,
    bits: header.bits === 16 ? 16 : 8,
    channels: PNG_CHANNELS[header.colourType] ?? 3,
    metadata: header.metadata,
  };
}

function fromTiff(bytes: Uint8Array, name: string): Header {
  const { layout, metadata } = readTiffHeader(bytes, name);
  const colours = layout.photometric >= 2 ? 3 : 1;
  const channels = colours + (layout.alpha !== 0 && layout.samples > colours ? 1 : 0);
  return { width: layout.width, height: layout.height, bits: layout.sampleBits === 16 ? 16 : 8, channels, metadata };
}

function fromWebp(bytes: Uint8Array, name: string): Header {
  const { width, height, alpha, metadata } = readWebpHeader(bytes, name);
  return { width, height, bits: 8, channels: alpha ? 4 : 3, metadata };
}

function fromAvif(bytes: Uint8Array, name: string): Header {
  const { width, height, bits, alpha, orientation, metadata } = readAvifHeader(bytes, name);
  return { width, height, bits: bits > 8 ? 16 : 8, channels: alpha ? 4 : 3, orientation, metadata };
}

/** Its decoder turns it upright. */
function fromJxl(bytes: Uint8Array, name: string): Header {
  return { ...readJxlHeader(bytes, name), bits: 8, channels: 3, orientation: 1 };
}

const HEADERS: Readonly<Record<PictureFormat, (bytes: Uint8Array, name: string) => Header | Promise<Header>>> = {
  jpeg: fromJpeg,
  png: fromPng,
  tiff: fromTiff,
  webp: fromWebp,
  avif: fromAvif,
  jxl: fromJxl,
};

/** Whether a JPEG has grey pixels: one component, and a profile for it. Grey without one, or with one for colour, is RGB. */
const isGrey = ({ channels, metadata }: PictureInfo): boolean => channels === 1 && isGreyProfile(metadata.icc);

const DECODERS: Readonly<Record<PictureFormat, (bytes: Uint8Array, name: string, info: PictureInfo) => Raster | Promise<Raster>>> = {
  jpeg: (bytes, name, info) => decodeJpeg(bytes, name, isGrey(info)),
  png: decodePng,
  tiff: decodeTiff,
  webp: decodeWebp,
  avif: decodeAvif,
  jxl: decodeJxl,
};

/** Decodes a picture's pixels, the right way up, at their own depth and in their own colour space. */
export async function readPixels(bytes: Uint8Array, name: string, info: PictureInfo): Promise<Raster> {
  return orientRaster(await DECODERS[info.format](plain(bytes), name, info), info.orientation);
}

/** The same in memory that threads share, where the platform has it: without a copy where the file comes by rows. */
export async function readShared(bytes: Uint8Array, name: string, info: PictureInfo): Promise<Raster> {
  const reader = rowsOf(plain(bytes), name, info);
  const pixels = (reader && (await allRows(reader, canShare, info.orientation))) ?? (await readPixels(bytes, name, info));
  return canShare ? sharedRaster(pixels) : pixels;
}

/**
 * A small copy of a large picture, the right way up, decoded without ever lying anywhere whole; its longer side is at least so many px.
 * @returns null where the format does not allow it, and for damage
 */
export async function readSmall(bytes: Uint8Array, name: string, info: PictureInfo, longEdge: number): Promise<Raster | null> {
  try {
    const reader = rowsOf(plain(bytes), name, info);
    const small = reader && (await shrunkRows(reader, longEdge));
    return small && orientRaster(small, info.orientation);
  } catch {
    return null;
  }
}

/** Starts to decode pixels from the top, where the format and the way that the picture lies allow it; null where it has to be done at once. */
export function arrivingPixels(file: Uint8Array, name: string, info: PictureInfo): Arriving | null {
  const bytes = plain(file);
  const reader = info.orientation === 1 ? rowsOf(bytes, name, info) : null;
  return reader && arrivingRows(reader, async () => readPixels(bytes, name, info));
}

/** Rows at a time: of a file in a few large pieces there is little to begin with before all is there. */
const MOST_STEP = 1024;

const ROWS: Readonly<Partial<Record<PictureFormat, (bytes: Uint8Array, name: string, info: PictureInfo) => RowReader | null>>> = {
  jpeg: (bytes, _, info) => baselineRows(bytes, isGrey(info)),
  png: pngRows,
  tiff: tiffRows,
};

/** Rows as they are stored; null for formats that do not come by rows. */
function rowsOf(bytes: Uint8Array, name: string, info: PictureInfo): RowReader | null {
  const reader = ROWS[info.format]?.(bytes, name, info);
  return reader && reader.step <= MOST_STEP ? reader : null;
}

/** The same bytes in the standard's own class: a slice of Node's is no copy. */
const plain = (bytes: Uint8Array): Uint8Array => new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength);
