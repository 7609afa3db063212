import { describe, expect, it } from 'vitest';
import { distortionCurve, lensOf, televisionDistortion } from '../index';

const size = { width: 3600, height: 2400 };
const half = Math.hypot(1800, 1200);

describe('the amount of distortion', () => {
  it('is (r’ - r) / r at every image height, to the corner: for a radial lens its own polynomial (ISO 17850, from memory)', () => {
    const curve = distortionCurve(lensOf({ kind: 'radial', cx: 1800, cy: 1200, k1: -0.072, k2: 0.011 }, size), size);
    expect(curve.at(-1)!.height).toBeCloseTo(100, 9);
    for (const { height, percent } of curve) {
      // the ideal radius by plain iteration: r = r' / (1 + k1 r^2 + k2 r^4)
      let r = height / 100;
      for (let i = 0; i < 200; i += 1) r = height / 100 / (1 - 0.072 * r * r + 0.011 * r ** 4);
      expect(percent).toBeCloseTo(100 * (-0.072 * r * r + 0.011 * r ** 4), 6);
    }
    // a fisheye without further terms: (theta - tan theta) / tan theta
    const f = 1500;
    const fisheye = distortionCurve(lensOf({ kind: 'fisheye', fx: f, fy: f, cx: 1800, cy: 1200, k1: 0, k2: 0, k3: 0, k4: 0 }, size), size);
    for (const { height, percent } of fisheye) {
      const theta = ((height / 100) * half) / f;
      expect(percent).toBeCloseTo((100 * (theta - Math.tan(theta))) / Math.tan(theta), 6);
    }
  });

  it('of television is the bend of the line along the top, negative for barrel, and none without a lens', () => {
    const lens = lensOf({ kind: 'radial', cx: 1800, cy: 1200, k1: -0.05, k2: 0 }, size);
    // the straight line whose middle touches the top: its ideal height y, by plain iteration of y (1 + k1 y^2) = 1200 / half
    let y = 1200 / half;
    for (let i = 0; i < 200; i += 1) y = 1200 / half / (1 - 0.05 * y * y);
    // where that line comes to the picture's left side
    let x = 1800 / half;
    for (let i = 0; i < 500; i += 1) x = 1800 / half / (1 - 0.05 * (x * x + y * y));
    const drop = 1200 - y * (1 - 0.05 * (x * x + y * y)) * half;
    expect(televisionDistortion(lens, size)!).toBeCloseTo((-drop / 2400) * 100, 1);
    expect(televisionDistortion(lensOf({ kind: 'none' }, size), size)).toBe(-0);
  });
});
