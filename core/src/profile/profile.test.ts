import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sampleBoards } from '../../tools/sample-boards';
import {
  blendedModel,
  bowOf,
  lensForPicture,
  lensOf,
  lensProfileSchema,
  matchProfiles,
  readLensFile,
  turnPoint,
  turnedSize,
  writeCalibration,
  writeProfile,
  type LensFacts,
  type LensModel,
  type LensProfile,
  type Point,
  type QuarterTurns,
} from '../index';

const frame = { width: 3600, height: 2400 };
const radial = (k1: number, k2 = 0): LensModel => ({ kind: 'radial', cx: 1800, cy: 1200, k1, k2 });
const profile = (change: Partial<LensProfile> = {}): LensProfile =>
  lensProfileSchema.parse({
    format: 'able-plumb/lens-profile',
    version: 1,
    id: 'zoom',
    name: 'Hollin Zoom 18-35 mm f/4',
    cameras: ['Garrow Field 24'],
    lenses: ['Hollin Zoom 18-35 mm f/4'],
    frame,
    rows: [
      { focalMm: 35, focal35: 35, model: radial(0.02) },
      { focalMm: 18, focal35: 18, model: radial(-0.08, 0.01), lateral: { red: 1.0004, blue: 0.9996 } },
      { focalMm: 24, focal35: 24, model: radial(-0.02) },
    ],
    ...change,
  });
const facts = (change: Partial<LensFacts> = {}): LensFacts => ({
  ...frame,
  camera: 'Garrow Field 24',
  lens: 'Hollin Zoom 18-35 mm f/4',
  focalMm: 18,
  orientation: 1,
  ...change,
});
const distorted = (model: LensModel, size: { width: number; height: number }, p: Point): Point => {
  const out = new Float64Array(2);
  expect(lensOf(model, size).distort(p[0], p[1], out)).toBe(true);
  return [out[0]!, out[1]!];
};

