import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  cutPointedAt,
  isClear,
  newCorrection,
  parseCorrection,
  trimChoices,
  withFoundCrop,
  type Correction,
  type Point,
} from '../index';

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
      // its outline has fewer points
      expect(isClear(best.outline, near.crop, 1)).toBe(true);
      expect(near.outline.length).toBeLessThan(best.outline.length / 2);
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

describe('an untouched picture', () => {
  it('is exported pixel for pixel, however long and thin', () => {
    for (const [width, height] of [
      [12_000, 2_000],
      [9_000, 1_500],
      [7_000, 1_001],
      [1_001, 7_000],
      [32_767, 100],
      [4_001, 3],
    ] as const)
      for (const quarterTurns of [0, 1] as const) {
        const opened = newCorrection({ name: 'panorama', width, height, focal35: 28 });
        const warp = composeWarp({ ...opened, stance: { ...opened.stance, quarterTurns } }, { width, height });
        const [w, h] = quarterTurns === 0 ? [width, height] : [height, width];
        expect([warp.outputSize, warp.pixelExact], `${width} x ${height}`).toEqual([{ width: w, height: h }, true]);
      }
  });
});

describe('the crop that is found by itself', () => {
  const opened = newCorrection({ name: 'hall', ...size, focal35: 24 });
  const leaning = (a: Point, b: Point, around: 'lines' | 'picture' = 'lines') =>
    parseCorrection({
      ...opened,
      references: [{ id: 'r1', kind: 'plumb', a, b }],
      stance: { ...opened.stance, adjust: { roll: 6, tilt: 0, swing: 0 } },
      crop: { around },
    });
  const plain = composeWarp(leaning([1800, 1000], [1800, 1400]), size);

  it('holds what was pointed at where that can be, at the price of size; what it holds anyway changes nothing', () => {
    // near the left side: the largest crops of a rolled picture leave that out, but for one, or all of them
    const aside = leaning([160, 900], [170, 1020]);
    expect(cutPointedAt(aside, plain, plain.crop)).toEqual(['r1']);
    expect(composeWarp(aside, size).crop.width).toBeCloseTo(plain.crop.width, 3);
    expect(cutPointedAt(aside, composeWarp(aside, size), composeWarp(aside, size).crop)).toEqual([]);
    const correction = leaning([100, 1300], [110, 1420]);
    expect(cutPointedAt(correction, plain, plain.crop)).toEqual(['r1']);
    const warp = composeWarp(correction, size);
    expect(cutPointedAt(correction, warp, warp.crop)).toEqual([]);
    expect(isClear(warp.outline, warp.crop, 0.05)).toBe(true);
    expect(warp.crop.width / warp.crop.height).toBeCloseTo(1.5, 6);
    expect(warp.crop.width).toBeLessThan(plain.crop.width);
    // around the picture it is the largest, whatever was pointed at
    expect(composeWarp(leaning([100, 1300], [110, 1420], 'picture'), size).crop).toEqual(plain.crop);
  });

  it('is offered beside the largest where the two differ, and once where they do not', () => {
    const offered = (correction: Correction): string[] =>
      trimChoices(correction, composeWarp(correction, size)).flatMap((c) =>
        c.edges === 'clear' && c.around !== 'frame' ? [c.around] : [],
      );
    expect(offered(leaning([100, 1300], [110, 1420]))).toEqual(['lines', 'picture']);
    expect(offered(leaning([1800, 1000], [1800, 1400]))).toEqual(['lines']);
    expect(offered(leaning([1800, 1000], [1800, 1400], 'picture'))).toEqual(['picture']);
    expect(offered({ ...opened, crop: { ...opened.crop, around: 'lines' } })).toEqual(['picture']);
  });

  it('is the largest clear one where it cannot hold it, and tells what it cuts', () => {
    const correction = leaning([20, 40], [30, 2300]);
    const warp = composeWarp(correction, size);
    expect(warp.crop).toEqual(plain.crop);
    expect(cutPointedAt(correction, warp, warp.crop)).toEqual(['r1']);
  });
});
