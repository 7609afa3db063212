import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  appliedTo,
  bendsOf,
  composeWarp,
  correctionSchema,
  enlargementAt,
  leanDeg,
  newCorrection,
  planeWarp,
  ringReading,
  solveCorrection,
  toPlane,
  waysToEase,
  withEdgeTowards,
  withProjectionEase,
  withQuarterTurn,
  withRing,
  withRoom,
  type Correction,
  type Point,
} from '../index';
import { FLATNESS_PX, NEAR_FLATNESS_PX } from '../warp/outline';
import { edgeCourse } from './edge-easing';
import { projectionEasing } from './projection-easing';

interface HallTruth {
  readonly focal35: number;
  readonly lens: object;
  readonly edges: readonly { readonly name: string; readonly kind: 'plumb' | 'level' | 'return'; readonly a: Point; readonly b: Point }[];
  readonly heads: readonly { readonly outline: readonly Point[]; readonly proportion: number }[];
}
const hall = JSON.parse(readFileSync(new URL('../../../demo/job/engine-hall.truth.json', import.meta.url), 'utf8')) as HallTruth;
const hallSize = { width: 3600, height: 2400 };
const size = { width: 3000, height: 2000 };
const blank = newCorrection({ name: 'x', ...size, focal35: 20 });

const real = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
const eases = fc.record({
  projection: real(0, 1),
  edges: fc.array(
    fc.record({
      id: fc.constant('ease1'),
      side: fc.constantFrom('left', 'right', 'top', 'bottom'),
      at: fc.tuple(real(400, 2600), real(300, 1700)),
      amount: real(0, 0.8),
      reach: real(40, 900),
      room: fc.option(fc.record({ width: real(200, 900), frame: real(-1200, 1200) }), { nil: null }),
    }),
    { maxLength: 3 },
  ),
});
const easedCorrections = fc
  .record({ ease: eases, tilt: real(-15, 15), swing: real(-15, 15), roll: real(-5, 5), aspect: real(0.8, 1.25), bent: fc.boolean() })
  .map(({ ease, bent, ...stance }) =>
    correctionSchema.parse({
      ...blank,
      stance,
      ease,
      lens: { model: bent ? { kind: 'radial', cx: 1500, cy: 1000, k1: -0.08, k2: 0.01 } : { kind: 'none' } },
      crop: { edges: 'keep' },
    }),
  );

