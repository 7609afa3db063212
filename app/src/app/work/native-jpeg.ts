/// <reference lib="webworker" />
import { resultSamples } from '@able-plumb/core';
import type { PlatformJpeg } from '@able-plumb/codecs';

/** Rows that pass at a time, so that no second whole picture lies in memory. */
const STRIP = 256;

/**
 * JPEGs by the browser's own native decoder, of what has no metadata left that could turn or convert it. Larger pictures than its bitmaps hold are
 * left to the compiled one.
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
};
