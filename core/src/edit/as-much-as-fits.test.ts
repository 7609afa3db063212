import { describe, expect, it } from 'vitest';
import {
  asMuchAsFits,
  composeWarp,
  correctionSchema,
  costOf,
  newCorrection,
  verticalLeanDeg,
  rectCentre,
  withCropRect,
  withMiddlePlumb,
  withStandingWishes,
  withStrength,
} from '../index';

const blank = newCorrection({ name: 'x', width: 3000, height: 2000, focal35: 24 });
const steep = correctionSchema.parse({ ...blank, stance: { tilt: 28, swing: 9, roll: 1 } });

describe('as much as fits', () => {
  it('takes out as much tilt and swing as the stretch, the kept share and a keep box bear: a little more would break one of them', () => {
    const bearable = { mostEnlargement: 1.8, leastKept: 0.5 };
    const share = asMuchAsFits(steep, bearable)!;
    expect(share).toBeGreaterThan(0.1);
    expect(share).toBeLessThan(1);
    const cost = (s: number) => {
      const c = withStrength(steep, 'tilt', s, true);
      const warp = composeWarp(c, c.picture);
      return costOf(warp, warp.crop);
    };
    const bears = (s: number): boolean => cost(s).peakEnlargement <= bearable.mostEnlargement && cost(s).kept >= bearable.leastKept;
    expect(bears(share)).toBe(true);
    expect(bears(share + 0.01)).toBe(false);
    // a keep box near the corner costs more still
    const boxed = { ...steep, crop: { ...steep.crop, keep: [{ id: 'k1', x: 60, y: 1500, width: 200, height: 300 }] } };
    expect(asMuchAsFits(boxed, bearable)!).toBeLessThan(share);
  });

  it('is all of it where it fits, and nothing where even the picture as taken does not', () => {
    expect(asMuchAsFits(steep, { mostEnlargement: 50, leastKept: 0.01 })).toBe(1);
    expect(asMuchAsFits(steep, { mostEnlargement: 0.5, leastKept: 0.5 })).toBeNull();
  });
});

describe('middle plumb', () => {
  const held = correctionSchema.parse({ ...steep, stance: { ...steep.stance, strength: { tilt: 0.3, swing: 0.2 } } });

  it('stands a crop that re-fits itself plumb in its own middle, to 0.001 degrees', () => {
    const plumb = withMiddlePlumb(held);
    const { crop } = composeWarp(plumb, plumb.picture);
    expect(Math.abs(verticalLeanDeg(plumb, composeWarp(plumb, plumb.picture), rectCentre(crop)))).toBeLessThan(0.001);
  });

  it('follows the crop when that is wished, and only then', () => {
    const plumb = withMiddlePlumb(held);
    const { crop } = composeWarp(plumb, plumb.picture);
    const aside = { x: crop.x, y: crop.y, width: crop.width * 0.4, height: crop.height * 0.5 };
    const moved = withStandingWishes(withCropRect(plumb, aside));
    expect(Math.abs(verticalLeanDeg(moved, composeWarp(moved, moved.picture), rectCentre(aside)))).toBeGreaterThan(0.5);
    const kept = withStandingWishes(withCropRect({ ...plumb, stance: { ...plumb.stance, keepMiddle: true } }, aside));
    const warp = composeWarp(kept, kept.picture);
    expect(Math.abs(verticalLeanDeg(kept, warp, rectCentre(warp.crop)))).toBeLessThan(0.001);
  });
});
