import { createRequire } from 'node:module';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  isClear,
  newCorrection,
  planeWarp,
  toPlane,
  type Correction,
  lensOf,
  type LensModel,
  type Point,
} from '../index';

const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv;

interface Mat {
  readonly data64F: Float64Array;
  readonly data32F: Float32Array;
  delete(): void;
}
interface OpenCv {
  readonly CV_64FC1: number;
  readonly CV_64FC2: number;
  readonly CV_64FC3: number;
  readonly CV_32FC2: number;
  onRuntimeInitialized?: () => void;
  Mat: new () => Mat;
  matFromArray(rows: number, columns: number, type: number, values: readonly number[]): Mat;
  getPerspectiveTransform(from: Mat, to: Mat): Mat;
  perspectiveTransform(from: Mat, to: Mat, m: Mat): void;
  projectPoints(points: Mat, r: Mat, t: Mat, k: Mat, d: Mat, out: Mat, jacobian: Mat): void;
  fisheye_projectPoints?(points: Mat, out: Mat, r: Mat, t: Mat, k: Mat, d: Mat, alpha: number, jacobian: Mat): void;
}

const ready = new Promise<void>((resolve) => {
  if ('Mat' in cv && typeof cv.Mat === 'function') resolve();
  else cv.onRuntimeInitialized = resolve;
});

const size = { width: 3000, height: 2000 };

function correctionWith(stance: object, model: LensModel = { kind: 'none' }, crop: object = {}): Correction {
  return correctionSchema.parse({ ...newCorrection({ name: 'x', ...size, focal35: 24 }), stance, lens: { model }, crop });
}

const stances = fc.record({
  roll: fc.double({ min: -40, max: 40, noNaN: true }),
  tilt: fc.double({ min: -28, max: 28, noNaN: true }),
  swing: fc.double({ min: -28, max: 28, noNaN: true }),
  aspect: fc.double({ min: 0.7, max: 1.4, noNaN: true }),
  shear: fc.double({ min: -15, max: 15, noNaN: true }),
  quarterTurns: fc.constantFrom(0, 1, 2, 3),
  flipX: fc.boolean(),
  flipY: fc.boolean(),
  strength: fc.record({ tilt: fc.double({ min: 0, max: 1.2, noNaN: true }), swing: fc.double({ min: 0, max: 1.2, noNaN: true }) }),
});

const lenses: fc.Arbitrary<LensModel> = fc.oneof(
  fc.record({
    kind: fc.constant('radial' as const),
    cx: fc.constant(1490),
    cy: fc.constant(1010),
    k1: fc.double({ min: -0.12, max: 0.1, noNaN: true }),
    k2: fc.double({ min: -0.01, max: 0.03, noNaN: true }),
  }),
  fc.record({
    kind: fc.constant('division' as const),
    cx: fc.constant(1500),
    cy: fc.constant(1000),
    l1: fc.double({ min: -0.25, max: 0.1, noNaN: true }),
    l2: fc.double({ min: -0.03, max: 0.02, noNaN: true }),
  }),
  fc.record({
    kind: fc.constant('brown-conrady' as const),
    fx: fc.constant(2020),
    fy: fc.constant(1990),
    cx: fc.constant(1510),
    cy: fc.constant(990),
    k1: fc.double({ min: -0.12, max: 0.08, noNaN: true }),
    k2: fc.double({ min: 0, max: 0.02, noNaN: true }),
    p1: fc.double({ min: -0.001, max: 0.001, noNaN: true }),
    p2: fc.double({ min: -0.001, max: 0.001, noNaN: true }),
    k3: fc.constant(0),
  }),
);

