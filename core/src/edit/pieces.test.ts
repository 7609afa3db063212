import { describe, expect, it } from 'vitest';
import { newCorrection } from '../correction/new-correction';
import { parseCorrection } from '../correction/parse-correction';
import type { Correction, Piece } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { withNewPanel, withPanel } from './panels';
import { pieceCorrection, pieceRollDeg } from './piece-correction';
import {
  asSheet,
  followedPiece,
  followsOutline,
  sheetOf,
  sheetWith,
  takenFromSheet,
  withCutPiece,
  withFoundPieces,
  withJoinedPieces,
  withoutPiece,
  withSheet,
  withTurnedPieces,
} from './pieces';
import { whatItSays } from '../find/suggest';
import { withRollAdjust } from './stance';

const SIZE = { name: 'heap.jpg', width: 3000, height: 2000 };
/** A print of 1200 x 800 px that lies by so many degrees anticlockwise about a point. */
function lying(deg: number, [x, y]: readonly [number, number] = [1500, 1000], [w, h] = [1200, 800]): Piece['corners'] {
  const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
  const at = (u: number, v: number): [number, number] => [x + c * u + s * v, y - s * u + c * v];
  return [at(-w! / 2, -h! / 2), at(w! / 2, -h! / 2), at(w! / 2, h! / 2), at(-w! / 2, h! / 2)];
}
const piece = (corners: Piece['corners'], more: Partial<Piece> = {}): Piece => ({ id: 's1', corners, quarterTurns: 0, ...more });
const sheet = (...corners: Piece['corners'][]): Correction =>
  withFoundPieces(
    newCorrection({ ...SIZE, focal35: null }),
    corners.map((c) => ({ corners: c })),
    { taken: 'scanned', ppi: 300 },
  );

describe('a piece’s picture', () => {
  it('is its print, straight, by its sides or by its corners, in any quarter turn, less its inset', () => {
    for (const deg of [-24, -3.1, 0, 7.7])
      for (const taken of ['scanned', 'photographed'] as const)
        for (const quarterTurns of [0, 1, 2, 3] as const) {
          const corners = lying(deg);
          const correction = pieceCorrection(SIZE, piece(corners, { quarterTurns }), sheetWith({ taken }));
          const warp = composeWarp(correction, SIZE);
          const { width, height } = warp.outputSize;
          expect([width, height].sort()).toEqual([1200, 800]);
          expect(width > height).toBe(quarterTurns % 2 === 0);
          // the print's first corner goes round with the turns
          const ends = [
            [0, 0],
            [width, 0],
            [width, height],
            [0, height],
          ] as const;
          corners.forEach((p, i) => {
            const at = warp.toOutput(p[0], p[1]);
            const end = ends[(i + quarterTurns) % 4] as readonly [number, number];
            expect(Math.hypot((at?.[0] ?? NaN) - end[0], (at?.[1] ?? NaN) - end[1])).toBeLessThan(0.6);
          });
        }
    expect(pieceRollDeg(lying(-3.1))).toBeCloseTo(-3.1, 9);
    const inset = pieceCorrection(SIZE, piece(lying(2)), sheetWith({ inset: { value: 2.54, unit: 'mm' }, ppi: 100 }));
    expect(composeWarp(inset, SIZE).outputSize).toEqual({ width: 1180, height: 780 });
    const inner = piece(lying(2), { inner: lying(2, [1500, 1000], [1000, 600]) });
    expect(composeWarp(pieceCorrection(SIZE, inner, sheetWith({ border: 'inside' })), SIZE).outputSize).toEqual({
      width: 1000,
      height: 600,
    });
  });

  it('follows its outline until a hand changes it, and back by undo; deliveries and size are its own', () => {
    const before = sheet(lying(3));
    const { pieces } = sheetOf(before);
    const own = pieceCorrection(SIZE, pieces[0] as Piece, sheetOf(before));
    expect(followsOutline(parseCorrection(JSON.parse(JSON.stringify(own))))).toBe(true);
    const delivered: Correction = { ...own, output: { ...own.output, size: { kind: 'long-edge', px: 900 } } };
    const moved = withSheet(before, { pieces: [piece(lying(4.5), { id: pieces[0]?.id as string })] });
    const next = followedPiece(delivered, sheetOf(moved)) as Correction;
    expect(next.stance.roll).toBeCloseTo(4.5, 6);
    expect(next.output.size).toEqual({ kind: 'long-edge', px: 900 });
    expect(followedPiece(next, sheetOf(before))?.stance.roll).toBeCloseTo(3, 6);
    const byHand = withRollAdjust(own, 0.4);
    expect(followsOutline(byHand)).toBe(false);
    expect(followedPiece(byHand, sheetOf(moved))).toBe(byHand);
    expect(followedPiece(own, sheetOf(withoutPiece(moved, pieces[0]?.id as string)))).toBeNull();
  });
});

