/// <reference lib="webworker" />
import { composeWarp, previewPixels, type PositionMap, type Raster } from '@able-plumb/core';
import { judge } from './judge';
import { expose, moved } from './line';
import type { PreviewPixels, ThumbnailRequest, ThumbnailWork } from './protocol';

/* Draws small results from small originals, for lists; lives beside the others, so that neither waits for the other. */

/** Small originals kept decoded. */
const KEPT = 60;
const kept = new Map<string, Raster>();

async function rasterOf({ pictureId, original, thumbnail }: ThumbnailRequest): Promise<Raster> {
  // one that was made anew is of another size
  const key = `${original ?? pictureId} ${thumbnail.size}`;
  const known = kept.get(key);
  if (known) return known;
  const image = await createImageBitmap(thumbnail);
  const { width, height } = image;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
  context?.drawImage(image, 0, 0);
  image.close();
  if (!context) throw new Error('The browser has no room for a small picture.');
  const raster: Raster = { width, height, channels: 4, data: context.getImageData(0, 0, width, height).data };
  kept.set(key, raster);
  for (const id of kept.keys()) if (kept.size > KEPT) kept.delete(id);
  return raster;
}

async function draw(request: ThumbnailRequest): Promise<PreviewPixels> {
  const source = await rasterOf(request);
  const warp = composeWarp(request.correction, request.correction.picture);
  const { crop, pictureSize } = warp;
  const scale = request.longEdge / Math.max(crop.width, crop.height);
  const [width, height] = [Math.max(1, Math.round(crop.width * scale)), Math.max(1, Math.round(crop.height * scale))];
  const [sx, sy] = [source.width / pictureSize.width, source.height / pictureSize.height];
  const [ox, oy] = [warp.outputSize.width / width, warp.outputSize.height / height];
  const map: PositionMap = (x, y, out) => {
    if (!warp.outputToPicture(x * ox, y * oy, out)) return false;
    out[0] = (out[0] as number) * sx;
    out[1] = (out[1] as number) * sy;
    return true;
  };
  return { width, height, space: 'srgb', data: previewPixels(source, map, { width, height }) };
}

const work: ThumbnailWork = {
  async draw(request) {
    const pixels = await draw(request);
    return moved(pixels, [pixels.data.buffer]);
  },

  async judge(corrections) {
    return corrections.map(judge);
  },
};

expose(work);