describe('easing', () => {
  it('of the projection is its definition by the two angles of a ray, and at 1 the width of a stereographic projection', () => {
    const out = new Float64Array(2);
    fc.assert(
      fc.property(real(0, 1), real(-1.3, 1.3), real(-0.9, 0.9), (d, phi, theta) => {
        const map = projectionEasing(d, { axis: [100, 50], linear: [2000, 150, 0, 1800] });
        const onPlane = (x: number, y: number): Point => [100 + 2000 * x + 150 * y, 50 + 1800 * y];
        const flat = onPlane(Math.tan(phi), Math.tan(theta) / Math.cos(phi));
        const s = (d + 1) / (d + Math.cos(phi));
        const expected = onPlane(s * Math.sin(phi), s * Math.tan(theta));
        expect(map.forward(...flat, out)).toBe(true);
        expect(Math.hypot(out[0]! - expected[0], out[1]! - expected[1])).toBeLessThan(1e-6);
        expect(map.back(...expected, out)).toBe(true);
        expect(Math.hypot(out[0]! - flat[0], out[1]! - flat[1])).toBeLessThan(1e-5);
      }),
      { numRuns: 300, seed: 3 },
    );
    // Snyder 1987, Map projections, a working manual, chapter 21: the stereographic radius at an angle c is 2 tan(c / 2) (from memory)
    projectionEasing(1, { axis: [0, 0], linear: [1, 0, 0, 1] }).forward(Math.tan(0.9), 0, out);
    expect(out[0]).toBeCloseTo(2 * Math.tan(0.45), 12);
  });

  it('of an edge narrows to 1 - amount beyond its reach, inverts, and leaves the frame where it is when a neighbour gives the room', () => {
    fc.assert(
      fc.property(real(0, 0.8), real(10, 500), real(50, 900), real(100, 1500), real(-2000, 2000), (amount, reach, width, frame, u) => {
        const plain = edgeCourse(amount, reach, null);
        expect(plain.forward(-u * u)).toBe(-u * u);
        expect((plain.forward(reach + 300) - plain.forward(reach + 100)) / 200).toBeCloseTo(1 - amount, 9);
        const roomy = edgeCourse(amount, reach, { width, frame });
        expect(roomy.forward(frame)).toBeCloseTo(frame, 8);
        expect(roomy.forward(-width - 5)).toBe(-width - 5);
        for (const course of [plain, roomy]) {
          expect(course.back(course.forward(u))).toBeCloseTo(u, 6);
          // grows without a fold or a kink; the steepest is what it says
          const h = 1e-3;
          const slope = (course.forward(u + h) - course.forward(u - h)) / (2 * h);
          expect(slope).toBeGreaterThanOrEqual(1 - amount - 1e-6);
          expect(slope).toBeLessThanOrEqual(course.widest + 1e-6);
        }
      }),
      { numRuns: 300, seed: 4 },
    );
  });

  it('maps there and back, and its outline lies on the picture’s border', () => {
    fc.assert(
      fc.property(easedCorrections, (correction) => {
        const warp = composeWarp(correction, size);
        for (let i = 0; i < 40; i += 1) {
          const p: Point = [((i * 733) % 2999) + 0.5, ((i * 1237) % 1999) + 0.5];
          const q = warp.toOutput(...p);
          const back = q && warp.toPicture(...q);
          if (back) expect(Math.hypot(back[0] - p[0], back[1] - p[1])).toBeLessThan(1e-3);
        }
        const { outline } = warp;
        const near = planeWarp(correction, size, NEAR_FLATNESS_PX).outline;
        const off = (p: Point, border: readonly Point[]): number =>
          Math.min(...border.map((a, j) => distanceTo(p, a, border[(j + 1) % border.length]!)));
        for (let i = 0; i < 60; i += 1) {
          const along = i / 60;
          const p = toPlane(warp, i % 2 ? [size.width * along, 0] : [size.width, size.height * along]);
          if (!p) continue;
          // the border is followed before the stance enlarges it
          const enlarged = Math.max(1, enlargementAt(warp, ...p)?.[0] ?? 1);
          expect(off(p, outline)).toBeLessThan(2 * FLATNESS_PX * enlarged);
          expect(off(p, near)).toBeLessThan(2 * NEAR_FLATNESS_PX * enlarged);
        }
      }),
      { numRuns: 60, seed: 5 },
    );
  });

  it('turns along by quarters and scales along with a smaller copy of the picture', () => {
    const correction = correctionSchema.parse({
      ...blank,
      ease: {
        edges: [{ id: 'ease1', side: 'right', at: [2300, 900], amount: 0.3, reach: 200, room: { width: 400, frame: 1450 } }],
        shims: [
          {
            id: 's',
            at: [2200, 1100],
            width: 500,
            height: 400,
            holds: [{ id: 'h', from: [20, 10], to: [40, -10] }],
            lines: [
              {
                id: 'l',
                kind: 'level',
                points: [
                  [2150, 1100],
                  [2250, 1110],
                ],
              },
            ],
          },
        ],
      },
      crop: { edges: 'keep' },
    });
    const before = planeWarp(correction, size);
    for (const turns of [1, 2, 3]) {
      const turned = planeWarp(withQuarterTurn(correction, turns), size);
      for (const p of [
        [2900, 300],
        [2250, 1200],
        [400, 1900],
      ] as const) {
        let [x, y] = toPlane(before, p)!;
        for (let i = 0; i < turns; i += 1) [x, y] = [-y, x];
        const q = toPlane(turned, p)!;
        expect(Math.hypot(q[0] - x, q[1] - y)).toBeLessThan(1e-6);
      }
    }
    const half = appliedTo(correction, { name: 'half', width: 1500, height: 1000 }).correction;
    for (const [x, y] of [
      [2900, 300],
      [2220, 1104],
    ] as const) {
      const [p, q] = [toPlane(before, [x, y])!, toPlane(planeWarp(half, half.picture), [x / 2, y / 2])!];
      expect(Math.hypot(p[0] / 2 - q[0], p[1] / 2 - q[1])).toBeLessThan(1e-5);
    }
  });
});

