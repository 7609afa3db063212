import { withLinesFound } from '../correction/found-lines';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import type { Correction, ReferenceKind, Stance } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import { PlumbError } from '../picture/failure';
import { degrees, diagonal, distance, radians, type Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { levelsOf, type Raster } from '../raster/raster';
import type { SeenCamera } from '../stance/line-residuals';
import { solveCorrection } from '../stance/solve-correction';
import { throughLens } from '../stance/through-lens';
import { costOf } from '../warp/cost';
import { BUILT_DEG, heldAgainst, offDeg, refine, seenDirection, type Taken } from './agreeing';
import { findBoundary } from './eye-line';
import { howSure, type Proposal } from './how-sure';
import { levelDirections, wrapped, type LevelDirection } from './level-directions';
import { plumbCandidates, NEAR_DEG, type PlumbCandidate } from './plumb-direction';
import { findSheetAngle, slopeSd, squareEdges, type SheetAngle } from './sheet-angle';
import type { EvidenceLine, Silence, Suggestion, SuggestionKind } from './suggestion';
import { referencesAmong } from './taking-over';
import { whyNotLevel, whyNotPlumb } from './whether';
import { findWitnesses, type Witness } from './witnesses';

/** What a picture says by itself. */
export interface Said {
  readonly suggestions: readonly Suggestion[];
  readonly silent: readonly Silence[];
  /** Its straight edges, for whatever else is held against them. */
  readonly witnesses: readonly Witness[];
}

/** Straight things are sought in a copy whose longer side is at most this, px. */
export const SEARCHED_PX = 2000;

/** Within so many degrees a suggestion is sure, and likely; less sure ones are not offered. */
export const SURE_DEG = 0.15;
export const LIKELY_DEG = 0.5;
/** Two directions within this of a right angle belong to one building, degrees. */
const SQUARE_DEG = 1.5;
/** What lies within this of the picture's own plane is the front, degrees; farther round, its return, as far as can be shown. */
const FRONT_DEG = 45;
const RETURN_DEG = 72;

/**
 * Everything a picture says of how its camera stood.
 *
 * @param picture it, or a smaller copy of it; larger ones than {@link SEARCHED_PX} are halved until they are not
 * @param correction its lens, camera, quarter turns and crop are used; references that somebody drew are set aside in what is suggested
 */
export function whatItSays(picture: Raster, correction: Correction): Said {
  const level = levelsOf(picture, SEARCHED_PX).at(-1) as Raster;
  const witnesses = findWitnesses(level, correction);
  const { flat, focalFrom } = correction.camera;
  const sheet = flat || focalFrom === 'assumed' ? findSheetAngle(level, correction.picture) : null;
  if (flat) return { ...sheetOnly(correction, sheet, witnesses), witnesses };
  const said = suggestionsOf(witnesses, correction);
  const eye = eyeLine(level, correction, said.suggestions);
  // a page under an unknown lens: nothing of it is plumb
  const page = sheet?.paper && sheet.sdDeg <= PAGE_SD_DEG && said.suggestions.length === 0 ? sheetSuggestion(correction, sheet) : null;
  const suggestions = [...said.suggestions, ...(typeof eye === 'string' ? [] : [eye]), ...(page && typeof page !== 'string' ? [page] : [])];
  const silent = [
    ...said.silent,
    ...(typeof eye === 'string' && suggestions.length === 0 ? [{ kind: 'eye-line' as const, why: eye }] : []),
  ];
  return { suggestions: suggestions.sort((p, q) => rank(p) - rank(q)), silent, witnesses };
}

/** What a flat picture says: its writing first, else its edges. */
function sheetOnly(correction: Correction, sheet: SheetAngle | null, witnesses: readonly Witness[]): Omit<Said, 'witnesses'> {
  const written = sheet && sheetSuggestion(correction, sheet);
  if (written && typeof written !== 'string') return { suggestions: [written], silent: [] };
  const square = squareEdges(witnesses);
  const said = square
    ? turned(
        correction,
        'sheet',
        square.edges.map(({ a, b, kind, sdPx }) => ({ a, b, kind, placedPx: sdPx })),
        square.sdDeg,
        square.mostly,
      )
    : 'It shows no lines of writing, and its edges run in no two directions that say how it lies.';
  return typeof said === 'string' ? { suggestions: [], silent: [{ kind: 'sheet', why: said }] } : { suggestions: [said], silent: [] };
}

function suggestionsOf(witnesses: readonly Witness[], correction: Correction): Omit<Said, 'witnesses'> {
  const size = correction.picture;
  const diagonalPx = diagonal(size);
  const [centreX, centreY] = turnPoint(opticalCentreOf(correction), size, correction.stance.quarterTurns);
  const asTaken: SeenCamera = { roll: 0, tilt: 0, swing: 0, focalPx: focalPxOfCorrection(correction), centreX, centreY };
  const silent: Silence[] = [];
  const suggestions: Suggestion[] = [];
  const offer = (proposal: Proposal): void => {
    const said = suggestionOf(correction, witnesses, proposal, diagonalPx);
    if (typeof said === 'string') silent.push({ kind: proposal.kind, why: said });
    else suggestions.push(said);
  };
  const candidates = byLevel(plumbCandidates(witnesses, asTaken, diagonalPx), correction.camera.level);
  const plumb = whyNotPlumb(candidates, correction);
  const best = candidates[0];
  if (!best || plumb.why !== null) {
    silent.push({ kind: 'stand-plumb', why: plumb.why ?? '' });
    return { suggestions, silent };
  }
  const upright = best.agree.map((witness): Taken => ({ witness, kind: 'plumb' }));
  const firm = plumb.firm && plumb.spread;
  const faces = facesOf(witnesses, best, diagonalPx, firm, silent);
  // what is level says how far the camera was tilted too
  const joint = faces.find((face) => face.firm && face.taken.length > upright.length) ?? null;
  const plumbOnly = {
    camera: joint?.camera ?? best.camera,
    unknowns: ['roll', 'tilt'] as const,
    taken: joint ? joint.taken.filter(({ kind }) => kind === 'plumb') : upright,
    against: best.against.map((witness): Taken => ({ witness, kind: 'plumb' })),
    telling: joint?.taken ?? upright,
    told: joint?.unknowns ?? (['roll', 'tilt'] as const),
    about: ['plumb'] as const,
  };
  if (plumb.spread) offer({ kind: 'stand-plumb', may: 'stand-plumb', ...plumbOnly, firm });
  else silent.push({ kind: 'stand-plumb', why: plumb.narrow });
  faces.forEach(offer);
  offer({ kind: 'turn-middle', may: 'turn-only', ...plumbOnly, firm: plumb.firm });
  return { suggestions, silent };
}

/** How well a camera knows its own level, degrees (common practice, no published source). */
const LEVEL_DEG = 1.5;

/** Weighed by the camera's own level: what lies far from it loses support, gently, since levels are knocked. */
const byLevel = (candidates: readonly PlumbCandidate[], level: Correction['camera']['level']): readonly PlumbCandidate[] =>
  level === undefined
    ? candidates
    : candidates
        .map((candidate) => {
          const off = (movement: 'roll' | 'tilt'): number =>
            level[movement] === undefined ? 0 : candidate.camera[movement] - level[movement];
          const far = Math.hypot(off('roll'), off('tilt')) / LEVEL_DEG;
          return { ...candidate, support: candidate.support / (1 + (far * far) / 9) };
        })
        .sort((p, q) => q.support - p.support);

const ORDER: readonly SuggestionKind[] = ['stand-plumb', 'front', 'return', 'sheet', 'eye-line', 'turn-middle'];
/** Sure ones first, then by what they mend. */
const rank = ({ kind, sure }: Suggestion): number => (sure === 'sure' ? 0 : 10) + ORDER.indexOf(kind);

/** The faces of what is built: square-on to the one across the picture, and to one that goes back. */
function facesOf(
  witnesses: readonly Witness[],
  best: PlumbCandidate,
  diagonalPx: number,
  firm: boolean,
  silent: Silence[],
): readonly Proposal[] {
  const others = witnesses.filter((witness) => !best.agree.includes(witness));
  const directions = levelDirections(others, best.camera, diagonalPx);
  const why = whyNotLevel(directions, others);
  if (why !== null) {
    silent.push({ kind: 'front', why });
    return [];
  }
  const found: Proposal[] = [];
  const across = directions.filter(({ azimuth }) => Math.abs(azimuth) <= FRONT_DEG);
  const back = directions.filter(({ azimuth }) => Math.abs(azimuth) > FRONT_DEG);
  const square = (p: LevelDirection, q: LevelDirection): boolean => Math.abs(Math.abs(wrapped(p.azimuth - q.azimuth)) - 90) <= SQUARE_DEG;
  const propose = (kind: 'front' | 'return', along: LevelDirection | null, into: LevelDirection | null, swing: number): void => {
    const level = (along?.agree ?? []).map((witness): Taken => ({ witness, kind: 'level' }));
    const returns = (into?.agree ?? []).filter((w) => !along?.agree.includes(w)).map((witness): Taken => ({ witness, kind: 'return' }));
    const start = { ...best.camera, swing };
    const all = [...best.agree.map((witness): Taken => ({ witness, kind: 'plumb' })), ...level, ...returns];
    const camera = refine(all, start, ['roll', 'tilt', 'swing'], diagonalPx, [0.5, 0.4, 0.3, 0.3]);
    const agreeing = all.filter(({ witness, kind: of }) => heldAgainst([witness], camera, of, 0).agree.length > 0);
    const against = heldAgainst(witnesses, camera, 'plumb', NEAR_DEG).against.map((witness): Taken => ({ witness, kind: 'plumb' }));
    found.push({
      kind,
      may: 'square-on',
      camera,
      unknowns: ['roll', 'tilt', 'swing'],
      taken: agreeing,
      telling: agreeing,
      told: ['roll', 'tilt', 'swing'],
      against,
      about: ['plumb', 'level'],
      firm: firm && Math.abs(wrapped(camera.swing - swing)) < 2,
    });
  };
  const front = across[0] ?? null;
  const goesBack = back.find((direction) => !front || square(front, direction)) ?? null;
  if (front) propose('front', front, goesBack, front.azimuth);
  else if (goesBack) propose('front', null, goesBack, wrapped(goesBack.azimuth - 90));
  const face = back.find(({ azimuth }) => Math.abs(azimuth) <= RETURN_DEG);
  if (face) propose('return', face, front && square(front, face) ? front : null, face.azimuth);
  return found;
}

/** A proposal as a suggestion, or why it is none. */
function suggestionOf(correction: Correction, witnesses: readonly Witness[], proposal: Proposal, diagonalPx: number): Suggestion | string {
  const { kind, camera, unknowns, taken, against, firm, may } = proposal;
  const chosen = referencesAmong(taken, camera, unknowns, diagonalPx);
  const { correction: solved, focal } = solveCorrection(withLines(correction, chosen, may), correction.picture);
  let warp: Warp;
  try {
    warp = composeWarp(solved, solved.picture);
  } catch (error) {
    if (error instanceof PlumbError) return error.message;
    throw error;
  }
  const { withinDeg, sd, steady } = howSure(proposal, solved, warp, witnesses, diagonalPx);
  if (!(withinDeg <= LIKELY_DEG)) return `Its edges tell this only to ${withinDeg.toFixed(1)} degrees.`;
  const cost = costOf(warp, warp.crop);
  return {
    kind,
    sure: firm && steady && withinDeg <= SURE_DEG ? 'sure' : 'likely',
    withinDeg,
    stance: { roll: solved.stance.roll, tilt: solved.stance.tilt, swing: solved.stance.swing },
    sd: may === 'turn-only' ? { ...sd, tilt: null } : sd,
    focalPx: focal?.found ?? null,
    evidence: {
      agree: taken.length,
      against: against.length,
      lines: [...taken.map((edge) => evidenceOf(edge, camera, true)), ...against.map((edge) => evidenceOf(edge, camera, false))],
    },
    cost: { kept: cost.kept, peak: cost.peakEnlargement },
    correction: solved,
  };
}

/** What a line that lies level by itself says: it turns the picture. */
function turned(
  correction: Correction,
  kind: 'eye-line' | 'sheet',
  lines: readonly { readonly a: Point; readonly b: Point; readonly placedPx: number; readonly kind: ReferenceKind }[],
  sdDeg: number,
  firm: boolean,
): Suggestion | string {
  const { correction: solved } = solveCorrection(
    withLinesFound(
      correction,
      lines.map(({ a, b, placedPx, kind: of }) => ({ kind: of, a: [...a], b: [...b], placedPx })),
      'turn-only',
      kind === 'sheet',
    ),
    correction.picture,
  );
  const withinDeg = 2 * sdDeg;
  if (!(withinDeg <= LIKELY_DEG)) return `Its lines tell this only to ${withinDeg.toFixed(1)} degrees.`;
  let warp: Warp;
  try {
    warp = composeWarp(solved, solved.picture);
  } catch (error) {
    if (error instanceof PlumbError) return error.message;
    throw error;
  }
  const cost = costOf(warp, warp.crop);
  return {
    kind,
    sure: firm && withinDeg <= SURE_DEG ? 'sure' : 'likely',
    withinDeg,
    stance: { roll: solved.stance.roll, tilt: solved.stance.tilt, swing: solved.stance.swing },
    sd: { roll: sdDeg, tilt: null, swing: null },
    focalPx: null,
    evidence: { agree: lines.length, against: 0, lines: lines.map(({ a, b, kind: of }) => ({ kind: of, a, b, agrees: true, offDeg: 0 })) },
    cost: { kept: cost.kept, peak: cost.peakEnlargement },
    correction: solved,
  };
}

/** A page that nobody said is one lies all over it at one angle, to this, degrees. */
const PAGE_SD_DEG = 0.05;
/** The angle of a page stands out as much. */
const CLEAR_SHARPNESS = 2.5;

function sheetSuggestion(correction: Correction, { sdDeg, sharpness, rows }: SheetAngle): Suggestion | string {
  const lines = rows.map(([a, b]) => ({
    a,
    b,
    kind: 'level' as const,
    placedPx: Math.max(0.01, (radians(sdDeg) * distance(a, b)) / Math.SQRT2),
  }));
  if (sharpness < CLEAR_SHARPNESS) return 'Nothing of it stands out as lines of writing; what lies on it may lie crookedly.';
  if (lines.length === 0) return 'Its lines of writing are too short to say how it lies.';
  // whether it is a sheet at all, nobody said
  return turned(correction, 'sheet', lines, sdDeg, correction.camera.flat);
}

/** What makes a boundary an eye line beyond doubt, and what makes it likely. */
const FIRM = { share: 0.95, gap: 0.05, off: 0.0003, rival: 0.2, smooth: 0.004 };
const FAINT = { share: 0.8, gap: 0.18, off: 0.0006, rival: 0.4 };
/** The horizon of plumb edges lies no farther from it than this, degrees. */
const SAME_HORIZON_DEG = 0.6;

/** The eye line, where the picture shows one that nothing else contradicts; else why not. */
function eyeLine(level: Raster, correction: Correction, others: readonly Suggestion[]): Suggestion | string {
  const size = correction.picture;
  if (correction.stance.quarterTurns !== 0) return 'An eye line is only sought in pictures that were not turned by quarters.';
  const boundary = findBoundary(level, size, throughLens({ ...correction, stance: { ...correction.stance, quarterTurns: 0 } }, size));
  if (!boundary) return 'It shows no far, straight, unbroken boundary.';
  const passes = (limits: typeof FAINT): boolean =>
    boundary.share >= limits.share && boundary.gap <= limits.gap && boundary.off <= limits.off && boundary.rival <= limits.rival;
  const firm = passes(FIRM) && boundary.smooth <= FIRM.smooth;
  if (!firm && !passes(FAINT)) return 'Its straightest boundary is broken, not straight, or one of several: it may be a shore or a wall.';
  const plumb = others.find(({ kind }) => kind === 'stand-plumb');
  if (plumb) {
    const { roll, tilt } = plumb.stance;
    const f = focalPxOfCorrection(correction);
    const [cx, cy] = opticalCentreOf(correction);
    // where the plumb edges put the horizon
    const [c, s] = [Math.cos(radians(roll)), Math.sin(radians(roll))];
    const off = ([x, y]: Point): number => degrees(Math.atan2((x - cx) * s + (y - cy) * c - f * Math.tan(radians(tilt)), f));
    if (Math.max(Math.abs(off(boundary.a)), Math.abs(off(boundary.b))) > SAME_HORIZON_DEG)
      return 'Its straightest boundary does not lie where its plumb edges put the horizon.';
  }
  const lengthPx = distance(boundary.a, boundary.b);
  // what the lens may bend it by, where nobody took that out
  const sdDeg = Math.hypot(slopeSd(boundary.sdPx, lengthPx), firm ? 0.02 : 0.08);
  return turned(
    correction,
    'eye-line',
    [{ ...boundary, kind: 'eye', placedPx: Math.max(0.01, (radians(sdDeg) * lengthPx) / Math.SQRT2) }],
    sdDeg,
    firm,
  );
}

const evidenceOf = ({ witness, kind }: Taken, camera: SeenCamera, agrees: boolean): EvidenceLine => ({
  kind,
  a: witness.a,
  b: witness.b,
  agrees,
  offDeg: offDeg(witness, camera, seenDirection(camera, kind)),
});

/** The document with edges as its references: what a hand drew is set aside, what was found before goes. */
const withLines = (correction: Correction, chosen: readonly Taken[], may: Stance['may']): Correction =>
  withLinesFound(
    correction,
    chosen.map(({ witness: { a, b, sdPx, length }, kind }) => ({
      kind,
      a: [...a],
      b: [...b],
      // what is built is true to so much
      placedPx: Math.min(1000, Math.max(0.01, Math.hypot(sdPx, (radians(BUILT_DEG) * length) / Math.SQRT2))),
    })),
    may,
    false,
  );
