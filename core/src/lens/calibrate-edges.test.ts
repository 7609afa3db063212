import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bowOf, calibrateEdges, lensOf, type LensModel, type Point, type TracedEdge } from '../index';

interface Truth {
  readonly width: number;
  readonly height: number;
  readonly lens: LensModel;
  readonly edges: readonly { readonly name: string; readonly a: Point; readonly b: Point }[];
}
const truth = JSON.parse(readFileSync(new URL('../../../demo/job/engine-hall.truth.json', import.meta.url), 'utf8')) as Truth;
const middle: Point = [truth.width / 2, truth.height / 2];

/** A straight thing as a lens shows it: beads between the images of its ends, with normal noise across and along, px. */
function bead(model: LensModel, size: { width: number; height: number }, a: Point, b: Point, count: number, noise: () => number): Point[] {
  const lens = lensOf(model, size);
  const out = new Float64Array(2);
  lens.undistort(a[0], a[1], out);
  const p: Point = [out[0]!, out[1]!];
  lens.undistort(b[0], b[1], out);
  const q: Point = [out[0]!, out[1]!];
  return Array.from({ length: count }, (_, i) => {
    const t = i / (count - 1);
    expect(lens.distort(p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t, out)).toBe(true);
    return [out[0]! + noise(), out[1]! + noise()];
  });
}

/** Normal deviates by the polar method, from a seed. */
function normal(seed: number, sd: number): () => number {
  let state = seed >>> 0;
  const uniform = (): number => ((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) + 0.5) / 2 ** 32;
  return () => sd * Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}

const edgesOf = (names: readonly number[], sd: number, seed: number): TracedEdge[] => {
  const noise = normal(seed, sd);
  return names.map((i, k) => {
    const { a, b } = truth.edges[i]!;
    return { id: `e${k}`, points: bead(truth.lens, truth, a, b, 9, noise).map((p) => [p[0], p[1]] as [number, number]) };
  });
};

/** The truth file's edges, the longest first. */
const long = truth.edges.map((e, i) => ({ i, length: Math.hypot(e.a[0] - e.b[0], e.a[1] - e.b[1]) })).sort((p, q) => q.length - p.length);

/** Whether r (1 + k1 r^2 + k2 r^4) grows until it passes the corner at 1. */
function growsToTheCorner(k1: number, k2: number): boolean {
  for (let r = 0; r < 3; r += 0.01) {
    if (1 + 3 * k1 * r * r + 5 * k2 * r ** 4 <= 0.02) return false;
    if (r * (1 + k1 * r * r + k2 * r ** 4) > 1.05) return true;
  }
  return false;
}

