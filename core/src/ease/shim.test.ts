import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  distance,
  newCorrection,
  planeWarp,
  prepareSource,
  renderRows,
  toPicture,
  toPlane,
  type CorrectionInput,
  type Correction,
  type Point,
  type Raster,
} from '../index';
import { dice } from '../linear/dice';

const size = { width: 1200, height: 900 };
type ShimInput = NonNullable<NonNullable<CorrectionInput['ease']>['shims']>[number];

const shimmed = (shims: readonly ShimInput[], more: object = {}): Correction =>
  correctionSchema.parse({ ...newCorrection({ name: 'x', ...size, focal35: 24 }), ...more, ease: { shims } });

const real = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
const holds = (reach: number): fc.Arbitrary<ShimInput['holds']> =>
  fc.array(
    fc.record({
      id: fc.constant('h'),
      from: fc.tuple(real(-120, 120), real(-90, 90)),
      to: fc.tuple(real(-120, 120), real(-90, 90)),
      nail: fc.boolean(),
    }),
    { minLength: 1, maxLength: reach },
  );
const shims = fc.array(
  fc.record({
    id: fc.constant('s'),
    at: fc.tuple(real(300, 900), real(250, 650)),
    width: real(300, 500),
    height: real(220, 400),
    crossings: fc.integer({ min: 4, max: 12 }),
    holds: holds(8),
  }),
  { minLength: 1, maxLength: 3 },
);

