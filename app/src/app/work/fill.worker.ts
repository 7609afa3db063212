/// <reference lib="webworker" />
import { composeWarp, fillEmpty, hasAlpha, previewPixels, withFoundCrop, type PositionMap, type Raster } from '@able-plumb/core';
import { expose } from './line';
import type { FillPreviewImages, FillPreviewRequest, FillWork } from './protocol';

/* Fills small results, so that a person sees at once what becomes of empty edges. */

/** The hatching of what is filled: stripes so far apart, px, and how much they cover. */
const STRIPE_PX = 8;
const STRIPE_ALPHA = 150;

async function preview({ source, correction, crop, longEdge }: FillPreviewRequest): Promise<FillPreviewImages> {
  const small = withFoundCrop({ ...correction, output: { ...correction.output, size: { kind: 'long-edge', px: longEdge } } }, { crop });
  const warp = composeWarp(small, small.picture);
  const { width, height } = warp.outputSize;
  const [sx, sy] = [source.width / warp.pictureSize.width, source.height / warp.pictureSize.height];
  const map: PositionMap = (x, y, out) => {
    if (!warp.outputToPicture(x, y, out)) return false;
    out[0] = (out[0] as number) * sx;
    out[1] = (out[1] as number) * sy;
    return true;
  };
  const raster: Raster = { width, height, channels: 4, data: new Uint8Array(previewPixels(source, map, { width, height }).buffer) };
  const { mask } = fillEmpty(raster, correction, warp, hasAlpha(source));
  if (!mask.includes(1)) return { filled: null, hatched: null };
  const [filled, hatched] = [new Uint8ClampedArray(width * height * 4), new Uint8ClampedArray(width * height * 4)];
  for (let k = 0; k < mask.length; k += 1) {
    if (mask[k] === 0) continue;
    filled.set(raster.data.subarray(4 * k, 4 * k + 4), 4 * k);
    const dark = (((k % width) + Math.floor(k / width)) % STRIPE_PX) * 2 < STRIPE_PX;
    hatched.set(dark ? [20, 24, 27, STRIPE_ALPHA] : [255, 255, 255, STRIPE_ALPHA], 4 * k);
  }
  return { filled: await imageOf(filled, width, height), hatched: await imageOf(hatched, width, height) };
}

async function imageOf(data: Uint8ClampedArray<ArrayBuffer>, width: number, height: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(width, height);
  canvas.getContext('2d')?.putImageData(new ImageData(data, width, height), 0, 0);
  return canvas.convertToBlob();
}

const work: FillWork = { preview };
expose(work);
