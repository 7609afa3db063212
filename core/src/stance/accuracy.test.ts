import { readFileSync } from 'node:fs';
import { levenbergMarquardt as reference } from 'ml-levenberg-marquardt';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  focalPxFrom35,
  newCorrection,
  readingsOf,
  solveStance,
  withReferences,
  type Correction,
  type Point,
} from '../index';

interface Truth {
  readonly width: number;
  readonly height: number;
  readonly focal35: number;
  readonly stance: { readonly roll: number; readonly tilt: number; readonly swing: number };
  readonly edges: readonly { readonly kind: 'plumb' | 'level' | 'return'; readonly a: Point; readonly b: Point }[];
}

const truthOf = (name: string): Truth =>
  JSON.parse(readFileSync(new URL(`../../../demo/job/${name}.truth.json`, import.meta.url), 'utf8')) as Truth;

/** Gaussian numbers from a fixed seed (Box, Muller). */
function gaussian(seed: number): () => number {
  let state = seed;
  const uniform = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state + 0.5) / 2 ** 32;
  };
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}

const NOISE_PX = 0.7;

function pointed(t: Truth, draw: () => number): Correction {
  const base = correctionSchema.parse(newCorrection({ name: 'x', width: t.width, height: t.height, focal35: t.focal35 }));
  const noisy = ([x, y]: Point): [number, number] => [x + NOISE_PX * draw(), y + NOISE_PX * draw()];
  return {
    ...base,
    references: t.edges.map((e, i) => ({ id: `r${i + 1}`, kind: e.kind, a: noisy(e.a), b: noisy(e.b), statedAngle: 0, used: true })),
  };
}

/**
 * The same problem for a general numeric library, written anew: the cosine of the angle between the plane that a line spans with the
 * lens and the direction the line has in reality, times the line's length over the focal length.
 */
function byLibrary(t: Truth, c: Correction): readonly number[] {
  const f = focalPxFrom35(t.focal35, t);
  const rad = Math.PI / 180;
  const normals = c.references.map(({ a, b }) => {
    const p = [a[0] - t.width / 2, a[1] - t.height / 2, f] as const;
    const q = [b[0] - t.width / 2, b[1] - t.height / 2, f] as const;
    const n = [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]] as const;
    // pointing moves the normal by about f over the line's length: dividing by f alone leaves every line its own weight in px
    return n.map((v) => v / f) as unknown as readonly [number, number, number];
  });
  const model = (params: number[]) => (i: number) => {
    const [roll, tilt, swing] = params.map((v) => v * rad) as [number, number, number];
    const [cr, sr, ct, st, cs, ss] = [Math.cos(roll), Math.sin(roll), Math.cos(tilt), Math.sin(tilt), Math.cos(swing), Math.sin(swing)];
    // columns of R = Ry Rx Rz transposed: where world x, y and z lie in the camera
    const axis = {
      level: [cs * cr + ss * st * sr, -cs * sr + ss * st * cr, ss * ct],
      plumb: [ct * sr, ct * cr, -st],
      return: [-ss * cr + cs * st * sr, ss * sr + cs * st * cr, cs * ct],
    } as const;
    const d = axis[c.references[i]!.kind as 'plumb'];
    const n = normals[i]!;
    const { a, b } = c.references[i]!;
    // distance of the ends from the line through their middle and the vanishing point, as the ratio of this product to the distance of that point
    const m = [(a[0] + b[0]) / 2 - t.width / 2, (a[1] + b[1]) / 2 - t.height / 2];
    const toVanishing = Math.hypot(d[0] * f - m[0]! * d[2], d[1] * f - m[1]! * d[2]);
    return ((n[0] * d[0] + n[1] * d[1] + n[2] * d[2]) * f) / (toVanishing * Math.SQRT2);
  };
  const x = c.references.map((_, i) => i);
  const result = reference({ x, y: x.map(() => 0) }, model, {
    initialValues: [0.1, 0.1, 0.1],
    damping: 1e-3,
    gradientDifference: 1e-5,
    centralDifference: true,
    maxIterations: 200,
    errorTolerance: 1e-14,
  });
  return result.parameterValues;
}

describe('with pointing noise', () => {
  for (const name of ['pump-hall-front', 'water-tower', 'filter-gallery', 'stair']) {
    it(`${name}: as good as a general least-squares library (ml-levenberg-marquardt), residuals at the noise, nothing off by more than six times it`, () => {
      const t = truthOf(name);
      const draw = gaussian(42);
      let [ours, theirs, squares, count] = [0, 0, 0, 0];
      for (let k = 0; k < 40; k += 1) {
        const c = pointed(t, draw);
        const solution = solveStance(c, c.picture)!;
        const library = byLibrary(t, c);
        (['roll', 'tilt', 'swing'] as const).forEach((movement, i) => {
          ours += (solution.attitude[movement] - t.stance[movement]) ** 2;
          theirs += (library[i]! - t.stance[movement]) ** 2;
        });
        solution.residualPx.forEach((r) => (squares += r * r));
        count += solution.residualPx.size;
        const solved = withReferences(c, c.references);
        const { references } = readingsOf(solved, composeWarp({ ...solved, crop: { ...solved.crop, edges: 'keep' } }, solved.picture));
        for (const r of references) expect(Math.abs(r.offDeg!)).toBeLessThan(((6 * NOISE_PX) / r.lengthPx) * (180 / Math.PI));
      }
      expect(Math.sqrt(ours / theirs)).toBeLessThan(1.2);
      expect(Math.sqrt(squares / count)).toBeLessThan(1.2 * NOISE_PX);
    });
  }

  it('names the one line that contradicts the others, and none when all agree', () => {
    const t = truthOf('pump-hall-front');
    const c = pointed(t, gaussian(3));
    const wrong = {
      id: 'wrong',
      kind: 'plumb' as const,
      a: [2000, 1000] as [number, number],
      b: [2200, 2500] as [number, number],
      statedAngle: 0,
      used: true,
    };
    const solution = solveStance({ ...c, references: [...c.references, wrong] }, c.picture)!;
    expect([...solution.disagreeing.keys()]).toEqual(['wrong']);
    expect(solveStance(c, c.picture)!.disagreeing.size).toBe(0);
  });

  it('is steady: moving an end of a long line by 10 px moves no angle by more than half a degree', () => {
    const t = truthOf('pump-hall-front');
    const c = pointed(t, gaussian(9));
    const before = solveStance(c, c.picture)!.attitude;
    for (const [index, reference] of c.references.entries()) {
      for (const [dx, dy] of [
        [10, 0],
        [0, 10],
        [-10, 0],
        [0, -10],
      ] as const) {
        const references = c.references.map((r, i) =>
          i === index ? { ...r, a: [reference.a[0] + dx, reference.a[1] + dy] as [number, number] } : r,
        );
        const after = solveStance({ ...c, references }, c.picture)!.attitude;
        for (const movement of ['roll', 'tilt', 'swing'] as const) expect(Math.abs(after[movement] - before[movement])).toBeLessThan(0.5);
      }
    }
  });
});
