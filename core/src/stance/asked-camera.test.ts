import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  focalPxFrom35,
  newCorrection,
  readingsOf,
  rotationFromAttitude,
  solveCorrection,
  solveStance,
  withReferences,
  type Attitude,
  type Correction,
  type Point,
  type Reference,
  type ReferenceKind,
} from '../index';

interface Truth {
  readonly width: number;
  readonly height: number;
  readonly focal35: number;
  readonly lens: { readonly kind: string };
  readonly stance: Attitude;
  readonly edges: readonly { readonly name: string; readonly kind: ReferenceKind; readonly a: Point; readonly b: Point }[];
}
const truthOf = (name: string): Truth =>
  JSON.parse(readFileSync(new URL(`../../../demo/job/${name}.truth.json`, import.meta.url), 'utf8')) as Truth;

const reference = (id: string, kind: ReferenceKind, a: Point, b: Point): Reference => ({
  id,
  kind,
  a: [a[0], a[1]],
  b: [b[0], b[1]],
  statedAngle: 0,
  used: true,
});

/** A picture whose metadata say nothing of the focal length, with edges of its truth file as references. */
function unknownLens(t: Truth, kinds: readonly ReferenceKind[]): Correction {
  return correctionSchema.parse({
    ...newCorrection({ name: 'x', width: t.width, height: t.height, focal35: null }),
    lens: { model: t.lens },
    references: t.edges.filter((e) => kinds.includes(e.kind)).map((e, i) => reference(`r${i + 1}`, e.kind, e.a, e.b)),
  });
}

/** Three families of edges in space as a camera with a given attitude, focal length and optical centre sees them. */
function threeDirections(attitude: Attitude, f: number, [cx, cy]: Point): Reference[] {
  const r = rotationFromAttitude(attitude);
  const see = (w: readonly [number, number, number]): Point => {
    const [x, y, z] = [0, 1, 2].map((k) => r[k]! * w[0] + r[3 + k]! * w[1] + r[6 + k]! * w[2]) as [number, number, number];
    return [(f * x) / z + cx, (f * y) / z + cy];
  };
  const line = (id: string, kind: ReferenceKind, p: [number, number, number], q: [number, number, number]): Reference =>
    reference(id, kind, see(p), see(q));
  return [
    line('p1', 'plumb', [-2, -1.5, 5], [-2, 1.5, 5]),
    line('p2', 'plumb', [2.2, -1.2, 6], [2.2, 1.4, 6]),
    line('l1', 'level', [-2, -1.4, 5], [2.2, -1.4, 5]),
    line('l2', 'level', [-2, 1.5, 5.5], [2, 1.5, 5.5]),
    line('b1', 'return', [-2.2, -1.4, 4], [-2.2, -1.4, 8]),
    line('b2', 'return', [2.4, 1.5, 4], [2.4, 1.5, 9]),
    line('b3', 'return', [2.4, -1.4, 4], [2.4, -1.4, 9]),
  ];
}

describe('focal length from references', () => {
  it('is found to 0.1 % with exact edges where the metadata are silent, and the stance with it (the cameras that rendered them)', () => {
    for (const [name, kinds] of [
      ['pump-hall-front', ['plumb', 'level']],
      ['water-tower', ['plumb', 'level']],
      ['stair', ['plumb', 'level']],
    ] as const) {
      const t = truthOf(name);
      const c = unknownLens(t, kinds);
      const { correction, solution } = solveCorrection(c, c.picture);
      expect(correction.camera.focalFrom, name).toBe('references');
      expect(Math.abs(correction.camera.focalPx! / focalPxFrom35(t.focal35, t) - 1), name).toBeLessThan(0.001);
      for (const movement of ['roll', 'tilt', 'swing'] as const)
        expect(Math.abs(solution!.attitude[movement] - t.stance[movement]), `${name} ${movement}`).toBeLessThan(0.01);
    }
  });

  it('is left as it was, with the reason, where the lines cannot tell, and never touched where the metadata know', () => {
    const t = truthOf('pump-hall-front');
    const plumbOnly = unknownLens(t, ['plumb']);
    const solved = solveCorrection(plumbOnly, plumbOnly.picture);
    expect(solved.correction.camera).toEqual(plumbOnly.camera);
    expect(solved.focal).toMatchObject({ found: null, why: expect.stringContaining('two lines of one kind and two of another') as string });
    // square-on, nothing converges: any focal length fits
    const flatOn = { ...plumbOnly, references: threeDirections({ roll: 0.4, tilt: 0.3, swing: 0.2 }, 4000, [3000, 2000]).slice(0, 4) };
    expect(solveCorrection(flatOn, flatOn.picture).focal).toMatchObject({
      found: null,
      why: expect.stringContaining('converge too little') as string,
    });
    const known = { ...unknownLens(t, ['plumb', 'level']), camera: { ...plumbOnly.camera, focalFrom: 'metadata' as const } };
    expect(solveCorrection(known, known.picture).correction.camera).toEqual(known.camera);
    expect(solveStance(known, known.picture)!.focal).toBeNull();
  });

  it('solving again changes nothing', () => {
    const c = unknownLens(truthOf('water-tower'), ['plumb', 'level']);
    const once = solveCorrection(c, c.picture).correction;
    const twice = solveCorrection(once, once.picture).correction;
    expect(twice.camera.focalPx! / once.camera.focalPx! - 1).toBeCloseTo(0, 6);
    for (const movement of ['roll', 'tilt', 'swing'] as const) expect(twice.stance[movement]).toBeCloseTo(once.stance[movement], 4);
  });
});

