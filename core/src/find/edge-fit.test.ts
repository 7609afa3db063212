import { describe, expect, it } from 'vitest';
import { dice } from '../../tools/random-scenes';
import { blankRaster, distanceToSegment, fitEdges, halveRaster, LEAST_SHARE, slopeDeg, type Point, type Raster } from '../index';

/** Straight edges in a noisy picture, anti-aliased exactly; each a line through (x, y) of a slope, and the brightness below it. */
function edges(list: readonly { y: number; slopeDeg: number; below: number }[], bowPx = 0, width = 1600, height = 400): Raster[] {
  const raster = blankRaster(width, height, 1, 8);
  let noise = 7;
  for (let j = 0; j < height; j += 1) {
    for (let i = 0; i < width; i += 1) {
      let value = 70;
      let before = 70;
      for (const e of list) {
        const s = (e.slopeDeg * Math.PI) / 180;
        const u = (i + 0.5 - width / 2) / (width / 2);
        const below = (j + 0.5 - e.y - bowPx * (1 - u * u)) * Math.cos(s) + (i + 0.5 - width / 2) * Math.sin(s);
        const share = Math.min(1, Math.max(0, below + 0.5));
        value += (e.below - before) * share;
        before = e.below;
      }
      noise = (noise * 1103515245 + 12345) & 0x7fffffff;
      raster.data[j * width + i] = Math.round(value + ((noise >> 8) % 11) - 5);
    }
  }
  const levels = [raster];
  while (levels[levels.length - 1]!.width > 300) levels.push(halveRaster(levels[levels.length - 1]!));
  return levels;
}

describe('fitting a drawn line to a real edge', () => {
  it('lies on the edge to 0.1 px and 0.01 degrees from a line drawn 6 px off and tilted, noise or not', () => {
    const levels = edges([{ y: 200, slopeDeg: 1.48, below: 150 }]);
    const drawn: [Point, Point] = [
      [150, 200 + 650 * Math.tan((1.48 * Math.PI) / 180) - 6],
      [1450, 200 - 650 * Math.tan((1.48 * Math.PI) / 180) + 4],
    ];
    const [fit] = fitEdges(levels, ...drawn, 20);
    expect(Math.abs(slopeDeg(fit!.a, fit!.b) - 1.48)).toBeLessThan(0.01);
    const far = 5000 * Math.tan((1.48 * Math.PI) / 180);
    for (const end of [fit!.a, fit!.b]) expect(distanceToSegment(end, [800 - 5000, 200 + far], [800 + 5000, 200 - far])).toBeLessThan(0.1);
    expect(fit!.bowPx).toBeLessThan(0.3);
    // the ends stay where they were along the line
    expect(Math.abs(fit!.a[0] - drawn[0][0])).toBeLessThan(1);
  });

  it('offers nested edges in turn, says how much one bows, and finds nothing in noise', () => {
    const nested = edges([
      { y: 190, slopeDeg: 0.5, below: 140 },
      { y: 203, slopeDeg: 0.5, below: 215 },
    ]);
    const offers = fitEdges(nested, [200, 204], [1400, 194], 24).map((f) => f.a[1] + (f.b[1] - f.a[1]) / 2);
    expect(offers.some((y) => Math.abs(y - 190) < 0.3)).toBe(true);
    expect(offers.some((y) => Math.abs(y - 203) < 0.3)).toBe(true);
    const bowed = fitEdges(edges([{ y: 190, slopeDeg: 0, below: 160 }], 3), [20, 192], [1580, 192], 16)[0]!;
    // a parabola of 3 px leaves its best-fitting line by two thirds of that at the ends
    expect(bowed.bowPx).toBeGreaterThan(1.5);
    expect(bowed.bowPx).toBeLessThan(2.5);
    expect(fitEdges(edges([]), [200, 204], [1400, 194], 24)).toEqual([]);
  });

  it('says on how much of the line there is an edge, is less sure the shorter that is, and errs as it says', () => {
    const d = dice(31);
    const drawn = (hidden: number): { share: number; sdPx: number; error: number }[] =>
      Array.from({ length: 40 }, () => {
        const [width, height] = [1200, 120];
        const raster = blankRaster(width, height, 1, 8);
        const [y0, slope, from] = [60 + d.normal(), 0.01 * d.normal(), d.uniform() * (1 - hidden)];
        const at = (x: number): number => y0 + slope * (x - width / 2);
        for (let j = 0; j < height; j += 1)
          for (let i = 0; i < width; i += 1) {
            const u = (i + 0.5) / width;
            // leaves before a part of it: neither dark nor light
            const leaf = u > from && u < from + hidden;
            const value = leaf ? 110 + 40 * d.normal() : 80 + 60 * Math.min(1, Math.max(0, j + 1 - at(i + 0.5))) + 4 * d.normal();
            raster.data[j * width + i] = Math.max(0, Math.min(255, Math.round(value)));
          }
        const levels = [raster, halveRaster(raster), halveRaster(halveRaster(raster))];
        const fit = fitEdges(levels, [60, at(60) + 2 * d.normal()], [1140, at(1140) + 2 * d.normal()], 9)[0];
        if (!fit) return { share: 0, sdPx: 1, error: 0 };
        const off = fit.a[1] - at(fit.a[0]) - (fit.b[1] - at(fit.b[0]));
        return { share: fit.share, sdPx: fit.sdPx, error: off / Math.SQRT2 / fit.sdPx };
      });
    const mean = (values: readonly number[]): number => values.reduce((sum, v) => sum + v, 0) / values.length;
    const [clear, third] = [drawn(0), drawn(0.35)];
    expect(mean(clear.map((f) => f.share))).toBeGreaterThan(0.97);
    expect(Math.abs(mean(third.map((f) => f.share)) - 0.65)).toBeLessThan(0.08);
    expect(mean(third.map((f) => f.sdPx))).toBeGreaterThan(1.3 * mean(clear.map((f) => f.sdPx)));
    const settled = third.filter((f) => f.share >= LEAST_SHARE).map((f) => f.error);
    expect(Math.sqrt(mean(settled.map((e) => e * e)))).toBeLessThan(1.5);
    // mostly hidden: it says so
    expect(drawn(0.75).filter((f) => f.share >= LEAST_SHARE).length).toBeLessThan(5);
  });
});
