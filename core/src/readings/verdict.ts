import type { Correction, ReferenceKind, Stance } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { placesIn, surest, type Direction } from '../crop/lean-in-crop';
import { planeDirectionLean } from '../picture/line-angle';
import { degrees, type Point } from '../picture/point';
import type { Attitude } from '../stance/attitude';
import type { Doubt, DoubtOf, Sight } from '../stance/sight';
import type { Remedy, StanceSolution } from '../stance/solve-stance';
import { directionShown } from '../warp/shown-direction';
import { degreesText, kindNames } from './words';

/** How much is known of how true the result is. */
export type VerdictState =
  /** Nothing tells. */
  | 'unknown'
  /** As drawn: what was drawn comes true by construction, and nothing checks it. */
  | 'unchecked'
  /** True within so many degrees. */
  | 'true'
  /** A line is off. */
  | 'off'
  /** Convergence or lean is left on purpose. */
  | 'held';

/** One verdict for bench, contact sheet, check page, tables and command line. Angles in degrees, never negative. */
export interface Verdict {
  readonly state: VerdictState;
  /** What the state carries: how true at two deviations, how far off, or how much is left on purpose; null where that is not known. */
  readonly deg: number | null;
  /** Two deviations of the greatest lean or slope that may be left anywhere in the crop; null where it is not known. */
  readonly sureDeg: number | null;
  /** What leaves that wide, where one thing does. */
  readonly mostlyBy: DoubtOf | null;
  /** Greatest lean or slope that the result has anywhere in the crop by all that is known, kept on purpose or not. */
  readonly leftDeg: number | null;
  /** Of what the verdict speaks. */
  readonly about: readonly Direction[];
  /** The line that is off, or that is off most; by id of the reference. */
  readonly line: { readonly id: string; readonly kind: ReferenceKind; readonly number: number; readonly px: number } | null;
  /** Whether that line contradicts the others, and what would explain it. */
  readonly remedy: Remedy | null;
  /** What to draw, or to say, that would tell or check it best. */
  readonly next: string | null;
  /** Percent that is taken out of tilt and swing, where less or more than all is. */
  readonly takenOut: { readonly tilt: number; readonly swing: number } | null;
}

/** A line as the verdict weighs it. */
export interface WeighedLine {
  readonly id: string;
  readonly kind: ReferenceKind;
  readonly number: number;
  readonly counts: boolean;
  readonly waits: boolean;
  readonly offDeg: number | null;
  readonly offPx: number | null;
  readonly lengthPx: number;
  readonly placedPx: number;
  readonly disagrees: boolean;
  readonly remedy: Remedy | null;
}

/** Less is nothing to speak of, degrees (the eye sees a tenth; common practice, no published source). */
const SILENT_DEG = 0.05;
/** Whoever is sure to this many degrees knows nothing. */
const UNSUREST_DEG = 20;
/** A line is off when it is off by more than so many deviations of its own. */
const OFF_DEVIATIONS = 3;

interface Weighing {
  readonly correction: Correction;
  readonly warp: Warp;
  readonly lines: readonly WeighedLine[];
  readonly solution: StanceSolution | null;
  /** What a panel that decides says. */
  readonly panel: { readonly sight: Sight; readonly doubts: readonly Doubt[] } | null;
  readonly judged: Attitude;
}

