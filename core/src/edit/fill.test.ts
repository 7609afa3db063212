import { describe, expect, it } from 'vitest';
import {
  appliedTo,
  changeInWords,
  composeWarp,
  correctionSchema,
  depthIn,
  newCorrection,
  toPicture,
  withAnotherTry,
  withEmptyEdges,
  withFillBox,
  withFillStroke,
  withoutFillMark,
  withStraightOn,
} from '../index';

const size = { width: 1200, height: 900 };
const tilted = correctionSchema.parse({ ...newCorrection({ name: 'x', ...size, focal35: 28 }), stance: { tilt: 9, roll: 3 } });

describe('what steers filling', () => {
  it('goes round the frame where nobody set a crop, and leaves one that was set', () => {
    expect(withEmptyEdges(tilted, 'fill').crop).toMatchObject({ edges: 'fill', around: 'frame' });
    const rect = { x: -100, y: -100, width: 300, height: 200 };
    expect(withEmptyEdges({ ...tilted, crop: { ...tilted.crop, rect } }, 'fill').crop).toMatchObject({ around: 'picture', rect });
    expect(withEmptyEdges(tilted, 'keep').crop).toMatchObject({ edges: 'keep', around: 'picture' });
  });

  it('keeps boxes and strokes where they were painted, in the picture, and scales them with it', () => {
    const filled = withEmptyEdges(tilted, 'fill');
    const warp = composeWarp(filled, size);
    const boxed = withFillBox(filled, warp, { x: -80, y: -60, width: 200, height: 120 }, 'not');
    const inside = toPicture(warp, [20, 0])!;
    const outside = toPicture(warp, [140, 0])!;
    const [box] = boxed.crop.fill.areas;
    expect(depthIn(box!, inside)).toBeGreaterThan(40);
    expect(depthIn(box!, outside)).toBeLessThan(0);
    const course = Array.from({ length: 400 }, (_, i): [number, number] => [-150 + i / 2, 80 + 10 * Math.sin(i / 20)]);
    const brushed = withFillStroke(boxed, warp, course, 30, 'only');
    const stroke = brushed.crop.fill.areas[1]!;
    expect(stroke).toMatchObject({ kind: 'only', id: 'area2' });
    expect(stroke.points.length).toBeLessThan(80);
    for (const p of course) expect(depthIn(stroke, toPicture(warp, p)!)).toBeGreaterThan(10);
    expect(depthIn(stroke, toPicture(warp, [-50, 120])!)).toBeLessThan(0);
    const half = appliedTo(brushed, { name: 'half', width: 600, height: 450 }).correction.crop.fill.areas[1]!;
    expect([half.widthPx, half.points[0]![0]]).toEqual([stroke.widthPx! / 2, stroke.points[0]![0] / 2]);
    expect(withoutFillMark(brushed, 'area1').crop.fill.areas.map(({ id }) => id)).toEqual(['area2']);
    expect(() => withFillBox(filled, { ...warp, planeToPicture: () => false }, { x: 0, y: 0, width: 9, height: 9 }, 'not')).toThrow(
      /no picture/,
    );
  });

  it('says in a few words what was done', () => {
    const lined = withStraightOn(tilted, [1, 2], [30, 4]);
    expect(lined.crop.fill.lines).toEqual([{ id: 'on1', a: [1, 2], b: [30, 4] }]);
    expect(changeInWords(tilted, lined)).toBe('how empty edges are filled');
    expect(withAnotherTry(withAnotherTry(tilted)).crop.fill.seed).toBe(3);
    expect(changeInWords(tilted, withEmptyEdges(tilted, 'fill'))).toBe('empty edges');
  });
});
