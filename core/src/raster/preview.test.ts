import { describe, expect, it } from 'vitest';
import { composeWarp, newCorrection, forScreen, parseCorrection, previewPixels, resampleRows, type Raster } from '../index';

describe('drafts', () => {
  it('are by the kernel (opaque RGB) within some steps of the plain version, and much the same the general way (RGBA), borders and empty edges too', () => {
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
      const map = (x: number, y: number, out: Float64Array): boolean => warp.planeToPicture((x - 120) * 0.6, (y - 90) * 0.6, out);
      const [quick, general] = [previewPixels(rgb, map, view), previewPixels(rgba, map, view)];
      const exact = resampleRows({
        source: rgb,
        map,
        filter: 'bilinear',
        width: view.width,
        fromRow: 0,
        toRow: view.height,
        background: 'transparent',
        outChannels: 4,
        draft: true,
      });
      // into memory of another draft, nothing of which stays
      for (const [source, fresh] of [
        [rgb, quick],
        [rgba, general],
      ] as const) {
        const used = new Uint8Array(view.width * view.height * 4).fill(99).buffer;
        const again = previewPixels(source, map, view, false, used);
        expect(again.buffer).toBe(used);
        expect(Buffer.from(again).equals(Buffer.from(fresh))).toBe(true);
      }
      expect(previewPixels(rgb, map, view, false, new ArrayBuffer(8)).length).toBe(quick.length);
      const at = new Float64Array(2);
      let [most, sum, filled] = [0, 0, 0];
      for (let k = 0; k < quick.length; k += 1) {
        sum += (quick[k]! - general[k]!) ** 2;
        if (k % 4 === 3 && quick[k] === 255) filled += 1;
        const pixel = k >> 2;
        map((pixel % view.width) + 0.5, Math.floor(pixel / view.width) + 0.5, at);
        // which side of the border a pixel falls on is the grid's
        const [x, y] = [at[0]!, at[1]!];
        if (Math.min(Math.abs(x), Math.abs(y), Math.abs(size.width - x), Math.abs(size.height - y)) < 0.02) continue;
        most = Math.max(most, Math.abs(quick[k]! - exact[k]!));
      }
      // a draft's positions may be off by a tenth of a px: on white noise that much of its steps
      expect(most).toBeLessThanOrEqual(16);
      // white noise shows what 8 px between exact positions cost the general way
      expect(Math.sqrt(sum / quick.length)).toBeLessThan(1.5);
      expect(filled).toBeGreaterThan(2000);
    }
  });

  it('are drawn of 8 bits and three colours, whatever the picture has: the nearest steps, grey in all three, alpha as it is', () => {
    const deep: Raster = {
      width: 2,
      height: 1,
      channels: 3,
      data: new Uint16Array([0, 257 * 9, 257 * 9 + 128, 257 * 9 + 129, 65535, 65400]),
    };
    expect([...forScreen(deep).data]).toEqual([0, 9, 9, 10, 255, 254]);
    const grey: Raster = { width: 2, height: 1, channels: 1, data: new Uint8Array([7, 200]) };
    expect(forScreen(grey)).toEqual({ ...grey, channels: 3, data: new Uint8Array([7, 7, 7, 200, 200, 200]) });
    const clear: Raster = { width: 1, height: 1, channels: 2, data: new Uint16Array([65535, 257]) };
    expect(forScreen(clear)).toEqual({ ...clear, channels: 4, data: new Uint8Array([255, 255, 255, 1]) });
    const plain: Raster = { width: 1, height: 1, channels: 4, data: new Uint8Array([1, 2, 3, 4]) };
    expect(forScreen(plain)).toBe(plain);
  });
});