describe('the chain', () => {
  it('maps there and back to 1e-3 px, with every lens, turn and flip', () => {
    fc.assert(
      fc.property(
        stances,
        fc.option(lenses, { nil: undefined }),
        fc.array(fc.tuple(fc.double({ min: 0, max: 3000, noNaN: true }), fc.double({ min: 0, max: 2000, noNaN: true })), {
          minLength: 8,
          maxLength: 8,
        }),
        (stance, lens, points) => {
          const warp = composeWarp(correctionWith(stance, lens, { edges: 'keep' }), size);
          for (const [x, y] of points) {
            const there = warp.toOutput(x, y);
            if (!there) continue;
            const back = warp.toPicture(...there);
            expect(back).not.toBeNull();
            expect(Math.hypot((back as Point)[0] - x, (back as Point)[1] - y)).toBeLessThan(1e-3);
          }
        },
      ),
      { numRuns: 150, seed: 7 },
    );
  });

  it('is the homography that OpenCV finds from four of its corners (getPerspectiveTransform), to 1e-3 px', async () => {
    await ready;
    fc.assert(
      fc.property(stances, (stance) => {
        const warp = planeWarp(correctionWith(stance), size);
        const corners: Point[] = [
          [0, 0],
          [3000, 0],
          [3000, 2000],
          [0, 2000],
        ];
        const mapped = corners.map((p) => toPlane(warp, p));
        if (mapped.some((p) => p === null)) return;
        const from = cv.matFromArray(4, 1, cv.CV_32FC2, corners.flat());
        const to = cv.matFromArray(4, 1, cv.CV_32FC2, (mapped as Point[]).flat());
        const h = cv.getPerspectiveTransform(from, to).data64F;
        const scale = Math.max(...(mapped as Point[]).flat().map(Math.abs));
        for (const [x, y] of [
          [700, 300],
          [1500, 1000],
          [2600, 1700],
        ] as const) {
          const w = h[6]! * x + h[7]! * y + h[8]!;
          const ours = toPlane(warp, [x, y]) as Point;
          // the library takes its corners as 32-bit floats: their own rounding is allowed for
          const allowed = 1e-3 + 4 * scale * 2 ** -23;
          expect(Math.abs((h[0]! * x + h[1]! * y + h[2]!) / w - ours[0])).toBeLessThan(allowed);
          expect(Math.abs((h[3]! * x + h[4]! * y + h[5]!) / w - ours[1])).toBeLessThan(allowed);
        }
      }),
      { numRuns: 60, seed: 11 },
    );
  });

  it('agrees with exact rational arithmetic to 1e-9 (rotation of a 3-4-5 triangle, homography worked by hand)', () => {
    // tilt with cosine 4/5 and sine 3/5, f = 2000 px: for a point (X, Y) from the centre the aim ray is (X, 4/5 Y - 3/5 f, 3/5 Y + 4/5 f)
    const tilt = (Math.atan2(3, 4) * 180) / Math.PI;
    const correction = correctionSchema.parse({ ...correctionWith({ tilt }), camera: { focalPx: 2000 } });
    const warp = planeWarp(correction, size);
    const f = 2000;
    const w0 = 0.8;
    for (const [X, Y] of [
      [100, 50],
      [-900, 400],
      [1200, -300],
    ] as const) {
      const w = (3 * Y + 4 * f) / (5 * f);
      const qx = X / w;
      const qy = (4 * Y - 3 * f) / 5 / w;
      const expected: Point = [w0 ** 1.5 * qx, w0 ** 1.5 * (qy - (-3 * f) / 4)];
      const ours = toPlane(warp, [1500 + X, 1000 + Y]) as Point;
      expect(Math.abs(ours[0] - expected[0]) / 1000).toBeLessThan(1e-9);
      expect(Math.abs(ours[1] - expected[1]) / 1000).toBeLessThan(1e-9);
    }
  });

  it('bends as OpenCV does (projectPoints, fisheye.projectPoints) all over the picture, with random coefficients, to 0.01 px', async () => {
    await ready;
    if (!cv.fisheye_projectPoints) throw new Error('the library has no fisheye.projectPoints');
    let state = 7;
    const between = (low: number, high: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return low + ((high - low) * state) / 2 ** 32;
    };
    const zero = cv.matFromArray(3, 1, cv.CV_64FC1, [0, 0, 0]);
    const [projected, jacobian] = [new cv.Mat(), new cv.Mat()];
    const out = new Float64Array(2);
    let checked = 0;
    for (let draw = 0; draw < 40; draw += 1) {
      const k = { fx: between(1900, 2300), fy: between(1900, 2300), cx: between(1470, 1530), cy: between(970, 1030) };
      const model: LensModel =
        draw % 2 === 0
          ? {
              kind: 'brown-conrady',
              ...k,
              k1: between(-0.15, 0.08),
              k2: between(-0.02, 0.04),
              p1: between(-0.002, 0.002),
              p2: between(-0.002, 0.002),
              k3: between(-0.004, 0.004),
            }
          : {
              kind: 'fisheye',
              ...k,
              k1: between(-0.03, 0.03),
              k2: between(-0.01, 0.01),
              k3: between(-0.003, 0.003),
              k4: between(-0.001, 0.001),
            };
      const lens = lensOf(model, size);
      const focal = Math.sqrt(k.fx * k.fy);
      // positions all over the picture, taken back to where they come from
      const rays: [number, number][] = [];
      for (let y = 0; y <= size.height; y += 250)
        for (let x = 0; x <= size.width; x += 250)
          if (lens.undistort(x, y, out)) rays.push([(out[0]! - k.cx) / focal, (out[1]! - k.cy) / focal]);
      const points = cv.matFromArray(
        rays.length,
        1,
        cv.CV_64FC3,
        rays.flatMap(([x, y]) => [x, y, 1]),
      );
      // OpenCV counts from pixel centres: its centre lies half a pixel up and left of ours
      const camera = cv.matFromArray(3, 3, cv.CV_64FC1, [k.fx, 0, k.cx - 0.5, 0, k.fy, k.cy - 0.5, 0, 0, 1]);
      if (model.kind === 'brown-conrady') {
        const coefficients = cv.matFromArray(5, 1, cv.CV_64FC1, [model.k1, model.k2, model.p1, model.p2, model.k3]);
        cv.projectPoints(points, zero, zero, camera, coefficients, projected, jacobian);
      } else if (model.kind === 'fisheye') {
        const coefficients = cv.matFromArray(4, 1, cv.CV_64FC1, [model.k1, model.k2, model.k3, model.k4]);
        cv.fisheye_projectPoints(points, projected, zero, zero, camera, coefficients, 0, jacobian);
      }
      rays.forEach(([x, y], i) => {
        expect(lens.distort(x * focal + k.cx, y * focal + k.cy, out)).toBe(true);
        expect(Math.hypot(out[0]! - projected.data64F[2 * i]! - 0.5, out[1]! - projected.data64F[2 * i + 1]! - 0.5)).toBeLessThan(0.01);
        checked += 1;
      });
      [points, camera].forEach((mat) => mat.delete());
    }
    expect(checked).toBeGreaterThan(3000);
  });

  it('refuses a lens that folds and a stance that looks away, in a sentence', () => {
    expect(() => planeWarp(correctionWith({}, { kind: 'radial', cx: 1500, cy: 1000, k1: -0.9, k2: 0 }), size)).toThrow(
      /bend the picture back over itself/,
    );
    expect(() => planeWarp(correctionWith({ tilt: 88 }), size)).toThrow(/beside or behind the viewer/);
  });
});

