import { describe, expect, it } from 'vitest';
import { correctionSchema, type Correction } from '../correction/schema';
import { rectCentre, rectCorners, type Point, type Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { planeWarp, toPlane, type PlaneWarp } from '../warp/plane-warp';
import { cutBoxes, holdsRect, keepBoxesOnPlane } from './keep-boxes';
import { halfWidthAbout } from './inside-outline';
import { resolveCrop } from './resolve-crop';

/* Trims of random corrections against a slow search. TRIMS=1000 tries as many as that. */

const COUNT = Number(process.env['TRIMS'] ?? 100);

/** Reproducible numbers in [0, 1): mulberry32. */
function numbers(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A correction as it may come: with and without a lens, turned, tilted, stretched. */
function randomCorrection(random: () => number): Correction {
  const within = (least: number, most: number): number => least + (most - least) * random();
  const [width, height] = random() < 0.5 ? [600, 400] : [400, 600];
  const bent = random();
  const model =
    bent < 0.4
      ? { kind: 'none' as const }
      : { kind: 'radial' as const, cx: width / 2, cy: height / 2, k1: within(-0.08, 0.08), k2: within(-0.01, 0.01) };
  return correctionSchema.parse({
    format: 'able-plumb/correction',
    version: 1,
    picture: { width, height },
    camera: { focalPx: within(0.6, 1.6) * 600 },
    lens: { model },
    stance: { roll: within(-12, 12), tilt: within(-18, 18), swing: within(-14, 14), aspect: within(0.85, 1.2), shear: within(-5, 5) },
  });
}

/** The largest clear rectangle of a shape by trying very many middles, each as wide as it can be, and then nearer and nearer ones. */
function slowTrim(outline: readonly Point[], ratio: number): number {
  const bounds = boundsOf(outline);
  let best = { half: 0, at: rectCentre(bounds) };
  const scan = (centre: Point, reachX: number, reachY: number, n: number): void => {
    for (let j = -n; j <= n; j += 1)
      for (let i = -n; i <= n; i += 1) {
        const at: Point = [centre[0] + (reachX * i) / n, centre[1] + (reachY * j) / n];
        const half = halfWidthAbout(outline, at, ratio);
        if (half > best.half) best = { half, at };
      }
  };
  scan(best.at, bounds.width / 2, bounds.height / 2, 14);
  for (let reach = 1 / 14; reach > 1e-4; reach /= 3) scan(best.at, bounds.width * reach, bounds.height * reach, 4);
  return 4 * best.half * best.half * (1 / ratio);
}

/** Whether every pixel along a rectangle's sides, and many inside, lies in the picture: their middles, as they are judged. */
function isFull(warp: PlaneWarp, rect: Rect): boolean {
  const out = new Float64Array(2);
  const { width, height } = warp.pictureSize;
  const full = (x: number, y: number): boolean =>
    warp.planeToPicture(x, y, out) &&
    (out[0] as number) >= -0.01 &&
    (out[1] as number) >= -0.01 &&
    (out[0] as number) <= width + 0.01 &&
    (out[1] as number) <= height + 0.01;
  const STEPS = 60;
  for (let k = 0; k <= STEPS; k += 1) {
    const [x, y] = [rect.x + (rect.width * k) / STEPS, rect.y + (rect.height * k) / STEPS];
    if (!full(x, rect.y) || !full(x, rect.y + rect.height) || !full(rect.x, y) || !full(rect.x + rect.width, y)) return false;
  }
  return full(...rectCentre(rect));
}

describe('trims of random corrections', () => {
  it('hold no empty pixel and are never smaller than 99.5 % of what a slow search finds, with and without a lens', () => {
    const random = numbers(7);
    let tried = 0;
    while (tried < COUNT) {
      const correction = randomCorrection(random);
      let warp: PlaneWarp;
      try {
        warp = planeWarp(correction, correction.picture);
      } catch {
        // a stance or a lens that is refused has no trim
        continue;
      }
      tried += 1;
      const rect = resolveCrop(correction, warp);
      expect(isFull(warp, rect), JSON.stringify(correction.stance)).toBe(true);
      const ratio = correction.picture.width / correction.picture.height;
      const slow = slowTrim(warp.outline, ratio);
      expect((rect.width * rect.height) / slow, JSON.stringify([correction.stance, correction.lens.model])).toBeGreaterThan(0.995);
      const free = resolveCrop({ ...correction, crop: { ...correction.crop, ratio: 'free' } }, warp);
      expect(isFull(warp, free)).toBe(true);
      // of all shapes the free one is at least as large as the best of many held ones
      const shapes = [0.6, 0.8, 1, 1.25, 1.6].map((times) => slowTrim(warp.outline, ratio * times));
      expect(
        (free.width * free.height) / Math.max(slow, ...shapes),
        JSON.stringify([tried, correction.stance, correction.lens.model]),
      ).toBeGreaterThan(0.995);
    }
  }, 300_000);

  it('hold the keep boxes whenever a clear crop can', () => {
    const random = numbers(11);
    let held = 0;
    for (let tried = 0; tried < COUNT; tried += 1) {
      const blank = randomCorrection(random);
      const { width, height } = blank.picture;
      const box = { id: 'k1', x: width * random() * 0.6, y: height * random() * 0.6, width: width * 0.35, height: height * 0.35 };
      const correction: Correction = { ...blank, crop: { ...blank.crop, ratio: 'free', around: 'keep', keep: [box] } };
      let warp: PlaneWarp;
      try {
        warp = planeWarp(correction, correction.picture);
      } catch {
        continue;
      }
      const [onPlane] = keepBoxesOnPlane(correction, warp) as [Rect];
      // the box itself is a crop that holds it: where that is clear, there must be one
      const possible = rectCorners(box).every((p) => toPlane(warp, p) !== null) && isFull(warp, onPlane);
      let rect: Rect | null = null;
      try {
        rect = resolveCrop(correction, warp);
      } catch {
        // said to be impossible
      }
      if (possible) {
        held += 1;
        expect(rect, JSON.stringify([correction.stance, box])).not.toBeNull();
      }
      if (rect) {
        expect(cutBoxes(correction, warp, rect)).toBe(0);
        expect(holdsRect(rect, onPlane)).toBe(true);
        expect(isFull(warp, rect)).toBe(true);
      }
    }
    expect(held).toBeGreaterThan(COUNT / 4);
  }, 120_000);
});
