/// <reference lib="webworker" />
import { resultSamples } from '@able-plumb/core';
import { opaqueRgba, rowsOf, type PlatformJpeg } from '@able-plumb/codecs';

/** Rows that pass through a canvas at a time, so that no second whole picture lies in memory. */
const STRIP = 256;

/**
 * JPEGs by the browser's own native codec. It decodes what has no metadata left that could turn or convert it; it encodes with halved
 * colour below quality 100, which is all that canvases do. Larger pictures than its canvases and bitmaps hold are left to the compiled codecs.
 */
export const nativeJpeg: PlatformJpeg = {
  decode: async (bytes) => {
    let bitmap: ImageBitmap | null = null;
    let frame: VideoFrame | null = null;
    try {
      bitmap = await createImageBitmap(new Blob([bytes], { type: 'image/jpeg' }), { colorSpaceConversion: 'none' });
      const { width, height } = bitmap;
      const data = resultSamples(width * height * 3, 8, self.crossOriginIsolated) as Uint8Array;
      const strip = new Uint8Array(width * Math.min(STRIP, height) * 4);
      frame = new VideoFrame(bitmap, { timestamp: 0 });
      bitmap.close();
      for (let y = 0, to = 0; y < height; y += STRIP) {
        const rows = Math.min(STRIP, height - y);
        await frame.copyTo(strip, { rect: { x: 0, y, width, height: rows }, format: 'RGBA' } as VideoFrameCopyToOptions);
        for (let from = 0, end = width * rows * 4; from < end; from += 4, to += 3) {
          data[to] = strip[from] as number;
          data[to + 1] = strip[from + 1] as number;
          data[to + 2] = strip[from + 2] as number;
        }
      }
      return { width, height, channels: 3, data };
    } catch {
      return null;
    } finally {
      // their memory is the browser's: it waits for nobody to tidy up
      bitmap?.close();
      frame?.close();
    }
  },
  encode: async (raster, { quality, chroma }) => {
    if (chroma !== '4:2:0' || quality >= 100) return null;
    try {
      const { width, height } = raster;
      const canvas = new OffscreenCanvas(width, height);
      const context = canvas.getContext('2d', { alpha: false });
      if (!context) return null;
      const strip = new ImageData(width, Math.min(STRIP, height));
      for (let y = 0; y < height; y += STRIP) {
        const rows = rowsOf(raster, y, Math.min(height, y + STRIP));
        opaqueRgba(rows, strip.data);
        context.putImageData(strip, 0, y, 0, 0, width, rows.height);
      }
      const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality: quality / 100 });
      return blob.type === 'image/jpeg' ? new Uint8Array(await blob.arrayBuffer()) : null;
    } catch {
      return null;
    }
  },
};