describe('the trim', () => {
  const area = (w: number, h: number, deg: number): number => {
    // largest rectangle in a rotated one: closed form for the area (textbook result, from memory)
    const [s, c] = [Math.abs(Math.sin((deg * Math.PI) / 180)), Math.abs(Math.cos((deg * Math.PI) / 180))];
    const [long, short] = [Math.max(w, h), Math.min(w, h)];
    if (short <= 2 * s * c * long) return (short / 2) ** 2 / (s * c);
    const d = c * c - s * s;
    return (((w * c - h * s) / d) * (h * c - w * s)) / d;
  };

  it('of a plainly rotated picture has the closed form of its area, to 0.1 px of a side', () => {
    for (const deg of [0.3, 1.17, -2.79, 8, 21, 37, -44]) {
      const warp = composeWarp(correctionWith({ roll: deg }, undefined, { ratio: 'free' }), size);
      const expected = area(size.width, size.height, deg);
      expect(Math.abs(warp.crop.width * warp.crop.height - expected) / (warp.crop.width + warp.crop.height)).toBeLessThan(0.1);
    }
  });

  it('holds no empty pixel, with barrel lenses too', () => {
    fc.assert(
      fc.property(
        stances,
        fc.option(lenses, { nil: undefined }),
        fc.constantFrom('as-taken' as const, 'free' as const, 1, 16 / 9),
        (stance, lens, ratio) => {
          const warp = composeWarp(correctionWith(stance, lens, { ratio }), size);
          expect(isClear(warp.outline, warp.crop)).toBe(true);
          const { width, height } = warp.outputSize;
          const p = new Float64Array(2);
          // every pixel of the border, and a lattice inside
          const filled = (i: number, j: number): boolean =>
            warp.outputToPicture(i + 0.5, j + 0.5, p) && p[0]! >= 0 && p[1]! >= 0 && p[0]! <= size.width && p[1]! <= size.height;
          for (let i = 0; i < width; i += 1) expect(filled(i, 0) && filled(i, height - 1)).toBe(true);
          for (let j = 0; j < height; j += 1) expect(filled(0, j) && filled(width - 1, j)).toBe(true);
          for (let j = 7; j < height; j += 97) for (let i = 7; i < width; i += 97) expect(filled(i, j)).toBe(true);
        },
      ),
      { numRuns: 60, seed: 3 },
    );
  });

  it('of a fisheye stays about its middle, however large the star’s arms are, and holds no empty pixel', () => {
    const fisheye: LensModel = { kind: 'fisheye', fx: 1040, fy: 1040, cx: 1506, cy: 996, k1: -0.012, k2: 0.002, k3: 0, k4: 0 };
    for (const ratio of ['as-taken', 'free', 1] as const) {
      const { crop, outline } = composeWarp(correctionWith({}, fisheye, { ratio }), size);
      expect(isClear(outline, crop)).toBe(true);
      expect(crop.x < 0 && crop.y < 0 && crop.x + crop.width > 0 && crop.y + crop.height > 0).toBe(true);
    }
  });

  it('of settings that change nothing is the picture itself', () => {
    const warp = composeWarp(correctionWith({}), size);
    expect(warp.outputSize).toEqual(size);
    expect(warp.toPicture(0.5, 0.5)![0]).toBeCloseTo(0.5, 6);
  });

  it('re-fits a crop by hand about its centre and never writes it back', () => {
    const correction = correctionWith({ roll: 6 }, undefined, { rect: { x: -1400, y: -950, width: 2800, height: 1900 } });
    const { crop, outline } = composeWarp(correction, size);
    expect(crop.width).toBeLessThan(2800);
    expect(crop.width / crop.height).toBeCloseTo(2800 / 1900, 9);
    expect(crop.x + crop.width / 2).toBeCloseTo(0, 6);
    expect(isClear(outline, { x: crop.x - 1, y: crop.y - 1, width: crop.width + 2, height: crop.height + 2 })).toBe(false);
    expect(correction.crop.rect?.width).toBe(2800);
  });
});