describe('the lens from traced edges', () => {
  it('is the engine hall’s with exact edges, and unseen edges come out straight to 0.5 px (the lens that bent it)', () => {
    const { found } = calibrateEdges(
      edgesOf(
        long.slice(0, 6).map((e) => e.i),
        0,
        1,
      ),
      truth,
      middle,
    );
    for (const { i } of long.slice(6)) {
      const points = bead(truth.lens, truth, truth.edges[i]!.a, truth.edges[i]!.b, 15, () => 0);
      expect(bowOf(lensOf(found!.model, truth), points)!, truth.edges[i]!.name).toBeLessThan(0.5);
    }
    expect(found!.reach).toBeGreaterThan(0.6);
  });

  it('with half a pixel of pointing on eight edges leaves unseen edges straight to 2.5 px, and says how sure the corner is', () => {
    const errors: number[] = [];
    for (let seed = 1; seed <= 40; seed += 1) {
      const seen = long.slice(0, 8).map((e) => e.i);
      const { found, why } = calibrateEdges(edgesOf(seen, 0.5, seed), truth, middle);
      expect(why).toBeNull();
      const lens = lensOf(found!.model, truth);
      for (const [i, { a, b, name }] of truth.edges.entries())
        if (!seen.includes(i))
          expect(
            bowOf(
              lens,
              bead(truth.lens, truth, a, b, 15, () => 0),
            )!,
            `${name}, seed ${seed}`,
          ).toBeLessThan(2.5);
      const out = new Float64Array(2);
      lensOf(truth.lens, truth).undistort(0, 0, out);
      const truly = Math.hypot(middle[0], middle[1]) - Math.hypot(out[0]! - middle[0], out[1]! - middle[1]);
      errors.push((found!.cornerPx - truly) / found!.cornerSdPx);
      expect(found!.sigmaPx).toBeGreaterThan(0.3);
      expect(found!.sigmaPx).toBeLessThan(0.8);
    }
    // what it claims of its own certainty holds: root mean square of the errors in their own deviations about 1
    const rms = Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / errors.length);
    expect(rms).toBeGreaterThan(0.5);
    expect(rms).toBeLessThan(2);
  });

  it('fits strong barrel by the division model and everything in the practical range to a pixel, from six edges', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.13, max: 0.12, noNaN: true }), fc.double({ min: -0.02, max: 0.03, noNaN: true }), (k1, k2) => {
        const size = { width: 3000, height: 2000 };
        const model: LensModel = { kind: 'radial', cx: 1500, cy: 1000, k1, k2 };
        // practical lenses bend something, and do not fold
        fc.pre(Math.abs(k1) >= 0.01 && growsToTheCorner(k1, k2));
        const ends: readonly (readonly [Point, Point])[] = [
          [
            [100, 150],
            [2900, 120],
          ],
          [
            [100, 1900],
            [2900, 1870],
          ],
          [
            [140, 100],
            [160, 1900],
          ],
          [
            [2850, 100],
            [2880, 1900],
          ],
          [
            [300, 500],
            [2700, 480],
          ],
          [
            [700, 60],
            [720, 1950],
          ],
        ];
        const edges = ends.map(([a, b], k) => ({
          id: `e${k}`,
          points: bead(model, size, a, b, 12, () => 0).map((p) => [...p] as [number, number]),
        }));
        const { found } = calibrateEdges(edges, size, [1500, 1000]);
        for (const e of edges) expect(bowOf(lensOf(found!.model, size), e.points)!).toBeLessThan(0.1);
        expect(found!.model.kind).toBe('radial');
      }),
      { numRuns: 60 },
    );
    // a lens that is the division model's own
    const size = { width: 3000, height: 2000 };
    const strong: LensModel = { kind: 'division', cx: 1500, cy: 1000, l1: -0.3, l2: 0 };
    const edges = [
      [
        [200, 200],
        [2800, 230],
      ] as const,
      [
        [180, 1800],
        [2800, 1780],
      ] as const,
      [
        [150, 200],
        [180, 1800],
      ] as const,
      [
        [2800, 150],
        [2830, 1800],
      ] as const,
    ].map(([a, b], k) => ({ id: `e${k}`, points: bead(strong, size, a, b, 12, () => 0).map((p) => [...p] as [number, number]) }));
    const { found } = calibrateEdges(edges, size, [1500, 1000]);
    expect(found!.model.kind).toBe('division');
    expect((found!.model as { l1: number }).l1).toBeCloseTo(-0.3, 4);
  });

  it('finds the centre with eight edges when it lies off the middle, and leaves it there with fewer', () => {
    const size = { width: 3600, height: 2400 };
    const off: LensModel = { kind: 'radial', cx: 1818, cy: 1190, k1: -0.12, k2: 0.01 };
    const ends: readonly (readonly [Point, Point])[] = [
      [
        [80, 120],
        [3500, 150],
      ],
      [
        [90, 2250],
        [3500, 2300],
      ],
      [
        [120, 90],
        [100, 2300],
      ],
      [
        [3480, 90],
        [3450, 2300],
      ],
      [
        [400, 600],
        [3200, 560],
      ],
      [
        [400, 1900],
        [3200, 1930],
      ],
      [
        [800, 80],
        [820, 2320],
      ],
      [
        [2800, 80],
        [2790, 2320],
      ],
    ];
    const edges = ends.map(([a, b], k) => ({
      id: `e${k}`,
      points: bead(off, size, a, b, 20, normal(k + 3, 0.2)).map((p) => [...p] as [number, number]),
    }));
    const all = calibrateEdges(edges, size, [1800, 1200]).found!;
    expect(all.centred).toBe(true);
    expect(Math.abs(all.model.cx - 1818)).toBeLessThan(6);
    expect(Math.abs(all.model.cy - 1190)).toBeLessThan(6);
    expect(calibrateEdges(edges.slice(0, 7), size, [1800, 1200]).found!.centred).toBe(false);
  });

  it('says why edges tell nothing: through the middle, too short, too few beads, straight already, bent in reality', () => {
    const size = { width: 3600, height: 2400 };
    const lens: LensModel = { kind: 'radial', cx: 1800, cy: 1200, k1: -0.08, k2: 0 };
    const traced = (ends: readonly (readonly [Point, Point])[], model = lens, sd = 0.5): TracedEdge[] =>
      ends.map(([a, b], k) => ({
        id: `e${k}`,
        points: bead(model, size, a, b, 9, normal(k + 9, sd)).map((p) => [...p] as [number, number]),
      }));
    const why = (edges: readonly TracedEdge[]): string | null => calibrateEdges(edges, size, [1800, 1200]).why;
    expect(
      why(
        traced([
          [
            [100, 1200],
            [3500, 1200],
          ],
          [
            [1800, 100],
            [1800, 2300],
          ],
        ]),
      ),
    ).toMatch(/too little|straight already/);
    expect(
      why(
        traced([
          [
            [1500, 1000],
            [1700, 1010],
          ],
          [
            [1900, 1300],
            [1920, 1500],
          ],
        ]),
      ),
    ).toMatch(/too little/);
    expect(
      why([
        {
          id: 'e1',
          points: [
            [1, 1],
            [500, 3],
          ],
        },
      ]),
    ).toMatch(/Trace an edge/);
    expect(why([])).toMatch(/Trace an edge/);
    const none: LensModel = { kind: 'radial', cx: 1800, cy: 1200, k1: 0, k2: 0 };
    expect(
      why(
        traced(
          [
            [
              [100, 150],
              [3500, 170],
            ],
            [
              [100, 2250],
              [3500, 2240],
            ],
            [
              [150, 100],
              [160, 2300],
            ],
          ],
          none,
        ),
      ),
    ).toMatch(/straight already/);
  });
});
