import { describe, expect, it } from 'vitest';
import * as fc from 'fast-check';
import {
  composeWarp,
  isClear,
  isInside,
  largestOnGrid,
  largestRectangle,
  newCorrection,
  parseCorrection,
  planeWarp,
  type Point,
  type Rect,
} from '../index';
import { largestByAllSides } from './largest-rectangle';

const size = { width: 3000, height: 2000 };
const stances = fc.record({
  roll: fc.double({ min: -25, max: 25, noNaN: true }),
  tilt: fc.double({ min: -25, max: 25, noNaN: true }),
  swing: fc.double({ min: -20, max: 20, noNaN: true }),
  k1: fc.constantFrom(0, 0, -0.1, 0.06),
});

function outlineOf({ roll, tilt, swing, k1 }: { roll: number; tilt: number; swing: number; k1: number }): readonly Point[] {
  const base = newCorrection({ name: 'trim', ...size, focal35: 24 });
  const c = parseCorrection({
    ...base,
    stance: { ...base.stance, adjust: { roll, tilt, swing } },
    lens: { on: k1 !== 0, model: { kind: 'radial', cx: 1500, cy: 1000, k1, k2: 0 } },
  });
  return planeWarp(c, size).outline;
}

/** Whether a rectangle of a ratio about a centre lies inside, by points along its border. */
function fits(outline: readonly Point[], [cx, cy]: Point, ratio: number, half: number): boolean {
  for (let k = 0; k < 32; k += 1) {
    const t = (k / 32) * 2 - 1;
    const border: readonly Point[] = [
      [cx + ratio * half * t, cy - half],
      [cx - ratio * half * t, cy + half],
      [cx - ratio * half, cy - half * t],
      [cx + ratio * half, cy + half * t],
    ];
    if (!border.every((p) => isInside(outline, p))) return false;
  }
  return true;
}

/** The slow way: half the height of the largest rectangle, over centres on a grid, then on finer grids about the best. */
function slowest(outline: readonly Point[], ratio: number): number {
  const xs = outline.map((p) => p[0]);
  const ys = outline.map((p) => p[1]);
  let best = { half: 0, x: (Math.min(...xs) + Math.max(...xs)) / 2, y: (Math.min(...ys) + Math.max(...ys)) / 2 };
  let [w, h] = [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)];
  for (let round = 0; round < 6; round += 1) {
    const { x, y } = best;
    for (let i = -5; i <= 5; i += 1) {
      for (let j = -5; j <= 5; j += 1) {
        const at: Point = [x + (i / 10) * w, y + (j / 10) * h];
        // only a place that holds more than the best so far is worth halving
        for (let step = 400; step > 0.2; step /= 2)
          while (fits(outline, at, ratio, best.half + step)) best = { half: best.half + step, x: at[0], y: at[1] };
      }
    }
    [w, h] = [w / 3, h / 3];
  }
  return best.half;
}

describe('the largest rectangle', () => {
  it('of given proportions is clear of the outline and never below 99.5 % of a slow search, straight or curved sides', () => {
    fc.assert(
      fc.property(stances, fc.constantFrom(1, 1.5, 0.7, 2.4), (stance, ratio) => {
        const outline = outlineOf(stance);
        const found = largestRectangle(outline, { ratio })!;
        expect(isClear(outline, found)).toBe(true);
        expect(Math.abs(found.width / found.height / ratio - 1)).toBeLessThan(1e-9);
        expect(found.height / 2).toBeGreaterThan(0.995 * slowest(outline, ratio));
      }),
      { numRuns: 25, seed: 8, endOnFailure: true },
    );
  });

  it('of free proportions is at least as large as of any given ones, and holds the boxes it must', () => {
    const area = (r: Rect): number => r.width * r.height;
    fc.assert(
      fc.property(stances, (stance) => {
        const outline = outlineOf(stance);
        const free = largestRectangle(outline)!;
        expect(isClear(outline, free)).toBe(true);
        for (const ratio of [0.8, 1, 1.25, 1.5, 1.8]) {
          const given = largestRectangle(outline, { ratio })!;
          expect(area(free)).toBeGreaterThan(0.999 * area(given));
          // a box inside the best rectangle changes nothing; one that reaches beyond it is still held
          const box = { x: given.x + 5, y: given.y + 5, width: given.width - 10, height: given.height - 10 };
          const held = largestRectangle(outline, { ratio, contain: [box] })!;
          expect(area(held)).toBeGreaterThan(0.999 * area(given));
          expect(held.x).toBeLessThanOrEqual(box.x + 1e-6);
          expect(held.y + held.height).toBeGreaterThanOrEqual(box.y + box.height - 1e-6);
        }
      }),
      { numRuns: 40, seed: 3, endOnFailure: true },
    );
  });

  it('between curved sides is never smaller than by all of their segments, and the first good one hardly', () => {
    fc.assert(
      fc.property(stances, fc.constantFrom(-0.12, -0.04, 0.05), fc.constantFrom(undefined, 0.7, 1, 1.5), (stance, k1, ratio) => {
        const outline = outlineOf({ ...stance, k1 });
        const area = (r: Rect | null): number => r!.width * r!.height;
        const plain = area(largestByAllSides(outline, { ratio }));
        const found = largestRectangle(outline, { ratio })!;
        expect(isClear(outline, found)).toBe(true);
        expect(area(found)).toBeGreaterThan(0.9999 * plain);
        const near = largestRectangle(outline, { ratio, near: true })!;
        expect(isClear(outline, near)).toBe(true);
        expect(area(near)).toBeGreaterThan(0.98 * plain);
      }),
      { numRuns: 40, seed: 11, endOnFailure: true },
    );
  });

  it('starts, where sides are curved, from cells that lie inside', () => {
    fc.assert(
      fc.property(stances, fc.constantFrom(undefined, 1.5), (stance, ratio) => {
        const outline = outlineOf(stance);
        const start = largestOnGrid(outline, ratio)!;
        expect(isClear(outline, start)).toBe(true);
        const found = largestRectangle(outline, ratio ? { ratio } : {})!;
        expect(found.width * found.height).toBeGreaterThanOrEqual(start.width * start.height);
      }),
      { numRuns: 60, seed: 5, endOnFailure: true },
    );
  });

  it('is what a crop left to itself becomes', () => {
    const base = newCorrection({ name: 'trim', ...size, focal35: 24 });
    const c = parseCorrection({ ...base, stance: { ...base.stance, adjust: { roll: 4, tilt: 11, swing: -6 } } });
    const { crop, outline } = composeWarp(c, size);
    expect(crop).toEqual(largestRectangle(outline, { ratio: 1.5 }));
  });
});
