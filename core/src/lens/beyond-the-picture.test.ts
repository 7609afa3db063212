import { expect, it } from 'vitest';
import * as fc from 'fast-check';
import { lensOf, type LensModel } from '../index';

const SIZE = { width: 1200, height: 800 };
const within = (most: number) => fc.double({ min: -most, max: most, noNaN: true });

const brown = fc
  .record({ k1: within(0.25), k2: within(0.08), p1: within(0.004), p2: within(0.004), cx: within(80), cy: within(80) })
  .map(({ cx, cy, ...k }): LensModel => ({ kind: 'brown-conrady', fx: 900, fy: 905, cx: 600 + cx, cy: 400 + cy, k3: 0, ...k }));
const division = fc
  .record({ l1: within(0.2), l2: within(0.05), cx: within(80), cy: within(80) })
  .map(({ cx, cy, ...l }): LensModel => ({ kind: 'division', cx: 600 + cx, cy: 400 + cy, ...l }));
const radial = fc
  .record({ k1: within(0.2), k2: within(0.05), cx: within(80), cy: within(80) })
  .map(({ cx, cy, ...k }): LensModel => ({ kind: 'radial', cx: 600 + cx, cy: 400 + cy, ...k }));

it('beyond its picture a lens goes straight on: nothing of the picture lies there, and nothing jumps', () => {
  let tried = 0;
  fc.assert(
    fc.property(fc.oneof(brown, division, radial), within(Math.PI), (model, angle) => {
      let lens: ReturnType<typeof lensOf>;
      try {
        lens = lensOf(model, SIZE);
      } catch {
        // it folds within the picture
        return;
      }
      tried += 1;
      const [cx, cy] = lens.centre;
      const out = new Float64Array(2);
      let [left, back, missing, widest] = [false, false, false, 0];
      let before: readonly [number, number] = [cx, cy];
      for (let r = 8; r < 6000; r += 8) {
        missing ||= !lens.distort(cx + r * Math.cos(angle), cy + r * Math.sin(angle), out);
        const [x, y] = [out[0] as number, out[1] as number];
        const inside = x > 0 && y > 0 && x < SIZE.width && y < SIZE.height;
        back ||= inside && left;
        left ||= !inside;
        widest = Math.max(widest, Math.hypot(x - before[0], y - before[1]));
        before = [x, y];
      }
      // every place has an image; a ray that has left the picture does not come back, and does not jump
      expect({ missing, back }).toEqual({ missing: false, back: false });
      expect(widest).toBeLessThan(200);
      expect(left).toBe(true);
    }),
    { numRuns: 300, seed: 17 },
  );
  expect(tried).toBeGreaterThan(150);
});
