import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  correctionSchema,
  homographyFromCorners,
  multiply3,
  newCorrection,
  rectCentre,
  rotationFromAttitude,
  rqSplit,
  solveCorrection,
  solvePanel,
  toPlane,
  verticalLeanDeg,
  withMiddlePlumb,
  withNewPanel,
  withPanel,
  withTrim,
  type Correction,
  type Mat3,
  type Panel,
  type Point,
  type Quad,
} from '../index';

const size = { width: 3000, height: 2000 };
const f = 1900;
const blank: Correction = correctionSchema.parse({ ...newCorrection({ name: 'x', ...size, focal35: 24 }), camera: { focalPx: f } });

/** Corners of a rectangle of width : height = ratio at a distance, as a camera of a known attitude sees them. */
function seen(ratio: number, attitude: { roll: number; tilt: number; swing: number }): NonNullable<Panel['corners']> {
  const r = rotationFromAttitude(attitude);
  return (
    [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const
  ).map(([sx, sy]) => {
    // world: x along the front, y down, z into the front; camera = R^T world
    const w = [0.15 + (sx * ratio) / 2, -0.1 + sy / 2, 3.2];
    const [x, y, z] = [0, 1, 2].map((k) => r[k]! * w[0]! + r[3 + k]! * w[1]! + r[6 + k]! * w[2]!) as [number, number, number];
    return [(f * x) / z + 1500, (f * y) / z + 1000] as [number, number];
  }) as NonNullable<Panel['corners']>;
}

const attitudes = fc.record({
  roll: fc.double({ min: -20, max: 20, noNaN: true }),
  tilt: fc.double({ min: -25, max: 25, noNaN: true }),
  swing: fc.double({ min: -30, max: 30, noNaN: true }),
});

describe('panels', () => {
  it('the split recomposes to 1e-9 and gives back the movements it was made from', () => {
    fc.assert(
      fc.property(
        attitudes,
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        fc.double({ min: -20, max: 20, noNaN: true }),
        (attitude, aspect, shear) => {
          const q = rotationFromAttitude(attitude);
          const u: Mat3 = [aspect, -Math.tan((shear * Math.PI) / 180), 0.3, 0, 1, -0.2, 0, 0, 1];
          const split = rqSplit(multiply3(u, q).map((v) => -3.7 * v) as unknown as Mat3)!;
          const again = multiply3(split.upper, split.rotation);
          multiply3(u, q).forEach((v, k) => expect(Math.abs(again[k]! - v)).toBeLessThan(1e-9));
          expect(split.aspect).toBeCloseTo(aspect, 9);
          expect(split.shearDeg).toBeCloseTo(shear, 9);
          for (const movement of ['roll', 'tilt', 'swing'] as const) expect(split.attitude[movement]).toBeCloseTo(attitude[movement], 8);
        },
      ),
      { numRuns: 100, seed: 5 },
    );
  });

  it('agrees with OpenCV’s homography of the same corners (getPerspectiveTransform)', async () => {
    const cv = createRequire(import.meta.url)('@techstark/opencv-js') as {
      Mat?: unknown;
      onRuntimeInitialized?: () => void;
      CV_32FC2: number;
      matFromArray(r: number, c: number, t: number, v: readonly number[]): unknown;
      getPerspectiveTransform(a: unknown, b: unknown): { data64F: Float64Array };
    };
    if (!cv.Mat) await new Promise<void>((resolve) => (cv.onRuntimeInitialized = resolve));
    const corners: Quad = [
      [210, 340],
      [2300, 150],
      [2500, 1700],
      [400, 1500],
    ];
    const theirs = cv.getPerspectiveTransform(
      cv.matFromArray(4, 1, cv.CV_32FC2, [0, 0, 1, 0, 1, 1, 0, 1]),
      cv.matFromArray(4, 1, cv.CV_32FC2, corners.flat()),
    ).data64F;
    const ours = homographyFromCorners(corners);
    theirs.forEach((v, k) => expect(ours[k]! / ours[8]!).toBeCloseTo(v, 6));
  });

  it('finds the ratio of any rectangle to 0.1 %: with the focal length known, and with it solved where tilt and swing exceed 3 degrees', () => {
    fc.assert(
      fc.property(attitudes, fc.double({ min: 0.4, max: 2.5, noNaN: true }), (attitude, ratio) => {
        fc.pre(Math.abs(attitude.tilt) + Math.abs(attitude.swing) < 45);
        const panel: Panel = {
          id: 'p1',
          corners: seen(ratio, attitude),
          size: null,
          margins: { top: 0, right: 0, bottom: 0, left: 0 },
          used: true,
        };
        const known = solvePanel(blank, size, panel)!;
        expect(Math.abs(known.ratio / ratio - 1)).toBeLessThan(0.001);
        for (const movement of ['roll', 'tilt', 'swing'] as const)
          expect(known.split.attitude[movement]).toBeCloseTo(attitude[movement], 4);
        if (Math.abs(attitude.tilt) > 3.01 && Math.abs(attitude.swing) > 3.01) {
          const solved = solvePanel({ ...blank, camera: { ...blank.camera, focalPx: known.focal!.px } }, size, panel)!;
          expect(Math.abs(known.focal!.px / f - 1)).toBeLessThan(0.001);
          expect(Math.abs(solved.ratio / ratio - 1)).toBeLessThan(0.001);
        }
      }),
      { numRuns: 150, seed: 2 },
    );
  });

  it('recovers ISO 216 paper and ISO/IEC 7810 cards, whatever the order of the clicks', () => {
    for (const ratio of [Math.SQRT2, 85.6 / 53.98]) {
      const [a, b, c, d] = seen(ratio, { roll: 8, tilt: -14, swing: 21 });
      for (const corners of [
        [a, b, c, d],
        [c, a, d, b],
        [d, c, b, a],
      ] as NonNullable<Panel['corners']>[]) {
        const correction = withNewPanel(blank, { corners });
        const warp = composeWarp(withTrim(correction, { around: 'panel', edges: 'keep' }), size);
        expect(warp.crop.width / warp.crop.height).toBeCloseTo(ratio, 4);
        const onPlane = [a, b, c, d].map((p) => toPlane(warp, p) as Point) as [Point, Point, Point, Point];
        expect(onPlane[0][1]).toBeCloseTo(onPlane[1][1], 3);
        expect(onPlane[0][0]).toBeCloseTo(onPlane[3][0], 3);
      }
    }
  });

  it('a typed size is exact and gives the margins their unit; a wrong focal length ends in the aspect', () => {
    const correction = withPanel(
      withNewPanel(
        { ...blank, camera: { ...blank.camera, focalPx: 1200 } },
        { corners: seen(1200 / 450, { roll: -1.5, tilt: 5, swing: 33 }) },
      ),
      'p1',
      {
        size: { width: 1200, height: 450, unit: 'mm' },
        margins: { top: 45, right: 120, bottom: 45, left: 0 },
      },
    );
    const plain = composeWarp(
      withTrim(withPanel(correction, 'p1', { margins: { top: 0, right: 0, bottom: 0, left: 0 } }), { around: 'panel', edges: 'keep' }),
      size,
    ).crop;
    expect(plain.width / plain.height).toBeCloseTo(1200 / 450, 4);
    const { crop } = composeWarp(withTrim(correction, { around: 'panel', edges: 'keep' }), size);
    expect(crop.width / plain.width).toBeCloseTo(1.1, 6);
    expect(crop.height / plain.height).toBeCloseTo(1.2, 6);
  });

  it('squares the demo’s name plate: its stance and ratio come from four corners (the camera that rendered it)', () => {
    const truth = JSON.parse(readFileSync(new URL('../../../demo/job/name-plate.truth.json', import.meta.url), 'utf8')) as {
      width: number;
      height: number;
      focal35: number;
      stance: { roll: number; tilt: number; swing: number };
      panels: { corners: [number, number][]; widthMm: number; heightMm: number }[];
    };
    const plate = truth.panels[0]!;
    const c = withNewPanel(newCorrection({ name: 'plate', width: truth.width, height: truth.height, focal35: truth.focal35 }), {
      corners: plate.corners as unknown as NonNullable<Panel['corners']>,
    });
    for (const movement of ['roll', 'tilt', 'swing'] as const)
      expect(Math.abs(c.stance[movement] - truth.stance[movement])).toBeLessThan(0.001);
    expect(solveCorrection(c, c.picture).panel!.ratio).toBeCloseTo(plate.widthMm / plate.heightMm, 4);
    expect(c.stance.aspect).toBeCloseTo(1, 4);
  });

  it('set aside and taken back in, a panel decides again', () => {
    const c = withNewPanel(blank, { corners: seen(1.5, { roll: 4, tilt: 9, swing: -12 }) });
    const aside = withPanel(c, 'p1', { used: false });
    expect(aside.stance).toMatchObject({ from: 'hand', roll: 0, tilt: 0, swing: 0, aspect: 1, shear: 0 });
    expect(withPanel(aside, 'p1', { used: true }).stance).toEqual(c.stance);
  });

  it('refuses corners that are no rectangle, naming the corner', () => {
    const panel = (corners: Panel['corners']): Panel => ({
      id: 'p1',
      corners,
      size: null,
      margins: { top: 0, right: 0, bottom: 0, left: 0 },
      used: true,
    });
    expect(() =>
      solvePanel(
        blank,
        size,
        panel([
          [0, 0],
          [1000, 0],
          [400, 300],
          [0, 900],
        ]),
      ),
    ).toThrow(/bottom right corner/);
    expect(() =>
      solvePanel(
        blank,
        size,
        panel([
          [0, 0],
          [500, 0],
          [1000, 0],
          [500, 900],
        ]),
      ),
    ).toThrow(/cannot be a rectangle/);
  });
});

describe('what is held back', () => {
  it('strength 0 gives back the original, and at every strength the vertical through the aim’s axis is plumb to 0.01 degrees', () => {
    for (const strength of [0, 0.3, 0.5, 0.8, 1, 1.1]) {
      const c = correctionSchema.parse({ ...blank, stance: { tilt: 15, swing: 20, strength: { tilt: strength, swing: strength } } });
      const warp = composeWarp({ ...c, crop: { ...c.crop, edges: 'keep' } }, size);
      if (strength === 0) expect(warp.toOutput(700, 300)).toEqual([expect.closeTo(700, 6), expect.closeTo(300, 6)]);
      const axis = axisOnPlane(c);
      expect(Math.abs(verticalLeanDeg(c, warp, axis))).toBeLessThan(0.01);
    }
  });

  it('middle plumb makes the vertical in the middle of any crop plumb to 0.01 degrees', () => {
    fc.assert(
      fc.property(
        attitudes,
        fc.double({ min: -600, max: 600, noNaN: true }),
        fc.double({ min: -300, max: 300, noNaN: true }),
        (attitude, x, y) => {
          const c = correctionSchema.parse({
            ...blank,
            stance: { ...attitude, strength: { tilt: 0.4, swing: 0.2 } },
            crop: { edges: 'keep', rect: { x: x - 200, y: y - 150, width: 400, height: 300 } },
          });
          const level = withMiddlePlumb(c);
          const warp = composeWarp(level, size);
          expect(Math.abs(verticalLeanDeg(level, warp, rectCentre(warp.crop)))).toBeLessThan(0.01);
        },
      ),
      { numRuns: 80, seed: 9 },
    );
  });
});

/** Where the plane shows the aim's own axis: a step of the aim ray by (dx, dy) moves the plane by s f (dx, dy), s the anchor's scale. */
function axisOnPlane(c: Correction): Point {
  const { w0, focalPx } = composeWarp({ ...c, crop: { ...c.crop, edges: 'keep' } }, size).stance;
  const [dx, dy] = aimRay(c, [0, 0]);
  return [-(w0 ** 1.5) * focalPx * dx, -(w0 ** 1.5) * focalPx * dy];
}

/** The aim ray of a plane point: M K^-1 of its ideal point, divided by its depth. */
function aimRay(c: Correction, at: Point): Point {
  const { toIdeal, focalPx, centre } = composeWarp({ ...c, crop: { ...c.crop, edges: 'keep' } }, size).stance;
  const w = toIdeal[6] * at[0] + toIdeal[7] * at[1] + toIdeal[8];
  const ideal: Point = [
    (toIdeal[0] * at[0] + toIdeal[1] * at[1] + toIdeal[2]) / w,
    (toIdeal[3] * at[0] + toIdeal[4] * at[1] + toIdeal[5]) / w,
  ];
  const r = rotationFromAttitude({ roll: c.stance.roll, tilt: c.stance.tilt, swing: c.stance.swing });
  const aim = rotationFromAttitude({
    roll: 0,
    tilt: (1 - c.stance.strength.tilt) * c.stance.tilt,
    swing: (1 - c.stance.strength.swing) * c.stance.swing,
  });
  const ray = [(ideal[0] - centre[0]) / focalPx, (ideal[1] - centre[1]) / focalPx, 1];
  const world = [0, 1, 2].map((k) => r[3 * k]! * ray[0]! + r[3 * k + 1]! * ray[1]! + r[3 * k + 2]! * ray[2]!);
  const v = [0, 1, 2].map((k) => aim[k]! * world[0]! + aim[3 + k]! * world[1]! + aim[6 + k]! * world[2]!);
  return [v[0]! / v[2]!, v[1]! / v[2]!];
}
