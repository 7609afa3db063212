import { describe, expect, it } from 'vitest';
import { composeWarp, newCorrection, parseCorrection, previewPixels, type Raster } from '../index';

describe('drafts', () => {
  it('are the same the quick way (opaque RGB) and the general way (RGBA), to two steps, borders and empty edges too', () => {
    const size = { width: 321, height: 217 };
    const rgb: Raster = { ...size, channels: 3, data: new Uint8Array(size.width * size.height * 3) };
    const rgba: Raster = { ...size, channels: 4, data: new Uint8Array(size.width * size.height * 4) };
    let noise = 3;
    for (let k = 0; k < size.width * size.height; k += 1) {
      for (let c = 0; c < 3; c += 1) {
        noise = (noise * 1103515245 + 12345) & 0x7fffffff;
        rgb.data[3 * k + c] = rgba.data[4 * k + c] = (noise >> 12) & 255;
      }
      rgba.data[4 * k + 3] = 255;
    }
    const base = newCorrection({ name: 'noise', ...size, focal35: 24 });
    for (const adjust of [
      { roll: 0, tilt: 0, swing: 0 },
      { roll: 7.3, tilt: 18, swing: -11 },
      { roll: -40, tilt: -35, swing: 20 },
    ]) {
      const correction = parseCorrection({ ...base, stance: { ...base.stance, adjust } });
      const warp = composeWarp(correction, size);
      const view = { width: 253, height: 187 };
      const map = (x: number, y: number, out: Float64Array): boolean => warp.planeToPicture((x - 120) * 2.1, (y - 90) * 2.1, out);
      const [quick, general] = [previewPixels(rgb, map, view), previewPixels(rgba, map, view)];
      let most = 0;
      let filled = 0;
      for (let k = 0; k < quick.length; k += 1) {
        most = Math.max(most, Math.abs(quick[k]! - general[k]!));
        if (k % 4 === 3 && quick[k] === 255) filled += 1;
      }
      expect(most).toBeLessThanOrEqual(2);
      expect(filled).toBeGreaterThan(2000);
    }
  });
});