/** Weighs everything that is known of a result. */
export function verdictOf({ correction, warp, lines, solution, panel, judged }: Weighing): Verdict {
  const { stance, camera } = correction;
  const counted = lines.filter((line) => line.counts && line.offDeg !== null);
  const worst = counted.reduce<WeighedLine | null>(
    (p, q) => (p && Math.abs(p.offDeg as number) >= Math.abs(q.offDeg as number) ? p : q),
    null,
  );
  const accused = lines.find((line) => line.disagrees && line.offDeg !== null) ?? null;
  const decides = panel ?? solution;
  const by = decides && decides.doubts.length > 0 ? decides : null;
  const about: readonly Direction[] = !by ? [] : panel ? ['plumb', 'level'] : solution ? told(solution, correction) : [];
  const places = placesIn(warp);
  const sure = by && about.length > 0 ? surest(warp, by, about, places) : null;
  // one line says nothing of anything else, and itself no better than it was placed
  const only = !panel && solution?.counted.size === 1 && counted.length === 1 ? (counted[0] as WeighedLine) : null;
  const twice = only ? 2 * ownDeg(only) : sure && 2 * sure.deg;
  const sureDeg = twice === null || twice > UNSUREST_DEG ? null : twice;
  const left = about.length > 0 ? about : (['plumb'] as const);
  const leftDeg = by || panel || stance.from === 'hand' ? leftIn(correction, warp, judged, left, places) : null;
  const { tilt, swing } = stance.strength;
  const takenOut = camera.flat || (tilt === 1 && swing === 1) ? null : { tilt: tilt * 100, swing: swing * 100 };
  const onPurpose =
    takenOut !== null || Math.hypot(stance.aim.roll, stance.aim.tilt, stance.aim.swing) > 0 || (stance.may === 'turn-only' && !camera.flat);
  const common = {
    sureDeg,
    mostlyBy: sure?.mostlyBy ?? null,
    leftDeg,
    about,
    takenOut,
    line: worst && named(worst),
    remedy: null,
    next: null,
  };
  const off = accused ?? (worst && isOff(worst, solution?.scatter) ? worst : null);
  if (off)
    return { ...common, state: 'off', deg: Math.abs(off.offDeg as number), line: named(off), remedy: off.disagrees ? off.remedy : null };
  if (onPurpose && leftDeg !== null && leftDeg >= SILENT_DEG && (counted.length > 0 || panel))
    return { ...common, state: 'held', deg: leftDeg };
  const checked = panel ? counted.length > 0 : (solution?.spare ?? 0) > 0;
  const worstDeg = Math.abs(worst?.offDeg ?? 0);
  if (checked && sureDeg !== null) return { ...common, state: 'true', deg: Math.max(worstDeg, sureDeg) };
  if (counted.length === 0 && !panel) {
    const waiting = lines.find((line) => line.waits);
    return { ...common, state: 'unknown', deg: null, next: waiting ? `say what line ${waiting.number} is in reality` : null };
  }
  const next = nextLine(correction, warp, counted, by, about, places);
  // lines enough, and still no answer: they go on beyond any stance, or answer crookedly
  if (checked) return { ...common, state: 'unknown', deg: null, next: `these lines hardly tell how the camera stood: draw ${next}` };
  return { ...common, state: 'unchecked', deg: sureDeg, next };
}

const named = ({ id, kind, number, offPx }: WeighedLine): Verdict['line'] => ({ id, kind, number, px: offPx ?? 0 });

/** Deviation of a line's own direction by how well its ends were placed, degrees. */
const ownDeg = ({ placedPx, lengthPx }: WeighedLine, scatter = 1): number =>
  degrees((scatter * Math.SQRT2 * placedPx) / Math.max(1, lengthPx));

/** Off by more than how it was placed, and than the lines scatter by among themselves. */
const isOff = (line: WeighedLine, scatter = 1): boolean =>
  Math.abs(line.offDeg as number) > Math.max(SILENT_DEG, OFF_DEVIATIONS * ownDeg(line, scatter));

/** Of which directions a solution tells everywhere in the picture. */
function told({ tells }: StanceSolution, { camera }: Correction): readonly Direction[] {
  if (camera.flat) return ['plumb', 'level'];
  return [...(tells.plumb ? (['plumb'] as const) : []), ...(tells.level ? (['level'] as const) : [])];
}

/** The greatest lean or slope of the result, degrees, by how the camera stood as far as that is known. */
function leftIn(correction: Correction, warp: Warp, judged: Attitude, about: readonly Direction[], places: readonly Point[]): number {
  return Math.max(
    ...about.flatMap((direction) =>
      places.map((place) => {
        const [dx, dy] = directionShown(correction, warp, direction === 'plumb' ? [0, 1, 0] : [1, 0, 0], place, judged);
        return Math.abs(planeDirectionLean(direction === 'plumb' ? [dx, dy] : [-dy, dx]));
      }),
    ),
  );
}

/** The line that would check best: where the least is known. */
function nextLine(
  correction: Correction,
  warp: Warp,
  counted: readonly WeighedLine[],
  by: { readonly sight: Sight; readonly doubts: readonly Doubt[] } | null,
  about: readonly Direction[],
  places: readonly Point[],
): string {
  const front = correction.camera.flat ? 'sheet' : correction.stance.front;
  const names = kindNames(front);
  const line = (kind: ReferenceKind): string => names[kind].toLowerCase() + (front === 'wall' && kind !== 'eye' ? ' line' : ' one');
  if (!by || about.length === 0) {
    const plumbs = counted.filter(({ kind }) => kind === 'plumb').length;
    if (counted.length === 1 && counted[0]?.kind === 'plumb') return `a ${line('plumb')} on the other side`;
    if (counted.length === 1) return correction.camera.flat ? `a second line` : `two ${line('plumb')}s, far apart`;
    return plumbs < 2 ? `a ${line('plumb')} far from the others` : `a ${line('level')} near the top or the bottom`;
  }
  const { place, direction } = surest(warp, by, about, places);
  const { x, y, width, height } = warp.crop;
  // the middle of the crop is on no side
  const side =
    direction === 'plumb'
      ? place[0] < x + width * 0.4
        ? 'on the left'
        : place[0] > x + width * 0.6
          ? 'on the right'
          : 'in the middle'
      : place[1] < y + height * 0.4
        ? 'near the top'
        : place[1] > y + height * 0.6
          ? 'near the bottom'
          : 'in the middle';
  return `a ${line(direction)} ${side}`;
}

