import { withLinesFound, type FoundLine } from '../correction/found-lines';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Correction } from '../correction/schema';
import { degrees, distance, radians, type Point } from '../picture/point';
import { throughLens } from '../stance/through-lens';
import { endPx, seenDeg } from './agreeing';
import type { Grey } from './brightness';
import { findBoundary } from './eye-line';
import { offered, placedWithin } from './offered';
import { squareEdges, type SheetAngle } from './sheet-angle';
import type { Suggestion } from './suggestion';
import type { Witness } from './witnesses';

/** Lines that turn the picture and do nothing else. */
const turnedBy = (
  correction: Correction,
  kind: 'eye-line' | 'sheet',
  lines: readonly FoundLine[],
  sdDeg: number,
  firm: boolean,
): Suggestion | string =>
  offered(kind, withLinesFound(correction, lines, 'turn-only', kind === 'sheet'), () => ({
    withinDeg: 2 * sdDeg,
    firm,
    sd: { roll: sdDeg, tilt: null, swing: null },
    evidence: { agree: lines.length, against: 0, lines: lines.map(({ kind: of, a, b }) => ({ kind: of, a, b, agrees: true, offDeg: 0 })) },
  }));

/** All over a page its lines lie at one angle, to this, degrees. */
const PAGE_SD_DEG = 0.05;
/** The angle of a page stands out as much. */
const CLEAR_SHARPNESS = 2.5;

/** By its lines of writing. */
function writtenSuggestion(correction: Correction, { sdDeg, sharpness, rows }: SheetAngle): Suggestion | string {
  if (sharpness < CLEAR_SHARPNESS) return 'Nothing of it stands out as lines of writing; what lies on it may lie crookedly.';
  if (rows.length === 0) return 'Its lines of writing are too short to say how it lies.';
  const lines = rows.map(([a, b]): FoundLine => ({
    kind: 'level',
    a: [...a],
    b: [...b],
    placedPx: placedWithin(endPx(sdDeg, distance(a, b))),
  }));
  // whether it is a sheet at all, nobody may have said
  return turnedBy(correction, 'sheet', lines, sdDeg, correction.camera.flat);
}

/** What a flat picture says: by its writing where it is full of it, else by its edges, else by the little that is written. */
export function flatSuggestion(correction: Correction, sheet: SheetAngle | null, witnesses: readonly Witness[]): Suggestion | string {
  const square = sheet?.dense ? null : squareEdges(witnesses);
  if (square) {
    const lines = square.edges.map(({ kind, a, b, sdPx }): FoundLine => ({ kind, a: [...a], b: [...b], placedPx: placedWithin(sdPx) }));
    return turnedBy(correction, 'sheet', lines, square.sdDeg, square.mostly);
  }
  // a few rows that agree everywhere are writing, others are anything
  return sheet && (sheet.dense || sheet.sdDeg <= PAGE_SD_DEG)
    ? writtenSuggestion(correction, sheet)
    : 'It shows no lines of writing, and its edges run in no two directions that say how it lies.';
}

/** What a picture says that nobody called flat, where it is a page. */
export const pageSuggestion = (correction: Correction, sheet: SheetAngle): Suggestion | string =>
  sheet.dense && sheet.bright && sheet.sdDeg <= PAGE_SD_DEG ? writtenSuggestion(correction, sheet) : 'It is no page.';

/** What makes a boundary an eye line beyond doubt, and what makes it likely (measured on made-up places; see there). */
const FIRM = { share: 0.95, gap: 0.05, off: 0.0003, rival: 0.2, smooth: 0.004 };
const FAINT = { share: 0.8, gap: 0.18, off: 0.0006, rival: 0.4 };
/** What the lens, or a shore that is taken for the horizon, may turn it by, one deviation, degrees (a matter of judgement). */
const FIRM_SD_DEG = 0.02;
const FAINT_SD_DEG = 0.08;
/** The horizon of plumb edges lies no farther from it than this, degrees. */
const SAME_HORIZON_DEG = 0.6;

/**
 * The eye line, where the picture shows one that nothing else contradicts; else why not.
 * @param smooth brightness of the picture, or of a smaller copy of it, smoothed
 * @param others what else is suggested: plumb edges have a horizon too
 */
export function eyeLineSuggestion(smooth: Grey, correction: Correction, others: readonly Suggestion[]): Suggestion | string {
  const size = correction.picture;
  if (correction.stance.quarterTurns !== 0) return 'An eye line is only sought in pictures that were not turned by quarters.';
  const boundary = findBoundary(smooth, size, throughLens(correction, size));
  if (!boundary) return 'It shows no far, straight, unbroken boundary.';
  const passes = (limits: typeof FAINT): boolean =>
    boundary.share >= limits.share && boundary.gap <= limits.gap && boundary.off <= limits.off && boundary.rival <= limits.rival;
  const firm = passes(FIRM) && boundary.smooth <= FIRM.smooth;
  if (!firm && !passes(FAINT)) return 'Its straightest boundary is broken, not straight, or one of several: it may be a shore or a wall.';
  const { a, b, sdPx } = boundary;
  const plumb = others.find(({ kind }) => kind === 'stand-plumb');
  if (plumb && Math.max(...[a, b].map((p) => Math.abs(offHorizonDeg(correction, plumb, p)))) > SAME_HORIZON_DEG)
    return 'Its straightest boundary does not lie where its plumb edges put the horizon.';
  const length = distance(a, b);
  const sdDeg = Math.hypot(seenDeg({ sdPx, length }), firm ? FIRM_SD_DEG : FAINT_SD_DEG);
  const line: FoundLine = { kind: 'eye', a: [...a], b: [...b], placedPx: placedWithin(endPx(sdDeg, length)) };
  return turnedBy(correction, 'eye-line', [line], sdDeg, firm);
}

/** How far below the horizon of a suggested stance a picture point lies, degrees. */
function offHorizonDeg(correction: Correction, { stance }: Pick<Suggestion, 'stance'>, [x, y]: Point): number {
  const f = focalPxOfCorrection(correction);
  const [cx, cy] = opticalCentreOf(correction);
  const roll = radians(stance.roll);
  return degrees(Math.atan2((x - cx) * Math.sin(roll) + (y - cy) * Math.cos(roll) - f * Math.tan(radians(stance.tilt)), f));
}
