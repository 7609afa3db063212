import { describe, expect, it } from 'vitest';
import {
  apply3,
  centredOn,
  centringAims,
  composeWarp,
  copiedTo,
  correctionSchema,
  cropMagnet,
  cutBoxes,
  dragCrop,
  eyeHeight,
  heightInCrop,
  isUntouched,
  magnetStep,
  newCorrection,
  offAim,
  planeWarp,
  solveCorrection,
  toPicture,
  toPlane,
  waysToKeep,
  withKeepBox,
  withoutKeepBox,
  withQuarterTurn,
  type Correction,
  type CorrectionInput,
  type Point,
} from '../index';
import { transpose3 } from '../linear/mat3';
import { rotationFromAttitude } from '../stance/attitude';

const picture = { name: 'hall.jpg', width: 3000, height: 2000 };
const make = (change: Partial<CorrectionInput> = {}): Correction =>
  correctionSchema.parse({ format: 'able-plumb/correction', version: 1, picture, camera: { focalPx: 2400 }, ...change });

/** Where a camera of a known attitude sees a point of the world, px: the pinhole worked out by itself. */
function seen(attitude: { roll: number; tilt: number; swing: number }, world: Point & { readonly length: 2 }, depth: number): Point {
  const v = apply3(transpose3(rotationFromAttitude(attitude)), [world[0], world[1], depth]);
  return [1500 + (2400 * v[0]) / v[2], 1000 + (2400 * v[1]) / v[2]];
}

describe('keep boxes', () => {
  const tilted = make({ stance: { tilt: 12, swing: 6 }, crop: { ratio: 'free' } });

  it('are drawn on the result and lie on the same part of the picture; one that the crop cuts has ways out, each of which keeps it', () => {
    const warp = planeWarp(tilted, picture);
    const crop = composeWarp(tilted, picture).crop;
    // far to one side, where the trim ends
    const drawn = { x: crop.x + crop.width - 260, y: crop.y + 500, width: 330, height: 300 };
    const boxed = withKeepBox(tilted, warp, drawn);
    const [box] = boxed.crop.keep;
    const middle = toPlane(warp, [box!.x + box!.width / 2, box!.y + box!.height / 2])!;
    // what was drawn over beyond the picture is cut off
    expect(Math.hypot(middle[0] - drawn.x - 165, middle[1] - drawn.y - 150)).toBeLessThan(40);
    expect(cutBoxes(boxed, warp, crop)).toBe(1);
    const ways = waysToKeep(boxed);
    expect(ways.map((w) => w.kind)).toEqual(['around-keep', 'hold-back', 'keep-edges']);
    for (const way of ways) {
      const next = composeWarp(way.correction, picture);
      expect(cutBoxes(way.correction, next, next.crop), way.kind).toBe(0);
    }
    expect(ways[1]!.strength).toBeGreaterThan(0.05);
    expect(ways[1]!.strength).toBeLessThan(1);
    expect(waysToKeep(ways[0]!.correction)).toEqual([]);
    expect(withoutKeepBox(ways[0]!.correction, box!.id).crop).toMatchObject({ keep: [], around: 'lines' });
  });

  it('outside the picture are none', () => {
    const warp = planeWarp(tilted, picture);
    expect(withKeepBox(tilted, warp, { x: 9000, y: 9000, width: 50, height: 50 })).toBe(tilted);
  });
});

describe('the magnet of the crop', () => {
  const correction = make({ guides: [{ id: 'g1', axis: 'x', at: 400 }] });
  const magnet = cropMagnet(correction, planeWarp(correction, picture));
  const crop = { x: -1000, y: -700, width: 1393, height: 1200 };

  it('draws a dragged side to a guide, a corner to the outline, and a moved crop’s middle to the middle line; nothing beyond its reach', () => {
    const dragged = (part: Parameters<typeof dragCrop>[1], by: Point): [number, number] => {
      const free = dragCrop(crop, part, by);
      const step = magnetStep(free, part, magnet, 10);
      const rect = dragCrop(crop, part, [by[0] + step[0], by[1] + step[1]]);
      return part === 'inside' ? [rect.x + rect.width / 2, rect.y + rect.height / 2] : [rect.x + rect.width, rect.y + rect.height];
    };
    expect(dragged('e', [1, 0])[0]).toBeCloseTo(400, 9);
    expect(dragged('e', [-60, 0])[0]).toBeCloseTo(333, 9);
    expect(dragged('se', [1104, 494])).toEqual([1500, 1000].map((v) => expect.closeTo(v, 9) as number));
    expect(dragged('inside', [300, 98])[0]).toBeCloseTo(0, 9);
  });
});

