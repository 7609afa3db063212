import { newCorrection } from '../correction/new-correction';
import type { Correction, Piece, Sheet } from '../correction/schema';
import { degrees, type Point, type Rect } from '../picture/point';
import { planeWarp, toPlane } from '../warp/plane-warp';
import { ofPanelAlone } from './panels';
import { withQuarterTurn } from './quarter-turn';
import { mapQuad } from '../picture/quad';

const MM_PER_INCH = 25.4;

/** What part of a sheet's picture a piece is, and how it is made. */
export type PieceOf = Pick<Sheet, 'taken' | 'border' | 'inset' | 'ppi'>;

/** How far inside its edge a piece begins, px; millimetres without a known resolution are taken at 300 ppi. */
export const insetPx = ({ inset, ppi }: Pick<Sheet, 'inset' | 'ppi'>): number =>
  inset.unit === 'px' ? inset.value : (inset.value * (ppi ?? ASSUMED_PPI)) / MM_PER_INCH;

/** Taken where a scan does not say how fine it is (common practice, no published source). */
export const ASSUMED_PPI = 300;

/**
 * The correction that makes one piece's picture from the sheet's original: turned by its sides and cropped to its outline; of a photographed
 * sheet by its corners, perspective and proportions included. One resampling of the original, like any other.
 *
 * @param picture the sheet's original, under the piece's name
 */
export function pieceCorrection(picture: Correction['picture'], piece: Piece, of: PieceOf): Correction {
  const base: Correction = newCorrection({ ...picture, focal35: null, flat: of.taken === 'scanned' });
  const corners = of.border === 'inside' && piece.inner ? piece.inner : piece.corners;
  const { id, quarterTurns } = piece;
  const straight = of.taken === 'scanned' ? turned(base, corners, insetPx(of)) : squared(base, corners, insetPx(of));
  const { taken, border, inset, ppi } = of;
  const made: Correction['piece'] = {
    id,
    corners: piece.corners,
    ...(piece.inner ? { inner: piece.inner } : {}),
    quarterTurns,
    taken,
    border,
    inset,
    ...(ppi ? { ppi } : {}),
  };
  return { ...withQuarterTurn(straight, quarterTurns), piece: made };
}

type Corners = Piece['corners'];

/** How a piece lies, degrees anticlockwise as seen, which is the roll that sets it straight. Long sides count more; each is square to the next. */
export function pieceRollDeg(corners: Corners): number {
  let [sum, weight] = [0, 0];
  let first: number | null = null;
  for (let i = 0; i < 4; i += 1) {
    const [p, q] = [corners[i] as Point, corners[(i + 1) % 4] as Point];
    const length = Math.hypot(q[0] - p[0], q[1] - p[1]);
    const deg = degrees(Math.atan2(q[1] - p[1], q[0] - p[0])) - 90 * i;
    first ??= deg;
    const near = deg - 360 * Math.round((deg - first) / 360);
    sum += length ** 2 * near;
    weight += length ** 2;
  }
  const roll = weight === 0 ? 0 : -sum / weight;
  return roll - 360 * Math.round(roll / 360);
}

function turned(base: Correction, corners: Corners, inset: number): Correction {
  const roll = Math.round(pieceRollDeg(corners) * 1e6) / 1e6;
  const rolled: Correction = { ...base, stance: { ...base.stance, front: 'sheet', roll } };
  const warp = planeWarp(rolled, rolled.picture);
  const [a, b, c, d] = mapQuad(corners, (p) => toPlane(warp, p) as Point);
  // each side where its middle lies
  const [left, right] = [(a[0] + d[0]) / 2 + inset, (b[0] + c[0]) / 2 - inset];
  const [top, bottom] = [(a[1] + b[1]) / 2 + inset, (c[1] + d[1]) / 2 - inset];
  const rect: Rect = { x: left, y: top, width: Math.max(1, right - left), height: Math.max(1, bottom - top) };
  return { ...rolled, crop: { ...rolled.crop, edges: 'clear', ratio: 'free', around: 'picture', rect } };
}

function squared(base: Correction, corners: Corners, inset: number): Correction {
  const length = (i: number, j: number): number => {
    const [p, q] = [corners[i] as Point, corners[j] as Point];
    return Math.hypot(q[0] - p[0], q[1] - p[1]);
  };
  const percent = (of: number): number => (of > 0 ? (-100 * inset) / of : 0);
  const across = percent((length(0, 1) + length(3, 2)) / 2);
  const down = percent((length(0, 3) + length(1, 2)) / 2);
  const margins = { top: down, bottom: down, left: across, right: across };
  const panel = { id: 'p1', corners, size: null, margins, used: true };
  return ofPanelAlone({ ...base, panels: [panel] }, 'p1');
}