const distanceTo = (p: Point, a: Point, b: Point): number => {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const t = Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(p[0] - a[0] - dx * t, p[1] - a[1] - dy * t);
};

/** The engine hall straightened by its true lens and solved from its edges, a ring laid over the engineman's head. */
function ringed(): { readonly correction: Correction; readonly id: string } {
  const references = hall.edges.map(({ kind, a, b }, i) => ({ id: `r${i + 1}`, kind, a, b }));
  const asked = correctionSchema.parse({
    ...newCorrection({ name: 'hall', ...hallSize, focal35: hall.focal35 }),
    lens: { model: hall.lens, from: 'profile' },
    references,
    stance: { from: 'references' },
  });
  const solved = solveCorrection(asked, hallSize).correction;
  const warp = composeWarp(solved, hallSize);
  const [x0, x1, y0, y1] = extent(hall.heads[0]!.outline.map((p) => toPlane(warp, p)!));
  const correction = withRing(solved, warp, { x: x0, y: y0, width: x1 - x0, height: y1 - y0 }, 'head');
  return { correction, id: correction.ease.rings[0]!.id };
}

const extent = (points: readonly Point[]): readonly [number, number, number, number] => {
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
};

describe('the figure at the edge of the engine hall (the scene that was rendered)', () => {
  const { correction, id } = ringed();
  const shownProportion = (c: Correction): number => {
    const [x0, x1, y0, y1] = extent(hall.heads[0]!.outline.map((p) => toPlane(planeWarp(c, hallSize), p)!));
    return (x1 - x0) / (y1 - y0);
  };

  it('reads as wide as it is, from a ring drawn round it by hand', () => {
    const truly = shownProportion(correction) / hall.heads[0]!.proportion;
    expect(truly).toBeGreaterThan(1.2);
    expect(ringReading(correction, planeWarp(correction, hallSize), correction.ease.rings[0]!, 1).ratio!).toBeCloseTo(truly, 2);
  });

  it('comes true within 3 % whatever gives way; by easing, verticals stay straight and vertical to 0.02 degrees and obliques bend as said', () => {
    const ways = waysToEase(correction, id);
    expect(ways.map((w) => w.kind)).toEqual(['edge', 'projection', 'aspect']);
    for (const { kind, correction: eased, bends } of ways) {
      expect(shownProportion(eased) / hall.heads[0]!.proportion, kind).toBeGreaterThan(0.97);
      expect(shownProportion(eased) / hall.heads[0]!.proportion, kind).toBeLessThan(1.03);
      const warp = planeWarp(eased, hallSize);
      // twenty points of each known vertical, straight in the world: ends taken out of the lens and put back in
      const [ideal, bent] = [new Float64Array(2), new Float64Array(2)];
      for (const edge of hall.edges.filter((e) => e.kind === 'plumb')) {
        const end = (p: Point): Point => (warp.lens.undistort(p[0], p[1], ideal), [ideal[0]!, ideal[1]!]);
        const [a, b] = [end(edge.a), end(edge.b)];
        const shown = Array.from({ length: 21 }, (_, i): Point => {
          warp.lens.distort(a[0] + ((b[0] - a[0]) * i) / 20, a[1] + ((b[1] - a[1]) * i) / 20, bent);
          return toPlane(warp, [bent[0]!, bent[1]!])!;
        });
        expect(Math.abs(leanDeg(shown[0]!, shown[20]!)), `${kind} ${edge.name}`).toBeLessThan(0.02);
        for (const p of shown) expect(distanceTo(p, shown[0]!, shown[20]!), `${kind} ${edge.name}`).toBeLessThan(0.05);
      }
      if (kind === 'aspect') expect(bends).toBeNull();
      else expect(bends!.plumb).toBeLessThan(0.05);
    }
    // an edge leaves levels level, the projection bends them
    expect(ways[0]!.bends!.level).toBeLessThan(0.05);
    expect(ways[0]!.bends!.oblique).toBeGreaterThan(2);
    expect(ways[1]!.bends!.level).toBeGreaterThan(5);
  });

  it('by an edge whose neighbour gives the room, the frame and what lies before the neighbour stay where they were', () => {
    const eased = waysToEase(correction, id)[0]!.correction;
    const { crop } = composeWarp(correction, hallSize);
    const roomy = withRoom(eased, composeWarp(eased, hallSize).crop, eased.ease.edges[0]!.id, true);
    const [from, to] = [planeWarp(correction, hallSize), planeWarp(roomy, hallSize)];
    const frame = roomy.ease.edges[0]!.room!.frame;
    const at = new Float64Array(2);
    for (const y of [-600, 0, 500]) {
      for (const x of [frame, crop.x, 0]) {
        expect(to.planeToPicture(x, y, at)).toBe(true);
        const p = toPlane(from, [at[0]!, at[1]!])!;
        expect(Math.hypot(p[0] - x, p[1] - y)).toBeLessThan(1e-3);
      }
    }
    expect(shownProportion(roomy) / hall.heads[0]!.proportion).toBeCloseTo(1, 1);
  });

  it('says what bends by as much as lines across the crop do', () => {
    const eased = withProjectionEase(correction, 0.6);
    const warp = composeWarp(eased, hallSize);
    const flat = planeWarp(correction, hallSize);
    const { crop } = warp;
    // what lies along the crop's upper edge, straight before: its bow now, worked out from the picture
    const at = new Float64Array(2);
    const points = [0, 0.25, 0.5, 0.75, 1].map((s): Point => {
      const p = toPlane(flat, (warp.planeToPicture(crop.x + crop.width * s, crop.y, at), [at[0]!, at[1]!]))!;
      return p;
    });
    const level = points[2]![1];
    const shown = points.map(([x]): Point => {
      flat.planeToPicture(x, level, at);
      return toPlane(warp, [at[0]!, at[1]!])!;
    });
    const bow = Math.max(...shown.map((p) => distanceTo(p, shown[0]!, shown[4]!)));
    const said = bendsOf(warp, crop)!.level;
    expect(said).toBeGreaterThanOrEqual(bow * 0.98);
    expect(said).toBeLessThan(bow * 2);
  });

  it('an edge drawn towards each side starts inside the crop and changes that side alone', () => {
    const warp = composeWarp(correction, hallSize);
    for (const side of ['left', 'right', 'top', 'bottom'] as const) {
      const next = withEdgeTowards(correction, warp, warp.crop, side);
      const eased = planeWarp(next, hallSize);
      const across = side === 'left' || side === 'right';
      const [u, v] = [warp.crop.width * 0.45, warp.crop.height * 0.45];
      const beyond: Point = side === 'left' ? [-u, 0] : side === 'right' ? [u, 0] : side === 'top' ? [0, -v] : [0, v];
      const at = new Float64Array(2);
      warp.planeToPicture(...beyond, at);
      const moved = toPlane(eased, [at[0]!, at[1]!])!;
      expect(Math.abs(moved[across ? 0 : 1])).toBeLessThan(Math.abs(beyond[across ? 0 : 1]) - 5);
      expect(moved[across ? 1 : 0]).toBeCloseTo(beyond[across ? 1 : 0], 6);
      warp.planeToPicture(-beyond[0], -beyond[1], at);
      expect(toPlane(eased, [at[0]!, at[1]!])![across ? 0 : 1]).toBeCloseTo(-beyond[across ? 0 : 1], 6);
    }
  });
});