describe('symmetry and the height of the eye', () => {
  const attitude = { roll: 3, tilt: 9, swing: -7 };
  const line = (id: string, kind: 'plumb' | 'level' | 'eye', p: Point, q: Point) => ({
    id,
    kind,
    a: [p[0], p[1]] as [number, number],
    b: [q[0], q[1]] as [number, number],
  });
  // a wall 10 m away, looked at from 1.6 m: world x right, y down from the eye, in m
  const at = (x: number, y: number, z = 10): Point => seen(attitude, [x, y] as Point & { readonly length: 2 }, z);
  const solved = solveCorrection(
    make({
      references: [
        line('r1', 'plumb', at(-3, -3), at(-3, 1)),
        line('r2', 'plumb', at(3, -3), at(3, 1)),
        line('r3', 'level', at(-3, -2), at(3, -2)),
        line('r4', 'level', at(-3, 1), at(3, 1)),
      ],
      stance: { from: 'references' },
      crop: { edges: 'keep', rect: { x: -900, y: -600, width: 1800, height: 1200 } },
    }),
    picture,
  ).correction;
  const warp = composeWarp(solved, picture);

  it('has its eye line where the horizon of the true camera lies, and says that the stance tells it', () => {
    const eye = eyeHeight(solved, warp, warp.crop)!;
    // the horizon: a point straight ahead at the eye's own height, very far away
    const far = toPlane(warp, at(0, 0, 1e6))!;
    expect(eye.from).toBe('stance');
    expect(eye.y).toBeCloseTo(far[1], 1);
    expect(heightInCrop({ x: 0, y: 0, width: 10, height: 200 }, 150)).toBe(25);
  });

  it('takes a marked eye line before the stance, never a level line, and says nothing where nothing tells', () => {
    const marked = {
      ...solved,
      references: [...solved.references, { ...line('r5', 'eye', at(-2, 0.4), at(2, 0.4)), statedAngle: 0, used: true }],
    };
    const eye = eyeHeight(marked, warp, warp.crop)!;
    expect(eye.from).toBe('eye line');
    expect(eye.y).toBeCloseTo(toPlane(warp, at(0, 0.4))![1], 1);
    expect(eyeHeight(make(), composeWarp(make(), picture), warp.crop)).toBeNull();
    expect(eyeHeight({ ...solved, camera: { ...solved.camera, flat: true } }, warp, warp.crop)).toBeNull();
  });

  it('centres the crop on a plumb line across, on the meeting point both ways', () => {
    const aims = centringAims(solved, warp, 'r2');
    expect(aims.map((a) => a.key)).toEqual(['line', 'meeting']);
    for (const aim of aims) {
      const [x, y] = offAim(centredOn(warp.crop, aim), aim);
      expect([x, y]).toEqual([expect.closeTo(0, 9), aim.key === 'line' ? null : expect.closeTo(0, 9)]);
    }
    const meeting = aims[1]!;
    const far = toPlane(warp, at(0, 0, 1e6))!;
    expect([meeting.x, meeting.y]).toEqual([expect.closeTo(far[0], 1), expect.closeTo(far[1], 1)]);
  });
});

describe('copying between pictures', () => {
  it('gives a stance as it is used, as set by hand, so that the same picture points come to lie alike', () => {
    const from = withQuarterTurn(make({ stance: { roll: 2, tilt: 5, swing: 3, adjust: { roll: 0.5 } }, references: [] }), 1);
    const to = newCorrection({ name: 'other.jpg', width: 3000, height: 2000, focal35: 28.8444 });
    const next = copiedTo({ ...to, camera: from.camera }, from, ['stance']);
    expect(next.stance.from).toBe('hand');
    expect(next.picture.name).toBe('other.jpg');
    const [p, q] = [toPicture(planeWarp(from, picture), [100, 200])!, toPicture(planeWarp(next, picture), [100, 200])!];
    expect(q[0]).toBeCloseTo(p[0], 6);
    expect(q[1]).toBeCloseTo(p[1], 6);
    expect(isUntouched(to)).toBe(true);
    expect(isUntouched(next)).toBe(false);
  });

  it('scales a crop for another size and refuses other proportions', () => {
    const from = make({ crop: { rect: { x: -100, y: -50, width: 200, height: 100 } } });
    const half = newCorrection({ name: 'half.jpg', width: 1500, height: 1000, focal35: 28 });
    expect(copiedTo(half, from, ['crop']).crop.rect).toEqual({ x: -50, y: -25, width: 100, height: 50 });
    expect(() => copiedTo(newCorrection({ name: 't', width: 1000, height: 1500, focal35: 28 }), from, ['crop'])).toThrow(
      /other proportions/,
    );
  });
});