const MOSTLY: Readonly<Record<DoubtOf, string>> = {
  pointing: 'how the lines were placed',
  focal: 'the focal length',
  bend: 'edges that bow',
  tilt: 'a tilt that nothing tells',
  swing: 'a swing that nothing tells',
  rival: 'a second answer that fits as well',
};

/** What leaves something wide, in words; the focal length by what it rests on. */
export const mostlyInWords = (of: DoubtOf, { focalFrom }: Correction['camera']): string =>
  of === 'focal' && focalFrom === 'assumed' ? 'mostly the assumed focal length' : `mostly ${MOSTLY[of]}`;

/** A verdict in words: the large ones, what stands below them, and whether they warn. */
export interface VerdictWords {
  readonly main: string;
  readonly detail: string;
  readonly bad: boolean;
}

/** Angle as a verdict says it: never 0.00, since nothing is known to nothing. */
export const verdictDegrees = (deg: number): string =>
  deg >= 10 ? `${deg.toFixed(0)}°` : deg >= 1 ? `${deg.toFixed(1)}°` : degreesText(Math.max(0.01, deg));

/** How sure a suggestion is, in words: of a likely one the evidence itself is in doubt, and only then how far it reaches. */
export const sureInWords = ({ sure, withinDeg }: { readonly sure: 'sure' | 'likely'; readonly withinDeg: number }): string =>
  `${sure === 'sure' ? 'sure, within' : 'likely; if so, within'} ${verdictDegrees(withinDeg)}`;

/** More than this is no small matter, degrees. */
const BAD_DEG = 0.5;

export function verdictInWords(verdict: Verdict, correction: Correction): VerdictWords {
  const { state, deg, sureDeg, line, takenOut, about, next } = verdict;
  const front: Stance['front'] = correction.camera.flat ? 'sheet' : correction.stance.front;
  const names = kindNames(front);
  const of = line ? `${names[line.kind].toLowerCase()} ${line.number}, ${line.px.toFixed(1)} px` : '';
  const wide = verdict.mostlyBy && verdict.mostlyBy !== 'pointing' ? `, ${mostlyInWords(verdict.mostlyBy, correction.camera)}` : '';
  const sure = sureDeg === null ? '' : `sure to ${verdictDegrees(sureDeg)}${wide}`;
  const sentence = (parts: readonly string[]): string => {
    const text = parts.filter((part) => part !== '').join('; ');
    return text === '' ? '' : `${text[0]?.toUpperCase()}${text.slice(1)}.`;
  };
  switch (state) {
    case 'unknown':
      return { main: 'Not known yet', detail: sentence([next ?? 'draw a line along something level or plumb']), bad: false };
    case 'unchecked':
      return { main: 'As drawn', detail: sentence(['nothing checks it yet', sure, next === null ? '' : `best next: ${next}`]), bad: false };
    case 'true': {
      const one = front === 'wall' && about.length === 1 ? about[0] : null;
      const what = one === 'plumb' ? 'of what is level nothing is known' : one === 'level' ? 'of what is plumb nothing is known' : '';
      return {
        main: `True within ${verdictDegrees(deg ?? 0)}`,
        detail: sentence([of === '' ? '' : `most off: ${of}`, what, wide.slice(2)]),
        bad: false,
      };
    }
    case 'off': {
      const disagrees = verdict.remedy ? 'it contradicts the others' : '';
      return {
        main: `Off by ${verdictDegrees(deg ?? 0)}`,
        detail: sentence([of, disagrees, verdict.remedy ? '' : sure]),
        bad: (deg ?? 0) >= BAD_DEG || verdict.remedy !== null,
      };
    }
    case 'held':
      return { main: `Held back ${verdictDegrees(deg ?? 0)}`, detail: sentence([heldWords(takenOut, correction), sure]), bad: false };
  }
}

/** What is taken out, in words. */
function heldWords(takenOut: Verdict['takenOut'], { stance }: Correction): string {
  if (stance.may === 'turn-only' && stance.from === 'references') return 'the lines may only turn the picture';
  if (!takenOut) return 'leaned on purpose';
  return `${takenOutInWords(takenOut)} taken out`;
}

/** "80 %", or tilt and swing each. */
export const takenOutInWords = ({ tilt, swing }: NonNullable<Verdict['takenOut']>): string =>
  Math.abs(tilt - swing) < 0.5 ? `${tilt.toFixed(0)} %` : `${tilt.toFixed(0)} % of the tilt, ${swing.toFixed(0)} % of the swing`;