describe('a sheet', () => {
  it('is worked on as panels on the bare picture, and nothing else of its document changes', () => {
    const own = withRollAdjust(sheet(lying(3, [800, 1000], [700, 500]), lying(-2, [2200, 1000], [700, 500])), 1.2);
    const shown = asSheet(own);
    expect(shown.panels.map(({ id }) => id)).toEqual(['s1', 's2']);
    expect(composeWarp(shown, SIZE).pixelExact).toBe(true);
    expect(takenFromSheet(shown, own)).toEqual(own);
    const moved = withPanel(shown, 's2', { corners: lying(5, [2200, 1000], [700, 500]) });
    const added = withNewPanel(moved, { corners: lying(0, [1500, 300], [300, 200]) });
    const after = takenFromSheet(added, own);
    expect(after.stance).toEqual(own.stance);
    expect(sheetOf(after).pieces.map(({ id }) => id)).toEqual(['s1', 's2', 's3']);
    expect(pieceRollDeg(sheetOf(after).pieces[1]?.corners as Piece['corners'])).toBeCloseTo(5, 6);
    expect(takenFromSheet({ ...added, panels: added.panels.slice(1) }, after).sheet?.pieces).toHaveLength(2);
  });

  it('found again keeps the pieces that lie where they lay; an id that is gone is never another piece’s', () => {
    const [left, right, new_] = [lying(3, [800, 1000], [700, 500]), lying(-2, [2200, 1000], [700, 500]), lying(0, [1500, 300], [300, 200])];
    const split = withTurnedPieces(sheet(left, right), 's2', 1);
    const again = withFoundPieces(split, [{ corners: new_ }, { corners: lying(-2.2, [2205, 1003], [705, 500]) }], {});
    expect(sheetOf(again).pieces.map(({ id, quarterTurns }) => [id, quarterTurns])).toEqual([
      ['s3', 0],
      ['s2', 1],
    ]);
    const gone = withoutPiece(again, 's3');
    const drawn = takenFromSheet(withNewPanel(asSheet(gone), { corners: left }), gone);
    expect(sheetOf(drawn).pieces.map(({ id }) => id)).toEqual(['s2', 's4']);
  });

  it('has its pieces cut along a line, joined, and turned', () => {
    const own = sheet(lying(2, [1500, 1000], [2000, 800]));
    const cut = withCutPiece(own, 's1', [1495, 300], [1510, 1700]);
    const [left, right] = sheetOf(cut).pieces as [Piece, Piece];
    expect([left.id, right.id]).toEqual(['s1', 's2']);
    expect(left.corners[1]).toEqual(right.corners[0]);
    expect(left.corners[1][0]).toBeGreaterThan(1480);
    // a line that misses changes nothing
    expect(withCutPiece(own, 's1', [10, 300], [12, 1700])).toBe(own);
    const [joined, ...rest] = sheetOf(withJoinedPieces(cut, 's1', 's2')).pieces;
    expect(rest).toEqual([]);
    joined?.corners.forEach((p, i) =>
      expect(Math.hypot(p[0] - own.sheet!.pieces[0]!.corners[i]![0], p[1] - own.sheet!.pieces[0]!.corners[i]![1])).toBeLessThan(1e-6),
    );
    expect(sheetOf(withTurnedPieces(cut, null, -1)).pieces.map((p) => p.quarterTurns)).toEqual([3, 3]);
    expect(sheetOf(withTurnedPieces(cut, 's2', 1)).pieces.map((p) => p.quarterTurns)).toEqual([0, 1]);
  });
});

describe('a piece', () => {
  it('says of itself what is on it, not what lies beside it: a page at 3 degrees on a print that lies at 8', () => {
    const [width, height] = [1200, 900];
    const data = new Uint8Array(width * height).fill(60);
    /** A print of 420 x 300 px with rows of writing that slope against it by some degrees. */
    const print = (x: number, y: number, deg: number, slope: number): Piece['corners'] => {
      const [c, s] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
      const t = Math.tan((slope * Math.PI) / 180);
      for (let j = 0; j < height; j += 1)
        for (let i = 0; i < width; i += 1) {
          const [u, v] = [c * (i - x) - s * (j - y), s * (i - x) + c * (j - y)];
          if (Math.abs(u) > 210 || Math.abs(v) > 150) continue;
          const row = (((v + u * t) % 18) + 18) % 18;
          const letter = Math.sin(u * 1.7 + Math.floor((v + u * t) / 18) * 2.3) > -0.4;
          data[j * width + i] = row < 7 && letter && Math.abs(u) < 180 && Math.abs(v) < 125 ? 40 : 235;
        }
      return lying(deg, [x, y], [420, 300]);
    };
    const own = print(300, 300, 8, -5);
    print(850, 600, -4, 0);
    const picture = { name: '', width, height };
    const correction = pieceCorrection(picture, piece(own), sheetWith({}));
    const { suggestions, witnesses } = whatItSays({ width, height, channels: 1, data }, correction);
    for (const { a } of witnesses) expect(Math.hypot(a[0] - 300, a[1] - 300)).toBeLessThan(260);
    expect(suggestions[0]?.kind).toBe('sheet');
    // rows that slope by 5 less than their print, which lies at 8
    expect(suggestions[0]?.stance.roll).toBeCloseTo(3, 0);
  });
});