describe('a shim', () => {
  it('inverts to 1e-3 px up to the fold limit, several one after the other, and never goes beyond it', () => {
    let limited = 0;
    const seen: number[] = [];
    const [a, b, c, d] = [new Float64Array(2), new Float64Array(2), new Float64Array(2), new Float64Array(2)];
    fc.assert(
      fc.property(shims, real(-8, 8), (nets, tilt) => {
        const warp = planeWarp(shimmed(nets, { stance: { tilt } }), size);
        for (const { share, smallestArea, largestArea } of warp.shimmed?.shims ?? []) {
          expect(share).toBeLessThanOrEqual(1);
          expect(smallestArea).toBeGreaterThanOrEqual(0.2 - 1e-9);
          expect(largestArea).toBeLessThanOrEqual(5 + 1e-9);
          if (share < 1) limited += 1;
        }
        // areas by differences, at places of their own: result over source
        for (const shim of warp.shimmed?.shims ?? []) {
          const { box } = shim;
          for (let i = 0; i < 400; i += 1) {
            const [x, y] = [box.x + box.width * ((i * 0.618034) % 1), box.y + box.height * ((i * 0.7548777) % 1)];
            const h = 1e-3;
            shim.back(x + h, y, a);
            shim.back(x - h, y, b);
            shim.back(x, y + h, c);
            shim.back(x, y - h, d);
            const area = ((a[0]! - b[0]!) * (c[1]! - d[1]!) - (a[1]! - b[1]!) * (c[0]! - d[0]!)) / (4 * h * h);
            seen.push(1 / area);
          }
        }
        for (let i = 0; i < 80; i += 1) {
          const p: Point = [((i * 733) % 1199) + 0.5, ((i * 337) % 899) + 0.5];
          const q = toPlane(warp, p);
          const back = q && toPicture(warp, q);
          expect(back && distance(back, p)).toBeLessThan(1e-3);
        }
      }),
      { numRuns: 120, seed: 2 },
    );
    // nets were at the limit, and between the places where it is tried nothing goes far beyond it
    expect(limited).toBeGreaterThan(20);
    expect(seen.reduce((least, v) => Math.min(least, v))).toBeGreaterThan(0.19);
    expect(seen.reduce((most, v) => Math.max(most, v))).toBeLessThan(5.5);
  });

  it('leaves everything outside its box to the bit as it is in the file, through lens and stance, turned and flipped', () => {
    const { uniform } = dice(5);
    const data = Uint8Array.from({ length: size.width * size.height * 3 }, () => uniform() * 255);
    const source: Raster = { ...size, channels: 3, data };
    const net: ShimInput = { id: 's', at: [500, 400], width: 260, height: 200, holds: [{ id: 'h', from: [0, 0], to: [30, 12] }] };
    for (const more of [
      {},
      { stance: { tilt: 7, roll: 2, quarterTurns: 1, flipX: true }, lens: { model: { kind: 'radial', cx: 600, cy: 450, k1: -0.06 } } },
      { output: { size: { kind: 'long-edge', px: 700 } } },
    ]) {
      const files = [shimmed([net], more), shimmed([], more)].map((correction) => {
        const warp = composeWarp(correction, size);
        const { width, height } = warp.outputSize;
        return { warp, width, height, pixels: renderRows(prepareSource(source, warp), warp, correction, 3, 0, height) };
      });
      const [a, b] = files as [(typeof files)[0], (typeof files)[0]];
      expect([a.width, a.height]).toEqual([b.width, b.height]);
      const [box] = a.warp.shimBoxes;
      let [changedInside, outside] = [0, 0];
      for (let k = 0; k < a.pixels.length; k += 1) {
        const [x, y] = [(Math.floor(k / 3) % a.width) + 0.5, Math.floor(k / 3 / a.width) + 0.5];
        const inside = x > box!.x && y > box!.y && x < box!.x + box!.width && y < box!.y + box!.height;
        if (a.pixels[k] === b.pixels[k]) continue;
        if (inside) changedInside += 1;
        else outside += 1;
      }
      expect(outside).toBe(0);
      expect(changedInside).toBeGreaterThan(10000);
    }
  });

  it('takes lines inside it to level, plumb and straight to 0.1 px, while a nailed place and everything outside stay', () => {
    // a kerb 4 degrees off, a post that leans by 3, an edge that is bowed by 9 px
    const slope = Math.tan((4 * Math.PI) / 180);
    const kerb = Array.from({ length: 21 }, (_, i): [number, number] => [450 + 15 * i, 500 - (15 * i - 150) * slope]);
    const bowed = Array.from({ length: 31 }, (_, i): [number, number] => [500 + 10 * i, 300 + 9 * (1 - ((i - 15) / 15) ** 2)]);
    const lean = Math.tan((3 * Math.PI) / 180);
    const post = Array.from({ length: 21 }, (_, i): [number, number] => [600 + (i * 10 - 100) * lean, 450 + (i * 10 - 100)]);
    const spread = (warp: ReturnType<typeof planeWarp>, points: readonly [number, number][], k: 0 | 1): number => {
      const on = points.map((p) => (toPlane(warp, p) as Point)[k]);
      return Math.max(...on) - Math.min(...on);
    };
    const level = planeWarp(
      shimmed([
        {
          id: 's',
          at: [600, 500],
          width: 560,
          height: 260,
          crossings: 10,
          holds: [{ id: 'n', from: [0, -80], to: [0, -80], nail: true }],
          lines: [{ id: 'l', kind: 'level', points: [kerb[0]!, kerb[20]!] }],
        },
      ]),
      size,
    );
    expect(level.shimmed?.shims[0]?.share).toBe(1);
    expect(spread(level, kerb, 1)).toBeLessThan(0.1);
    const nailed = toPlane(level, [600, 420]) as Point;
    const plain = planeWarp(shimmed([]), size);
    expect(distance(nailed, toPlane(plain, [600, 420]) as Point)).toBeLessThan(0.1);
    for (const p of [
      [600, 360],
      [300, 500],
      [900, 640],
    ] as const)
      expect(toPlane(level, p)).toEqual(toPlane(plain, p));
    const plumb = planeWarp(
      shimmed([
        {
          id: 's',
          at: [600, 450],
          width: 300,
          height: 420,
          crossings: 10,
          lines: [{ id: 'l', kind: 'plumb', points: [post[0]!, post[20]!] }],
        },
      ]),
      size,
    );
    expect(spread(plumb, post, 0)).toBeLessThan(0.1);
    const straight = planeWarp(
      shimmed([{ id: 's', at: [650, 305], width: 520, height: 300, crossings: 12, lines: [{ id: 'l', kind: 'straight', points: bowed }] }]),
      size,
    );
    const on = bowed.map((p) => toPlane(straight, p) as Point);
    const off = on.map(([x, y]) => {
      const [a, b] = [on[0]!, on.at(-1)!];
      return Math.abs((x - a[0]) * (b[1] - a[1]) - (y - a[1]) * (b[0] - a[0])) / distance(a, b);
    });
    expect(Math.max(...off)).toBeLessThan(0.1);
  });

  it('keeps a straight line straight while a place beside it is dragged, and takes a dragged place where it is dragged', () => {
    const line: [number, number][] = [
      [520, 420],
      [680, 520],
    ];
    const asked: ShimInput = {
      id: 's',
      at: [600, 450],
      width: 400,
      height: 340,
      crossings: 9,
      holds: [{ id: 'h', from: [-20, 50], to: [-12, 75] }],
    };
    const bow = (warp: ReturnType<typeof planeWarp>): number => {
      const on = Array.from({ length: 21 }, (_, i) => toPlane(warp, [520 + 8 * i, 420 + 5 * i]) as Point);
      const [a, b] = [on[0]!, on[20]!];
      return Math.max(...on.map(([x, y]) => Math.abs((x - a[0]) * (b[1] - a[1]) - (y - a[1]) * (b[0] - a[0])) / distance(a, b)));
    };
    const free = planeWarp(shimmed([asked]), size);
    const stiff = planeWarp(shimmed([{ ...asked, lines: [{ id: 'l', kind: 'straight', points: line }] }]), size);
    expect(bow(free)).toBeGreaterThan(1);
    expect(bow(stiff)).toBeLessThan(0.1);
    const middle = toPlane(planeWarp(shimmed([]), size), [600, 450]) as Point;
    for (const warp of [free, stiff]) {
      const at = toPlane(warp, [580, 500]) as Point;
      expect(distance(at, [middle[0] - 12, middle[1] + 75])).toBeLessThan(1.5);
    }
  });
});
