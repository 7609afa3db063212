import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { blankRaster, bowOf, followEdge, halveRaster, lensOf, noLens, type LensModel, type Point, type Raster } from '../index';

const pyramid = (first: Raster): Raster[] => {
  const levels = [first];
  while (Math.max(levels.at(-1)!.width, levels.at(-1)!.height) > 640) levels.push(halveRaster(levels.at(-1)!));
  return levels;
};

describe('following an edge', () => {
  it('stays on a bent edge whose brightness alternates as where tiles meet, to 0.15 px, from ends 5 px off', () => {
    const size = { width: 1800, height: 1200 };
    const model: LensModel = { kind: 'division', cx: 900, cy: 600, l1: -0.1, l2: 0 };
    const lens = lensOf(model, size);
    const out = new Float64Array(2);
    const raster = blankRaster(size.width, size.height, 1, 8);
    // a chequered wall through the lens, four by four samples a pixel; the edge is the joint at ideal y = 200
    for (let j = 0; j < 450; j += 1)
      for (let i = 0; i < size.width; i += 1) {
        let sum = 0;
        for (let s = 0; s < 16; s += 1) {
          lens.undistort(i + ((s % 4) + 0.5) / 4, j + (Math.floor(s / 4) + 0.5) / 4, out);
          sum += (Math.floor(out[0]! / 150) + Math.floor(out[1]! / 200)) % 2 === 0 ? 170 : 110;
        }
        raster.data[j * size.width + i] = Math.round(sum / 16);
      }
    const seen = (x: number): Point => (lens.distort(x, 200, out), [out[0]!, out[1]!]);
    const [a, b] = [seen(120), seen(1680)];
    const edge = followEdge(pyramid(raster), [a[0], a[1] + 5], [b[0], b[1] - 5], 18)!;
    expect(bowOf(noLens(size), edge.points)!).toBeGreaterThan(8);
    for (const [x, y] of edge.points) {
      lens.undistort(x, y, out);
      expect(Math.abs(out[1]! - 200)).toBeLessThan(0.15);
    }
  });

  it('follows 15 of the engine hall’s 17 known edges to a pixel, and finds none in a plain wall (the scene that was rendered)', async () => {
    const at = (name: string): URL => new URL(`../../../demo/job/${name}`, import.meta.url);
    const truth = JSON.parse(readFileSync(at('engine-hall.truth.json'), 'utf8')) as {
      width: number;
      height: number;
      lens: LensModel;
      edges: { name: string; a: Point; b: Point }[];
    };
    const { data, info } = await sharp(readFileSync(at('engine-hall.jpg')))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const levels = pyramid({ width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) });
    const lens = lensOf(truth.lens, truth);
    const left = truth.edges.map(({ a, b }) => {
      const edge = followEdge(levels, a, b, 24);
      return edge ? bowOf(lens, edge.points)! : Infinity;
    });
    const good = left.filter((bow) => bow < 1).length;
    expect(good).toBeGreaterThanOrEqual(15);
    const plain = blankRaster(800, 600, 1, 8);
    plain.data.forEach((_, i) => (plain.data[i] = 120 + ((i * 7919) % 5)));
    expect(followEdge(pyramid(plain), [50, 100], [750, 140], 20)).toBeNull();
  });
});
