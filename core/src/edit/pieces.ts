import { newCorrection } from '../correction/new-correction';
import { correctionSchema, sheetSchema, type Correction, type Panel, type Piece, type Sheet } from '../correction/schema';
import type { Point } from '../picture/point';
import { isInside, polygonArea } from '../picture/polygon';
import { cornersOfEdges } from '../stance/corners-of-edges';
import { sortCorners } from '../stance/homography-from-corners';
import { pieceCorrection } from './piece-correction';
import { mapQuad } from '../picture/quad';

/** A sheet with some things said of it. */
export const sheetWith = (change: Partial<Sheet>): Sheet => ({ ...sheetSchema.parse({}), ...change });

/** The sheet that a picture is; an empty one where nobody said so yet. */
export const sheetOf = (correction: Correction | null): Sheet => correction?.sheet ?? sheetWith({});

/** The document with another sheet. */
export function withSheet(correction: Correction, change: Partial<Sheet>): Correction {
  const before = sheetOf(correction);
  const sheet = { ...before, ...change };
  return { ...correction, sheet: { ...sheet, lastId: Math.max(lastIdOf(before), lastIdOf(sheet)) } };
}

/** The document of a picture that is no sheet after all. */
export function withoutSheet({ sheet: _dropped, ...correction }: Correction): Correction {
  return correction;
}

/** The number of an id; 0 for one of another kind. */
const numberOf = (id: string): number => Number(/^s(\d+)$/.exec(id)?.[1] ?? 0);
const lastIdOf = ({ lastId, pieces }: Sheet): number => pieces.reduce((most, { id }) => Math.max(most, numberOf(id)), lastId);
const nextId = (sheet: Sheet, beyond = 0): string => `s${1 + beyond + lastIdOf(sheet)}`;

/**
 * The document with the pieces that were found on it, in their order. One that lies where one lay before is that one still, with its turns;
 * all others that were there are dropped.
 */
export function withFoundPieces(
  correction: Correction,
  found: readonly Pick<Piece, 'corners' | 'inner' | 'how'>[],
  facts: Partial<Pick<Sheet, 'taken' | 'ppi'>>,
): Correction {
  const sheet = sheetOf(correction);
  const left = [...sheet.pieces];
  let beyond = 0;
  const pieces = found.map((piece): Piece => {
    const at = left.findIndex(({ corners }) => isInside(piece.corners, middleOf(corners)) && isInside(corners, middleOf(piece.corners)));
    const [known] = at < 0 ? [] : left.splice(at, 1);
    return { id: known?.id ?? nextId(sheet, beyond++), quarterTurns: known?.quarterTurns ?? 0, ...piece };
  });
  return withSheet(correction, { pieces, ...facts });
}

const middleOf = (corners: Piece['corners']): Point => [
  corners.reduce((sum, p) => sum + p[0], 0) / 4,
  corners.reduce((sum, p) => sum + p[1], 0) / 4,
];

/** A sheet as it is worked on: the bare picture, with its pieces as panels. */
export function asSheet(own: Correction): Correction {
  const { picture } = own;
  const bare = newCorrection({ ...picture, focal35: null, flat: true });
  return {
    ...bare,
    panels: sheetOf(own).pieces.map(({ id, corners }): Panel => ({
      id,
      corners,
      size: null,
      margins: { top: 0, right: 0, bottom: 0, left: 0 },
      used: true,
    })),
    crop: { ...bare.crop, edges: 'keep', ratio: 'free', around: 'picture' },
  };
}

/** A picture's own document after its sheet was worked on. */
export function takenFromSheet(changed: Correction, own: Correction): Correction {
  const sheet = sheetOf(own);
  const before = sheet.pieces;
  let beyond = 0;
  const pieces = changed.panels.flatMap((panel): Piece[] => {
    const known = before.find(({ id }) => id === panel.id);
    const corners = panelCorners(panel);
    if (!corners) return known ? [known] : [];
    if (known && JSON.stringify(known.corners) === JSON.stringify(corners)) return [known];
    // a hand moved it: what was found of it no longer holds
    return [{ id: known?.id ?? nextId(sheet, beyond++), corners, quarterTurns: known?.quarterTurns ?? 0 }];
  });
  return withSheet(own, { pieces });
}

/** The corners of a marked panel, top left first; null where they make no rectangle. */
function panelCorners({ corners, edges }: Panel): Piece['corners'] | null {
  try {
    const marked = edges ? cornersOfEdges(edges) : corners;
    if (!marked) return null;
    return mapQuad(sortCorners(marked), ([x, y]): [number, number] => [x, y]);
  } catch {
    return null;
  }
}

const withPieces = (correction: Correction, change: (pieces: readonly Piece[]) => Piece[]): Correction =>
  withSheet(correction, { pieces: change(sheetOf(correction).pieces) });

/** The document without one piece. */
export const withoutPiece = (correction: Correction, id: string): Correction =>
  withPieces(correction, (pieces) => pieces.filter((piece) => piece.id !== id));

