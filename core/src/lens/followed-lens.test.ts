import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { scatterOf } from '../../tools/deviation-cases';
import { dice } from '../../tools/random-scenes';
import { calibrateEdges, followEdge, halveRaster, lensOf, type LensModel, type Point, type Raster, type TracedEdge } from '../index';

const at = (name: string): URL => new URL(`../../../demo/job/${name}`, import.meta.url);

describe('the lens from followed edges', () => {
  it('of the engine hall, four to seven known edges pointed at to 2.5 px: the corner errs as it says, and fewer than a third say nothing (the lens that bent it)', async () => {
    const truth = JSON.parse(readFileSync(at('engine-hall.truth.json'), 'utf8')) as {
      width: number;
      height: number;
      lens: LensModel;
      edges: { a: Point; b: Point }[];
    };
    const { data, info } = await sharp(readFileSync(at('engine-hall.jpg')))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const levels: Raster[] = [{ width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }];
    while (levels.at(-1)!.width > 640) levels.push(halveRaster(levels.at(-1)!));
    const middle: Point = [truth.width / 2, truth.height / 2];
    const corner = new Float64Array(2);
    lensOf(truth.lens, truth).undistort(0, 0, corner);
    const truly = Math.hypot(...middle) - Math.hypot(corner[0]! - middle[0], corner[1]! - middle[1]);
    const d = dice(77);
    const pointed = ([x, y]: Point): Point => [x + 2.5 * d.normal(), y + 2.5 * d.normal()];
    const errors: number[] = [];
    let refused = 0;
    const draws = 200;
    for (let k = 0; k < draws; k += 1) {
      const count = 4 + Math.floor(4 * d.uniform());
      const chosen = truth.edges.map((edge) => ({ edge, by: d.uniform() })).sort((p, q) => p.by - q.by);
      const edges = chosen.slice(0, count).flatMap(({ edge }, i): TracedEdge[] => {
        const followed = followEdge(levels, pointed(edge.a), pointed(edge.b), 18);
        return followed ? [{ id: `e${i}`, points: followed.points.map((p) => [p[0], p[1]]), bowSd: followed.bowSdPx }] : [];
      });
      const { found } = calibrateEdges(edges, truth, middle);
      if (found) errors.push((found.cornerPx - truly) / found.cornerSdPx);
      else refused += 1;
    }
    const { rms, beyondTwo, most } = scatterOf(errors);
    expect(refused / draws).toBeLessThan(1 / 3);
    expect(rms).toBeGreaterThan(0.5);
    expect(beyondTwo).toBeLessThan(0.07);
    expect(most).toBeLessThan(4);
  });
});
