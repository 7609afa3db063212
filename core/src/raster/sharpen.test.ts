import { createRequire } from 'node:module';
import { describe, expect, it } from 'vitest';
import { sharpened, type Raster } from '../index';

interface Mat {
  readonly data: Uint8Array;
  delete(): void;
}
interface OpenCv {
  readonly CV_8UC3: number;
  readonly BORDER_REPLICATE: number;
  matFromArray(rows: number, columns: number, type: number, data: Uint8Array): Mat;
  readonly Mat: new () => Mat;
  readonly Size: new (width: number, height: number) => object;
  GaussianBlur(from: Mat, to: Mat, size: object, sigmaX: number, sigmaY: number, border: number): void;
  addWeighted(a: Mat, alpha: number, b: Mat, beta: number, gamma: number, to: Mat): void;
}
const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv & { onRuntimeInitialized?: () => void };

describe('sharpening', () => {
  const [width, height] = [37, 23];
  const data = Uint8Array.from({ length: width * height * 3 }, (_, k) => ((k % 111) * (k % 7) * 3) % 256);
  const raster: Raster = { width, height, channels: 3, data };

  it('is what OpenCV makes of the same steps (GaussianBlur, addWeighted), within a step', async () => {
    if (!('Mat' in cv))
      await new Promise<void>((resolve) => ((cv as OpenCv & { onRuntimeInitialized?: () => void }).onRuntimeInitialized = resolve));
    for (const [kind, sigma, amount] of [
      ['screen', 0.6, 0.5],
      ['print', 1, 0.8],
    ] as const) {
      const source = cv.matFromArray(height, width, cv.CV_8UC3, data);
      const [blurred, out] = [new cv.Mat(), new cv.Mat()];
      const side = 2 * Math.ceil(3 * sigma) + 1;
      cv.GaussianBlur(source, blurred, new cv.Size(side, side), sigma, sigma, cv.BORDER_REPLICATE);
      cv.addWeighted(source, 1 + amount, blurred, -amount, 0, out);
      const ours = sharpened(raster, kind).data;
      out.data.forEach((v, k) => expect(Math.abs(v - ours[k]!), `${kind} ${k}`).toBeLessThanOrEqual(1));
      for (const mat of [source, blurred, out]) mat.delete();
    }
  });

  it('leaves flat parts and alpha as they are, at 16 bits too, and nothing at all where none is asked for', () => {
    expect(sharpened(raster, 'none')).toBe(raster);
    const flat: Raster = { width: 9, height: 9, channels: 4, data: new Uint16Array(9 * 9 * 4).fill(31_000) };
    expect(sharpened(flat, 'print').data).toEqual(flat.data);
    const clear = new Uint16Array(9 * 9 * 4).map((_, k) => (k % 4 === 3 ? (k * 97) % 65_536 : 500));
    expect(sharpened({ ...flat, data: clear }, 'screen').data).toEqual(clear);
  });
});
