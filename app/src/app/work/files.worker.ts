/// <reference lib="webworker" />
import { calibrateBoard, findBoard, findPieces, halveRaster, throughLattice, type Raster } from '@able-plumb/core';
import {
  canShare,
  latticeOf,
  looksFilled,
  readPictureInfo,
  readPixels,
  readShared,
  readSmall,
  refuseCutShort,
  rgba8,
  smallOf,
} from '@able-plumb/codecs';
import { useBrowserCodecs } from './browser-codecs';
import { expose } from './line';
import type { FilesWork } from './protocol';
import { withBytes } from './with-bytes';

/* Looks into files: what they say of themselves, small pictures of them, checkerboards in them. Beside the stage, so that neither waits for the other. */

useBrowserCodecs();

const THUMBNAIL_PX = 420;
/** From here on small pictures are made while decoding, px. */
const LARGE_PX = 40e6;
/** Formats that browsers do not show. */
const NOT_SHOWN: readonly string[] = ['tiff', 'jxl'];
/** Of a sheet, of which small pictures are parts. */
const SHEET_THUMBNAIL_PX = 1800;

const work: FilesWork = {
  inspect: (name, file, opens) =>
    withBytes(file, async (bytes) => {
      const read = await readPictureInfo(bytes, name);
      const { metadata: _kept, ...info } = read;
      // beside what follows
      const digest = crypto.subtle.digest('SHA-256', bytes);
      const [large, shown] = [info.width * info.height > LARGE_PX, !NOT_SHOWN.includes(info.format)];
      // what is opened next is decoded once; where there is no room for it the stage says so, and it is taken in all the same
      const raster = opens && canShare && (large || !shown) ? await readShared(bytes, name, read).catch(unlessNoRoom) : null;
      // the browser's decoder would hold a large picture whole, and a canvas all its smaller sizes
      const small = large ? await (raster ? smallOf(raster, 2 * THUMBNAIL_PX) : readSmall(bytes, name, read, 2 * THUMBNAIL_PX)) : null;
      const pixels = small ?? raster ?? (shown ? null : await readPixels(bytes, name, read));
      const { thumbnail, filled } = await thumbnailOf(pixels ? await imageOf(pixels, read.metadata.icc) : file);
      // decoders fill with grey what is missing, and say nothing
      if (info.format === 'jpeg' && !small && filled) refuseCutShort(bytes, name);
      const sha256 = Array.from(new Uint8Array(await digest), (b) => b.toString(16).padStart(2, '0')).join('');
      return { info, sha256, thumbnail, decoded: raster && { info: read, raster } };
    }),

  board: (name, file, board) =>
    withBytes(file, async (bytes) => {
      const { metadata, ...info } = await readPictureInfo(bytes, name);
      return { info, corners: findBoard(await readPixels(bytes, name, { ...info, metadata }), board) };
    }),

  sheet: (name, file, ppi, photographed) =>
    withBytes(file, async (bytes) => {
      const info = await readPictureInfo(bytes, name);
      const picture = await readPixels(bytes, name, info);
      const found = findPieces(picture, ppi, photographed);
      const { thumbnail } = await thumbnailOf(await imageOf(picture, info.metadata.icc, SHEET_THUMBNAIL_PX), SHEET_THUMBNAIL_PX);
      return { found, thumbnail };
    }),

  async calibrate(views, across, size) {
    return calibrateBoard(views, across, size);
  },
};

expose(work);

function unlessNoRoom(error: unknown): null {
  if (error instanceof RangeError) return null;
  throw error;
}

/** Pixels for the browser, of a format that it does not read; halved until they are small enough. */
async function imageOf(raster: Raster, icc: Uint8Array | undefined, px = THUMBNAIL_PX): Promise<ImageData> {
  let small = raster;
  while (Math.max(small.width, small.height) > 4 * px) small = halveRaster(small);
  // a profile that cannot be read is said when the picture is opened on the bench
  const lattice = await latticeOf(icc, small.channels, 'srgb').catch(() => null);
  return new ImageData(rgba8(lattice ? throughLattice(small, lattice) : small), small.width, small.height);
}

const NO_THUMBNAIL = { thumbnail: null, filled: false };

/** A small JPEG by the browser's own decoder; null where it gives up, which says nothing about the file. Filled: its last row looks as decoders fill in what is missing. */
async function thumbnailOf(
  picture: Blob | ImageData,
  px = THUMBNAIL_PX,
): Promise<{ readonly thumbnail: Blob | null; readonly filled: boolean }> {
  let whole: ImageBitmap | null = null;
  try {
    whole = await createImageBitmap(picture);
    const scale = Math.min(1, px / Math.max(whole.width, whole.height));
    const canvas = new OffscreenCanvas(Math.max(1, Math.round(whole.width * scale)), Math.max(1, Math.round(whole.height * scale)));
    const context = canvas.getContext('2d');
    if (!context) return NO_THUMBNAIL;
    context.imageSmoothingQuality = 'high';
    context.drawImage(whole, 0, 0, canvas.width, canvas.height);
    const last = context.getImageData(0, canvas.height - 1, canvas.width, 1).data.filter((_, k) => k % 4 < 3);
    return { thumbnail: await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.85 }), filled: looksFilled(last) };
  } catch {
    return NO_THUMBNAIL;
  } finally {
    whole?.close();
  }
}
