import { describe, expect, it } from 'vitest';
import { blankRaster, halveRaster, settleCorners, type Point, type Raster } from '../index';

/** A bright quadrilateral with rounded corners on a dark ground, anti-aliased, with noise; pyramid as the picture has it. */
function plate(corners: readonly Point[], roundPx: number): Raster[] {
  const [width, height] = [700, 500];
  const raster = blankRaster(width, height, 1, 8);
  const sides = corners.map((a, i) => {
    const b = corners[(i + 1) % 4]!;
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    return { a, normal: [-(b[1] - a[1]) / length, (b[0] - a[0]) / length] as const };
  });
  let noise = 11;
  for (let j = 0; j < height; j += 1) {
    for (let i = 0; i < width; i += 1) {
      // how far inside the nearest side, or inside the rounding where two sides are near: the share of the pixel that is covered
      let [largest, second] = [0, 0];
      for (const { a, normal } of sides) {
        const near = roundPx - (i + 0.5 - a[0]) * normal[0] - (j + 0.5 - a[1]) * normal[1];
        if (near > largest) [largest, second] = [near, largest];
        else if (near > second) second = near;
      }
      const covered = Math.min(1, Math.max(0, roundPx + 0.5 - Math.hypot(largest, second)));
      noise = (noise * 1103515245 + 12345) & 0x7fffffff;
      raster.data[j * width + i] = Math.round(60 + covered * 120 + ((noise >> 8) % 7) - 3);
    }
  }
  const levels = [raster];
  while (levels[levels.length - 1]!.width > 200) levels.push(halveRaster(levels[levels.length - 1]!));
  return levels;
}

const CORNERS: readonly Point[] = [
  [151.3, 102.8],
  [560.2, 61.7],
  [601.9, 420.4],
  [120.6, 377.1],
];
const OFF: readonly Point[] = [
  [9, -6],
  [-7, 8],
  [5, 10],
  [-11, -3],
];
const pointed = CORNERS.map((c, i): Point => [c[0] + OFF[i]![0], c[1] + OFF[i]![1]]);
const errors = (found: readonly Point[]): number[] => found.map((p, i) => Math.hypot(p[0] - CORNERS[i]![0], p[1] - CORNERS[i]![1]));

describe('settling corners', () => {
  it('finds them to a fifth of a pixel from clicks a dozen px off, in any order, rounded ones where their sides would meet', () => {
    for (const roundPx of [0.5, 14]) {
      const levels = plate(CORNERS, roundPx);
      for (const error of errors(settleCorners(levels, pointed, [0, 1, 2, 3], 24))) expect(error, String(roundPx)).toBeLessThan(0.2);
      const order = [2, 0, 3, 1];
      const shuffled = settleCorners(
        levels,
        order.map((i) => pointed[i]!),
        [0, 1, 2, 3],
        24,
      );
      for (const [k, i] of order.entries())
        expect(Math.hypot(shuffled[k]![0] - CORNERS[i]![0], shuffled[k]![1] - CORNERS[i]![1])).toBeLessThan(0.2);
    }
  });

  it('moves only the corners it was asked about, and none where there is nothing to settle on', () => {
    const levels = plate(CORNERS, 0.5);
    const one = settleCorners(levels, [CORNERS[0]!, CORNERS[1]!, pointed[2]!, CORNERS[3]!], [2], 24);
    expect(errors(one)[2]).toBeLessThan(0.2);
    expect([one[0], one[1], one[3]]).toEqual([CORNERS[0], CORNERS[1], CORNERS[3]]);
    const empty: readonly Point[] = [
      [220, 180],
      [330, 170],
      [340, 280],
      [230, 290],
    ];
    expect(settleCorners(levels, empty, [0, 1, 2, 3], 12)).toEqual(empty);
  });
});