/** The document with one piece, or all, turned clockwise by quarters. */
export const withTurnedPieces = (correction: Correction, id: string | null, by: number): Correction =>
  withPieces(correction, (pieces) =>
    pieces.map((piece) =>
      id === null || piece.id === id
        ? { ...piece, quarterTurns: ((((piece.quarterTurns + by) % 4) + 4) % 4) as Piece['quarterTurns'] }
        : piece,
    ),
  );

/** Two pieces become one whose outline holds both, turned as the larger one lies; it stands where the first one stood. */
export function withJoinedPieces(correction: Correction, a: string, b: string): Correction {
  const { pieces } = sheetOf(correction);
  const both = pieces.filter(({ id }) => id === a || id === b);
  const [first, second] = both;
  if (!first || !second) return correction;
  const larger = polygonArea(first.corners) >= polygonArea(second.corners) ? first : second;
  const corners = boxLike(larger.corners, [...first.corners, ...second.corners]);
  return withPieces(correction, (all) =>
    all.flatMap((piece) =>
      piece === first ? [{ id: first.id, corners, quarterTurns: first.quarterTurns }] : piece === second ? [] : [piece],
    ),
  );
}

/** One piece becomes two along a straight line through two points, picture px; unchanged where the line does not cross it. */
export function withCutPiece(correction: Correction, id: string, p: Point, q: Point): Correction {
  const sheet = sheetOf(correction);
  const { pieces } = sheet;
  const cut = pieces.find((piece) => piece.id === id);
  if (!cut) return correction;
  const [a, b, c, d] = cut.corners;
  // the two opposite sides that the line crosses more squarely are parted where it crosses them
  const across = crossings([a, b], [d, c], p, q) ?? null;
  const down = crossings([a, d], [b, c], p, q) ?? null;
  const halves = across
    ? ([
        [a, across[0], across[1], d],
        [across[0], b, c, across[1]],
      ] as const)
    : down
      ? ([
          [a, b, down[1], down[0]],
          [down[0], down[1], c, d],
        ] as const)
      : null;
  if (!halves) return correction;
  const two = halves.map((corners, i): Piece => ({
    id: i === 0 ? cut.id : nextId(sheet),
    corners: corners as unknown as Piece['corners'],
    quarterTurns: cut.quarterTurns,
  }));
  return withPieces(correction, (all) => all.flatMap((piece) => (piece === cut ? two : [piece])));
}

type Corner = Piece['corners'][number];

/** Where a line crosses two sides, each between its ends; null where it misses one. */
function crossings(first: readonly [Corner, Corner], second: readonly [Corner, Corner], p: Point, q: Point): [Corner, Corner] | null {
  const on = ([a, b]: readonly [Corner, Corner]): Corner | null => {
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const denominator = dx * (b[1] - a[1]) - dy * (b[0] - a[0]);
    if (Math.abs(denominator) < 1e-9) return null;
    const t = (dy * (a[0] - p[0]) - dx * (a[1] - p[1])) / denominator;
    return t > 0.02 && t < 0.98 ? [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])] : null;
  };
  const [u, v] = [on(first), on(second)];
  return u && v ? [u, v] : null;
}

/** The rectangle around points with sides along those of another one. */
function boxLike([a, b]: Piece['corners'], points: readonly Point[]): Piece['corners'] {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const [c, s] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const us = points.map(([x, y]) => x * c + y * s);
  const vs = points.map(([x, y]) => y * c - x * s);
  const at = (u: number, v: number): Corner => [u * c - v * s, u * s + v * c];
  const [u0, u1, v0, v1] = [Math.min(...us), Math.max(...us), Math.min(...vs), Math.max(...vs)];
  return [at(u0, v0), at(u1, v0), at(u1, v1), at(u0, v1)];
}

/** The words in braces that names of pieces can have. */
export const PIECE_NAME_WORDS = ['sheet', 'number'] as const;

/** The name of a piece without its ending. */
export const pieceName = (pattern: string, sheet: string, number: number): string =>
  pattern.replaceAll('{sheet}', sheet).replaceAll('{number}', String(number));

/** What a hand may set for a piece's picture without its outline being left: where it goes, not what it shows. */
function framed(correction: Correction): string {
  // in one order of keys, whether it was made here or read
  const { deliveries: _d, output: _o, picture: _p, ...rest } = correctionSchema.parse(correction);
  return JSON.stringify(rest);
}

/** Whether a piece's picture is still as its outline made it. */
export const followsOutline = (own: Correction): boolean =>
  own.piece !== undefined && framed(pieceCorrection(own.picture, own.piece, own.piece)) === framed(own);

/**
 * The document of a piece's picture after its sheet was changed.
 *
 * @returns the same one where a hand changed it since, or nothing of its piece did; null where its piece is gone
 */
export function followedPiece(own: Correction, sheet: Sheet): Correction | null {
  const piece = sheet.pieces.find(({ id }) => id === own.piece?.id);
  if (!piece) return null;
  if (!followsOutline(own)) return own;
  const { deliveries, output } = own;
  const next = { ...pieceCorrection(own.picture, piece, sheet), deliveries, output };
  return framed(next) === framed(own) ? own : next;
}