describe('optical centre from three directions', () => {
  it('is found where an earlier crop moved it off the middle (synthetic camera)', () => {
    const attitude = { roll: 1.5, tilt: 14, swing: 24 };
    const centre: Point = [2600, 2350];
    const c = correctionSchema.parse({
      ...newCorrection({ name: 'x', width: 6000, height: 4000, focal35: null }),
      references: threeDirections(attitude, 4100, centre),
      camera: { focalFrom: 'references', centreFrom: 'references' },
    });
    const { correction, solution } = solveCorrection(c, c.picture);
    expect(Math.hypot(correction.camera.centre![0] - centre[0], correction.camera.centre![1] - centre[1])).toBeLessThan(1);
    expect(correction.camera.focalPx! / 4100).toBeCloseTo(1, 3);
    for (const movement of ['roll', 'tilt', 'swing'] as const) expect(solution!.attitude[movement]).toBeCloseTo(attitude[movement], 2);
    // two directions do not tell
    const two = { ...c, references: c.references.filter((r) => r.kind !== 'return') };
    expect(solveStance(two, two.picture)!.centre).toMatchObject({ found: null });
  });
});

describe('turn only', () => {
  it('levels the vertical in the middle and leaves the convergence, as the lines on both sides tell it (common practice, no published source)', () => {
    const t = truthOf('pump-hall-front');
    const c = unknownLens(t, ['plumb']);
    const camera = { ...c.camera, focalPx: focalPxFrom35(t.focal35, t), focalFrom: 'metadata' as const };
    // three of the six lines lie left: their mean angle would level a vertical that is not the middle one
    const left = c.references.filter((_, i) => [0, 1, 4, 3].includes(i));
    const turned = withReferences({ ...c, camera, stance: { ...c.stance, may: 'turn-only' } }, left);
    expect([turned.stance.tilt, turned.stance.swing]).toEqual([0, 0]);
    const warp = composeWarp(turned, turned.picture);
    const readings = readingsOf(turned, warp);
    expect(Math.abs(readings.heldBackDeg)).toBeLessThan(0.01);
    // what is left standing on purpose is no error of the lines
    for (const r of readings.references) expect(Math.abs(r.offDeg!)).toBeLessThan(0.01);
    const leans = readings.references.map((r) => r.afterDeg!);
    expect(Math.max(...leans) - Math.min(...leans)).toBeGreaterThan(5);
  });
});

describe('whatever is drawn', () => {
  it('never throws and stays finite: random lines, kinds, fronts and wishes', () => {
    const point = fc.tuple(fc.double({ min: 0, max: 3000, noNaN: true }), fc.double({ min: 0, max: 2000, noNaN: true }));
    const line = fc.record({ kind: fc.constantFrom<ReferenceKind>('plumb', 'level', 'return', 'eye'), a: point, b: point });
    fc.assert(
      fc.property(
        fc.array(line, { minLength: 1, maxLength: 7 }),
        fc.constantFrom('wall', 'floor', 'ceiling', 'sheet'),
        fc.constantFrom('turn-only', 'stand-plumb', 'square-on'),
        (lines, front, may) => {
          const c = correctionSchema.parse({
            ...newCorrection({ name: 'x', width: 3000, height: 2000, focal35: null }),
            stance: { front, may },
            references: lines.map((l, i) => ({ id: `r${i}`, ...l })),
          });
          const { stance, camera } = solveCorrection(c, c.picture).correction;
          for (const value of [stance.roll, stance.tilt, stance.swing, camera.focalPx ?? 1]) expect(Number.isFinite(value)).toBe(true);
        },
      ),
      { numRuns: 120, seed: 21 },
    );
  });
});
