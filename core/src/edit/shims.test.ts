import { describe, expect, it } from 'vitest';
import {
  composeWarp,
  costOf,
  crossingAt,
  distance,
  newCorrection,
  planeWarp,
  shimsOnPlane,
  toPicture,
  toPlane,
  withNailSwitched,
  withoutShimLine,
  withPlacesMoved,
  withShim,
  withShimBox,
  withShimCorner,
  withShimLine,
  withShimLineKind,
  withShimNet,
  type Correction,
  type Point,
} from '../index';

const size = { width: 2400, height: 1600 };
const blank = newCorrection({ name: 'x', ...size, focal35: 28 });
const plain = planeWarp(blank, size);
/** A box round a picture point. */
const drawn = (at: Point, width: number, height: number, to: Correction = blank): Correction => {
  const [x, y] = toPlane(planeWarp(to, size), at)!;
  return withShim(to, planeWarp(to, size), { x: x - width / 2, y: y - height / 2, width, height });
};
const only = (c: Correction) => shimsOnPlane(c, planeWarp(c, size))[0]!;

describe('what a hand does with a shim', () => {
  it('a crossing goes where it is dragged, and stops before anything folds', () => {
    const c = drawn([1200, 800], 400, 300);
    const from = crossingAt(c.ease.shims[0]!, 2, 3);
    const near = withPlacesMoved(c, 'shim1', [from], [12, -9]);
    expect(near.stopped).toBe(false);
    const at = only(near.correction).crossings.find((p) => p.hold === 'moved')!.at;
    const rest = only(c).crossings.find((p) => p.column === 2 && p.row === 3)!.at;
    expect(distance(at, [rest[0] + 12, rest[1] - 9])).toBeLessThan(0.1);
    // by keys to the limit: step after step it stops, and stays whole
    let far = c;
    let stops = 0;
    for (let i = 0; i < 30; i += 1) {
      const next = withPlacesMoved(far, 'shim1', [from], [10, 0]);
      if (next.stopped) stops += 1;
      far = next.correction;
    }
    expect(stops).toBeGreaterThan(5);
    const { share, smallestArea, largestArea } = only(far);
    expect(share).toBeCloseTo(1, 5);
    expect(Math.min(smallestArea, 1 / largestArea)).toBeGreaterThanOrEqual(0.2 - 1e-6);
    expect(Math.min(smallestArea, 1 / largestArea)).toBeLessThan(0.25);
    // what is enlarged most is counted
    expect(costOf(planeWarp(far, size), composeWarp(far, size).crop).peakEnlargement).toBeGreaterThan(1.5);
  });

  it('columns moved towards each other make what lies between narrower by 12 %, and no vertical outside bends', () => {
    // a person 150 px wide in the middle of the box
    let c = drawn([1200, 800], 620, 700);
    const columnAt = (i: number): Point[] => Array.from({ length: 6 }, (_, row) => crossingAt(c.ease.shims[0]!, i, row));
    const width = (of: Correction): number => toPlane(planeWarp(of, size), [1275, 800])![0] - toPlane(planeWarp(of, size), [1125, 800])![0];
    const before = width(c);
    // as a hand does it: on until the reading is right
    for (let i = 0; i < 8; i += 1) {
      const by = (width(c) - 0.88 * before) / 2;
      c = withPlacesMoved(c, 'shim1', columnAt(2), [by, 0]).correction;
      c = withPlacesMoved(c, 'shim1', columnAt(3), [-by, 0]).correction;
    }
    expect(1 - width(c) / before).toBeCloseTo(0.12, 2);
    const warp = planeWarp(c, size);
    for (const x of [880, 1520]) for (let y = 100; y < 1500; y += 50) expect(toPlane(warp, [x, y])).toEqual(toPlane(plain, [x, y]));
  });

  it('a line makes the room and the net that it needs to come true to its ends, and says by how much it is off', () => {
    const ends: Point[] = [
      [1050, 830],
      [1350, 809],
    ];
    const c = withShimLine(drawn([1200, 800], 330, 160), 'shim1', ends);
    const [line] = only(c).lines;
    expect(line!.line.kind).toBe('level');
    expect(line!.offPx).toBeLessThan(0.1);
    const [a, b] = ends.map((p) => toPlane(planeWarp(c, size), p)!) as [Point, Point];
    expect(Math.abs(a[1] - b[1])).toBeLessThan(0.1);
    const off = only({ ...c, ease: { ...c.ease, shims: [{ ...c.ease.shims[0]!, used: false }] } });
    expect(off.lines[0]!.offPx).toBeCloseTo(toPlane(plain, ends[0]!)![1] - toPlane(plain, ends[1]!)![1], 6);
    expect(() => withShimLineKind(c, 'shim1', 'line1', 'plumb')).toThrow(/nearer to level/);
    expect(withoutShimLine(c, 'shim1', 'line1').ease.shims[0]!.lines).toEqual([]);
  });

  it('a box that is moved or sized, and a finer net, leave what is held where it is; a nail holds what is there', () => {
    const c = drawn([1200, 800], 400, 300);
    const from = crossingAt(c.ease.shims[0]!, 2, 2);
    const moved = withPlacesMoved(c, 'shim1', [from], [10, 6]).correction;
    const [x, y] = toPlane(plain, [1200, 800])!;
    const target: Point = [x + from[0] + 10, y + from[1] + 6];
    const under = (of: Correction): Point => toPicture(planeWarp(of, size), target)!;
    for (const next of [
      withShimNet(moved, 'shim1', 3),
      withShimBox(moved, 'shim1', { x: x - 230, y: y - 170, width: 440, height: 330 }),
      withShimCorner(moved, 'shim1', 0, [-60, -40]),
    ])
      expect(distance(under(next), under(moved))).toBeLessThan(0.2);
    const nailed = withNailSwitched(moved, 'shim1', crossingAt(c.ease.shims[0]!, 3, 3));
    const beside = withPlacesMoved(nailed, 'shim1', [from], [14, 8]).correction;
    const nail = (of: Correction): Point => only(of).crossings.find((p) => p.column === 3 && p.row === 3)!.at;
    expect(distance(nail(nailed), nail(moved))).toBeLessThan(0.05);
    expect(distance(nail(beside), nail(nailed))).toBeLessThan(0.05);
    expect(withNailSwitched(nailed, 'shim1', crossingAt(c.ease.shims[0]!, 3, 3)).ease.shims[0]!.holds.some((h) => h.nail)).toBe(false);
  });

  it('refuses boxes outside the picture or too small for a net, in a sentence', () => {
    expect(() => drawn([-400, 800], 300, 300)).toThrow(/outside the picture/);
    expect(() => drawn([1200, 800], 300, 10)).toThrow(/24 px/);
  });
});
