import { describe, expect, it } from 'vitest';
import { composeWarp, isClear, newCorrection, parseCorrection, withFoundCrop } from '../index';

const size = { width: 3600, height: 2400 };
/** Hollow sides by a strong lens, askew. */
const askew = (tilt: number) => {
  const opened = newCorrection({ name: 'askew', ...size, focal35: 24 });
  return parseCorrection({
    ...opened,
    stance: { ...opened.stance, adjust: { roll: 3, tilt, swing: 8 } },
    lens: { on: true, model: { kind: 'radial', cx: 1800, cy: 1200, k1: -0.08, k2: 0.02 } },
  });
};

describe('a composed warp', () => {
  it('has while it moves a trim that is clear too and nearly as large; the best is found anew at rest, and once', () => {
    for (const tilt of [-14, 4, 17]) {
      const correction = askew(tilt);
      const near = composeWarp(correction, size, 'near');
      const best = composeWarp(correction, size);
      expect(isClear(near.outline, near.crop, 0.05)).toBe(true);
      const share = (near.crop.width * near.crop.height) / (best.crop.width * best.crop.height);
      expect(share).toBeGreaterThan(0.95);
      expect(share).toBeLessThan(1 + 1e-6);
      expect(composeWarp(correction, size)).toBe(best);
      expect(composeWarp(correction, size, 'near')).toBe(best);
    }
  });

  it('is the same to the bit where the crop that was found is given', () => {
    const correction = askew(9);
    const warp = composeWarp(correction, size);
    const given = composeWarp(withFoundCrop(correction, warp), size);
    expect([given.crop, given.outputSize, given.pixelExact]).toEqual([warp.crop, warp.outputSize, warp.pixelExact]);
    for (const [x, y] of [
      [0.5, 0.5],
      [1700, 1100.25],
      [warp.outputSize.width - 0.5, warp.outputSize.height - 0.5],
    ] as const)
      expect(given.toPicture(x, y)).toEqual(warp.toPicture(x, y));
  });
});