describe('a profile for a picture', () => {
  it('is the row of its focal length, between rows the mean by distance, beyond the ends the end, and says which', () => {
    const at = (focalMm: number | null) => lensForPicture(profile(), facts({ focalMm }));
    expect(at(18)).toMatchObject({ place: 'on', model: { k1: -0.08, k2: 0.01 }, lateral: { red: 1.0004 } });
    expect(at(18.2).place).toBe('on');
    const between = at(21);
    expect(between.place).toBe('between');
    expect((between.model as { k1: number }).k1).toBeCloseTo(-0.05, 12);
    expect(between.lateral.red).toBeCloseTo(1.0002, 12);
    expect(between.focalPx).toBeCloseTo((21 / Math.hypot(36, 24)) * Math.hypot(3600, 2400), 6);
    expect(at(12)).toMatchObject({ place: 'held', model: { k1: -0.08 } });
    expect(at(70)).toMatchObject({ place: 'held', model: { k1: 0.02 } });
    expect(at(null).place).toBe('unknown');
  });

  it('bends a picture of another size and turned by its camera exactly as the frame it was made from', () => {
    const model: LensModel = {
      kind: 'brown-conrady',
      fx: 1790,
      fy: 1812,
      cx: 1811,
      cy: 1189,
      k1: -0.11,
      k2: 0.012,
      p1: 0.0009,
      p2: -0.0012,
      k3: 0.001,
    };
    const p = profile({ rows: [{ focalMm: 18, focal35: null, model, lateral: { red: 1, blue: 1 }, reach: 1, madeFrom: '' }] });
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 3 }),
        fc.constantFrom(0.5, 1, 1.25),
        fc.tuple(fc.double({ min: 0, max: 3600, noNaN: true }), fc.double({ min: 0, max: 2400, noNaN: true })),
        (turns, factor, point) => {
          const orientation = [1, 6, 3, 8][turns]!;
          const size = turnedSize(frame, turns as QuarterTurns);
          const picture = facts({ width: size.width * factor, height: size.height * factor, orientation });
          const seen = lensForPicture(p, picture);
          const there = turnPoint(distorted(model, frame, point as Point), frame, turns as QuarterTurns);
          const from = turnPoint(point as Point, frame, turns as QuarterTurns);
          const got = distorted(seen.model, picture, [from[0] * factor, from[1] * factor]);
          // the ideal scale is sqrt(fx fy) in both, so that the same ideal point is meant
          expect(Math.hypot(got[0] / factor - there[0], got[1] / factor - there[1])).toBeLessThan(1e-6);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('refuses a picture that was cropped to other proportions, and takes one that was turned before it came', () => {
    expect(() => lensForPicture(profile(), facts({ width: 2400, height: 2400 }))).toThrow(/other proportions/);
    expect(lensForPicture(profile(), facts({ width: 2400, height: 3600 })).model).toMatchObject({ cx: 1200, cy: 1800 });
  });

  it('between two Brown-Conrady rows of different focal lengths displaces as much as the mean of both, in half diagonals', () => {
    const row = (f: number, k: number) => ({
      kind: 'brown-conrady' as const,
      fx: f,
      fy: f,
      cx: 1800,
      cy: 1200,
      k1: k,
      k2: 0,
      p1: 0,
      p2: 0,
      k3: 0,
    });
    const [a, b] = [row(1800, -0.1), row(2600, -0.06)];
    const middle = blendedModel(a, b, 0.5, frame);
    const shift = (model: LensModel): number => distorted(model, frame, [2700, 1200])[0] - 2700;
    expect(shift(middle)).toBeCloseTo((shift(a) + shift(b)) / 2, 9);
    // two kinds meet in the radial one
    const mixed = blendedModel(
      { kind: 'division', cx: 1800, cy: 1200, l1: -0.05, l2: 0 },
      { kind: 'radial', cx: 1800, cy: 1200, k1: -0.05, k2: 0 },
      0.5,
      frame,
    );
    expect(mixed.kind).toBe('radial');
    expect(Math.abs(shift(mixed) - shift({ kind: 'radial', cx: 1800, cy: 1200, k1: -0.05, k2: 0 }))).toBeLessThan(1);
  });

  it('of the demo job finds the engine hall by itself, and its known edges come out straight to 0.5 px (the lens that bent it)', async () => {
    const demo = (name: string): string => readFileSync(new URL(`../../../demo/job/${name}`, import.meta.url), 'utf8');
    const zoom = await readLensFile(demo('lenses/hollin-zoom-18-35.lens.json'), 'zoom.lens.json', 'x');
    const hall = JSON.parse(demo('engine-hall.truth.json')) as { lens: LensModel; edges: { name: string; a: Point; b: Point }[] };
    const picture = facts({ camera: 'Beck & Garrow Garrow Field 24' });
    expect(matchProfiles([zoom], picture)[0]!.sure).toBe(true);
    const [found, truly] = [lensOf(lensForPicture(zoom, picture).model, frame), lensOf(hall.lens, frame)];
    const out = new Float64Array(2);
    const through = (way: 'distort' | 'undistort', p: Point): Point => {
      expect(truly[way](p[0], p[1], out)).toBe(true);
      return [out[0]!, out[1]!];
    };
    for (const { name, a, b } of hall.edges) {
      const [p, q] = [through('undistort', a), through('undistort', b)];
      const seen = Array.from({ length: 15 }, (_, i) =>
        through('distort', [p[0] + ((q[0] - p[0]) * i) / 14, p[1] + ((q[1] - p[1]) * i) / 14]),
      );
      expect(bowOf(found, seen)!, name).toBeLessThan(0.5);
    }
  });

  it('is sure only when camera, lens and focal length all match; spaces and case do not matter', () => {
    const [sure] = matchProfiles([profile()], facts({ camera: 'GARROW  Field 24', focalMm: 30 }));
    expect(sure).toMatchObject({ camera: true, lens: true, focal: 'between', sure: true });
    for (const change of [
      { camera: 'Garrow Field 36' },
      { lens: 'Hollin 20 mm f/2.8' },
      { focalMm: 50 },
      { focalMm: null },
      { width: 2400 },
      { lens: null },
    ])
      expect(matchProfiles([profile()], facts(change))[0]!.sure, JSON.stringify(change)).toBe(false);
    const other = profile({ id: 'other', name: 'A lens', lenses: ['Hollin 20 mm f/2.8'] });
    expect(matchProfiles([other, profile()], facts()).map((m) => m.profile.id)).toEqual(['zoom', 'other']);
  });
});

const published = `${sampleBoards()}left_intrinsics.yml`;

describe('lens files', () => {
  it('reads OpenCV’s own sample calibration and writes it again in three forms without loss (opencv-doc of Debian)', async () => {
    const read = await readLensFile(readFileSync(published, 'utf8'), 'left_intrinsics.yml', 'id-1');
    expect(read).toMatchObject({ id: 'id-1', name: 'left_intrinsics', frame: { width: 640, height: 480 } });
    const { model } = read.rows[0]!;
    expect(model).toMatchObject({
      kind: 'brown-conrady',
      fx: 535.915733961632,
      k1: -0.2663726090966068,
      p1: 0.0017831947042852964,
      k3: 0.23839153080878486,
    });
    // pixel centres at whole numbers there, at .5 here
    expect((model as { cx: number }).cx).toBeCloseTo(342.28315473308373 + 0.5, 12);
    for (const form of ['opencv-yaml', 'opencv-json', 'camera-info'] as const)
      expect((await readLensFile(await writeCalibration(read, read.rows[0]!, form), 'again.yml', 'id-2')).rows[0]!.model, form).toEqual(
        model,
      );
    expect(await readLensFile(writeProfile(read), 'own.lens.json', 'unused')).toEqual(read);
  });

  it('reads a fisheye of camera_info, and refuses in a sentence what it does not understand, with nothing kept', async () => {
    const info = (model: string, d: string): string =>
      `image_width: 1600\nimage_height: 1200\ncamera_name: pole camera\ncamera_matrix:\n  rows: 3\n  cols: 3\n  data: [620, 0, 799.5, 0, 620, 599.5, 0, 0, 1]\ndistortion_model: ${model}\ndistortion_coefficients:\n  rows: 1\n  cols: 4\n  data: [${d}]\n`;
    const fisheye = await readLensFile(info('equidistant', '0.01, -0.002, 0, 0'), 'pole.yaml', 'x');
    expect(fisheye).toMatchObject({ name: 'pole camera', rows: [{ model: { kind: 'fisheye', cx: 800, cy: 600, k1: 0.01 } }] });
    const again = await readLensFile(await writeCalibration(fisheye, fisheye.rows[0]!, 'opencv-yaml'), 'a.yml', 'x');
    expect(again.rows[0]!.model.kind).toBe('fisheye');
    for (const [text, says] of [
      [info('rational_polynomial', '1, 2, 3, 4'), /rational_polynomial/],
      [info('plumb_bob', '0.1, 0, 0, 0, 0, 0.3, 0.1, 0.1'), /8 distortion coefficients|plumb_bob/],
      [info('plumb_bob', '-2.5, 0, 0, 0'), /bend the picture back over itself/],
      [info('plumb_bob', 'a, 0, 0, 0'), /not a matrix of numbers/],
      ['image_width: [', /not YAML/],
      ['{"format": "able-plumb/lens-profile", "version": 9}', /version 9/],
      ['{"format": "able-plumb/lens-profile", "version": 1, "id": "x"}', /impossible value at/],
      ['{"format": "other"}', /no lens profile/],
      ['hello: 1', /no lens file/],
      ['', /no lens file/],
    ] as const)
      await expect(readLensFile(text, 'bad.yml', 'x'), text.slice(0, 60)).rejects.toThrow(says);
  });
});
