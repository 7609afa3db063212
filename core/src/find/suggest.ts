import { withLinesFound, type FoundLine } from '../correction/found-lines';
import type { Correction } from '../correction/schema';
import { diagonal, type Point } from '../picture/point';
import { levelsOf, type Raster } from '../raster/raster';
import type { SeenCamera } from '../stance/line-residuals';
import { cameraOf, heldAgainst, offDeg, placedPx, refine, seenDirection, type Taken } from './agreeing';
import { greyOf, smoothed } from './brightness';
import { howSure, type Proposal } from './how-sure';
import { levelDirections, wrapped, type LevelDirection } from './level-directions';
import { offered, placedWithin } from './offered';
import { plumbCandidates, NEAR_DEG, type PlumbCandidate } from './plumb-direction';
import { findSheetAngle, type SheetAngle } from './sheet-angle';
import type { EvidenceLine, Silence, Suggestion, SuggestionKind } from './suggestion';
import { referencesAmong } from './taking-over';
import { eyeLineSuggestion, flatSuggestion, pageSuggestion } from './turned';
import { whyNotLevel, whyNotPlumb } from './whether';
import { cutOut, moved, ownPart, within } from './within-piece';
import { findWitnesses, type Witness } from './witnesses';

/** What a picture says by itself. */
export interface Said {
  readonly suggestions: readonly Suggestion[];
  readonly silent: readonly Silence[];
  /** Its straight edges, for whatever else is held against them. */
  readonly witnesses: readonly Witness[];
}

/** Edges are settled in a copy whose longer side is at most this, px. */
export const SEARCHED_PX = 2000;
/** Before that they are found in one of at most this: fewer pixels to go through, and less grain. */
const SOUGHT_PX = 1200;

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
  const grey = greyOf(level);
  const sought = levelsOf(level, SOUGHT_PX).at(-1) as Raster;
  const smooth = smoothed(sought === level ? grey : greyOf(sought));
  const part = ownPart(correction);
  const all = findWitnesses(grey, smooth, correction);
  const witnesses = part ? within(all, part) : all;
  const { flat, focalFrom } = correction.camera;
  const sheet = flat || focalFrom === 'assumed' ? writing(level, correction, part) : null;
  if (flat) return { ...one(flatSuggestion(correction, sheet, witnesses), 'sheet'), witnesses };
  const said = suggestionsOf(witnesses, correction);
  const eye = eyeLineSuggestion(smooth, correction, said.suggestions);
  // a page under an unknown lens: nothing of it is plumb
  const page = sheet && said.suggestions.length === 0 ? pageSuggestion(correction, sheet) : '';
  const suggestions = [...said.suggestions, ...[eye, page].filter((one) => typeof one !== 'string')];
  const silent = [
    ...said.silent,
    ...(typeof eye === 'string' && suggestions.length === 0 ? [{ kind: 'eye-line' as const, why: eye }] : []),
  ];
  return { suggestions: suggestions.sort((p, q) => rank(p) - rank(q)), silent, witnesses };
}

/** How its lines of writing lie; of a piece of a sheet, those on itself. */
function writing(level: Raster, { picture }: Correction, part: readonly Point[] | null): SheetAngle | null {
  if (!part) return findSheetAngle(level, picture);
  const scale = level.width / picture.width;
  const { raster, from } = cutOut(level, part, scale);
  return moved(findSheetAngle(raster, { width: raster.width / scale, height: raster.height / scale }), [from[0] / scale, from[1] / scale]);
}

/** One answer alone. */
const one = (said: Suggestion | string, kind: SuggestionKind): Omit<Said, 'witnesses'> =>
  typeof said === 'string' ? { suggestions: [], silent: [{ kind, why: said }] } : { suggestions: [said], silent: [] };

function suggestionsOf(witnesses: readonly Witness[], correction: Correction): Omit<Said, 'witnesses'> {
  const diagonalPx = diagonal(correction.picture);
  const silent: Silence[] = [];
  const suggestions: Suggestion[] = [];
  const offer = (proposal: Proposal): void => {
    const said = suggestionOf(correction, witnesses, proposal, diagonalPx);
    if (typeof said === 'string') silent.push({ kind: proposal.kind, why: said });
    else suggestions.push(said);
  };
  const candidates = byLevel(plumbCandidates(witnesses, cameraOf(correction), diagonalPx), correction.camera.level);
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
  const lines = chosen.map(({ witness, kind: of }): FoundLine => ({
    kind: of,
    a: [...witness.a],
    b: [...witness.b],
    placedPx: placed(witness),
  }));
  return offered(kind, withLinesFound(correction, lines, may, false), (solved, warp) => {
    const { withinDeg, sd, steady } = howSure(proposal, solved, warp, witnesses, diagonalPx);
    return {
      withinDeg,
      firm: firm && steady,
      sd: may === 'turn-only' ? { ...sd, tilt: null } : sd,
      evidence: {
        agree: taken.length,
        against: against.length,
        lines: [...taken.map((edge) => evidenceOf(edge, camera, true)), ...against.map((edge) => evidenceOf(edge, camera, false))],
      },
    };
  });
}

const placed = (witness: Witness): number => placedWithin(placedPx(witness));

const evidenceOf = ({ witness, kind }: Taken, camera: SeenCamera, agrees: boolean): EvidenceLine => ({
  kind,
  a: witness.a,
  b: witness.b,
  agrees,
  offDeg: offDeg(witness, camera, seenDirection(camera, kind)),
});
