import { describe, expect, it } from 'vitest';
import { composeWarp, newCorrection, forScreen, halveRaster, parseCorrection, previewPixels, resampleRows, type Raster } from '../index';

type Pixels = ReturnType<typeof previewPixels>;

describe('drafts', () => {
  it('are by the kernel within some steps of the plain version, with alpha too, and much the same the general way (16 bits), borders and empty edges too', () => {
    const size = { width: 321, height: 217 };
    const rgb: Raster = { ...size, channels: 3, data: new Uint8Array(size.width * size.height * 3) };
    const rgba: Raster = { ...size, channels: 4, data: new Uint8Array(size.width * size.height * 4) };
    const deep: Raster = { ...size, channels: 3, data: new Uint16Array(size.width * size.height * 3) };
    let noise = 3;
    for (let k = 0; k < size.width * size.height; k += 1) {
      for (let c = 0; c < 3; c += 1) {
        noise = (noise * 1103515245 + 12345) & 0x7fffffff;
        rgb.data[3 * k + c] = rgba.data[4 * k + c] = (noise >> 12) & 255;
        deep.data[3 * k + c] = 257 * rgb.data[3 * k + c]!;
      }
      // nothing, all, and what lies between
      rgba.data[4 * k + 3] = Math.min(255, Math.max(0, ((noise >> 9) & 511) - 128));
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
      const [quick, clear, general] = [rgb, rgba, deep].map((source) => previewPixels(source, map, view)) as [Pixels, Pixels, Pixels];
      const [exact, exactClear] = [rgb, rgba].map((source) =>
        resampleRows({
          source,
          map,
          filter: 'bilinear',
          width: view.width,
          fromRow: 0,
          toRow: view.height,
          background: 'transparent',
          outChannels: 4,
          draft: true,
        }),
      ) as [Uint8Array, Uint8Array];
      // into memory of another draft, nothing of which stays
      for (const [source, fresh] of [
        [rgb, quick],
        [rgba, clear],
        [deep, general],
      ] as const) {
        const used = new Uint8Array(view.width * view.height * 4).fill(99).buffer;
        const again = previewPixels(source, map, view, false, used);
        expect(again.buffer).toBe(used);
        expect(Buffer.from(again).equals(Buffer.from(fresh))).toBe(true);
      }
      expect(previewPixels(rgb, map, view, false, new ArrayBuffer(8)).length).toBe(quick.length);
      const at = new Float64Array(2);
      let [most, mostClear, sum, filled] = [0, 0, 0, 0];
      for (let k = 0; k < quick.length; k += 1) {
        sum += (quick[k]! - general[k]!) ** 2;
        if (k % 4 === 3 && quick[k] === 255) filled += 1;
        const pixel = k >> 2;
        map((pixel % view.width) + 0.5, Math.floor(pixel / view.width) + 0.5, at);
        // which side of the border a pixel falls on is the grid's
        const [x, y] = [at[0]!, at[1]!];
        if (Math.min(Math.abs(x), Math.abs(y), Math.abs(size.width - x), Math.abs(size.height - y)) < 0.02) continue;
        most = Math.max(most, Math.abs(quick[k]! - exact[k]!));
        // colours of faint pixels are coarse: what is seen of them counts
        const seen = (pixels: Pixels | Uint8Array): number => (k % 4 === 3 ? pixels[k]! : (pixels[k]! * pixels[k | 3]!) / 255);
        mostClear = Math.max(mostClear, Math.abs(seen(clear) - seen(exactClear)));
      }
      // a draft's positions may be off by a tenth of a px: on white noise that much of its steps
      expect(most).toBeLessThanOrEqual(16);
      expect(mostClear).toBeLessThanOrEqual(16);
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
    const every: Raster = { width: 65535, height: 1, channels: 3, data: Uint16Array.from({ length: 3 * 65535 }, (_, k) => k % 65536) };
    expect([...forScreen(every).data]).toEqual(Array.from(every.data, (v) => Math.round(v / 257)));
    const grey: Raster = { width: 2, height: 1, channels: 1, data: new Uint8Array([7, 200]) };
    expect(forScreen(grey)).toEqual({ ...grey, channels: 3, data: new Uint8Array([7, 7, 7, 200, 200, 200]) });
    const clear: Raster = { width: 1, height: 1, channels: 2, data: new Uint16Array([65535, 257]) };
    expect(forScreen(clear)).toEqual({ ...clear, channels: 4, data: new Uint8Array([255, 255, 255, 1]) });
    const plain: Raster = { width: 1, height: 1, channels: 4, data: new Uint8Array([1, 2, 3, 4]) };
    expect(forScreen(plain)).toBe(plain);
    // of a copy of half the size what is clear gives no colour
    const two: Raster = { width: 2, height: 1, channels: 4, data: new Uint8Array([200, 10, 0, 255, 9, 99, 90, 0]) };
    expect([...halveRaster(two).data]).toEqual([200, 10, 0, 128]);
  });
});
