import type { Correction } from '../correction/schema';
import { turnedSize } from '../picture/quarter-turns';
import { AGREES_DEG, toleranceOf } from './agreeing';
import type { LevelDirection } from './level-directions';
import { NEAR_DEG, type PlumbCandidate } from './plumb-direction';
import { logTail } from './segments';
import type { Witness } from './witnesses';

/** Fewest edges that are witnesses of anything, each by itself. */
const FEWEST = 3;
/** A tilt needs plumb edges so far apart, as a share of the picture's width. */
const SPREAD = 0.25;
/** Chance makes something like it less than once in a thousand pictures. */
const LOG_FALSE_ALARMS = -3;
/** Another answer may have this much of the best one's support beside a sure one, and beside any. */
const RIVAL_SHARE = 0.7;
const AS_GOOD = 0.85;
/** Of what is nearly plumb so much agrees beside a sure answer, and beside any; by length. */
const MOST_AGREE = 0.62;
const LEAST_SHARE = 0.5;
/** Steep edges less well seen than this say little of whether all agree, degrees. */
const SHARP_DEG = 0.75;

/** Whether the plumb edges say how the camera stood. */
export interface WhetherPlumb {
  /** Why nothing is offered; null where something is. */
  readonly why: string | null;
  /** Whether they stand far enough apart to tell a tilt. */
  readonly spread: boolean;
  readonly narrow: string;
  /** Beyond doubt: no other answer comes near. */
  readonly firm: boolean;
}

/**
 * Whether plumb edges agree by more than chance and without a rival.
 * Source: numbers of false alarms, Desolneux, Moisan, Morel 2000, Meaningful alignments, from memory.
 */
export function whyNotPlumb(candidates: readonly PlumbCandidate[], correction: Correction): WhetherPlumb {
  const none = (why: string): WhetherPlumb => ({ why, spread: false, narrow: '', firm: false });
  const [best, ...rivals] = candidates;
  const count = best?.agree.length ?? 0;
  if (!best || count < FEWEST)
    return none(
      count === 0
        ? 'The picture shows no straight edge that may be plumb.'
        : `Only ${count} ${count === 1 ? 'edge agrees' : 'edges agree'} on what is plumb; three are needed.`,
    );
  const { log, sharp, share } = falseAlarms(best);
  if (sharp < FEWEST) return none('Its steep edges are too short or too rough to say what is plumb.');
  if (log > LOG_FALSE_ALARMS || share < LEAST_SHARE)
    return none('Its steep edges lean this way and that, as trunks and posts do; they do not agree on what is plumb.');
  const width = turnedSize(correction.picture, correction.stance.quarterTurns).width;
  const middles = best.agree.map(({ p, q }) => (p[0] + q[0]) / 2);
  const spread = Math.max(...middles) - Math.min(...middles) >= SPREAD * width;
  const rivalry = rivals.reduce((most, rival) => Math.max(most, apart(rival, best) / Math.max(1e-9, apart(best, rival))), 0);
  // less length, and yet less of it by chance
  const surer = rivals.some((rival) => falseAlarms(rival).log < log && apart(rival, best) > 0.5 * apart(best, rival));
  if (rivalry > AS_GOOD || surer) return none('Two answers to what is plumb fit its edges about as well.');
  return {
    why: null,
    spread,
    narrow: 'Its plumb edges stand too close together to tell how the camera was tilted.',
    firm: rivalry <= RIVAL_SHARE && share >= MOST_AGREE,
  };
}

/** The support of one answer by the edges that do not agree with another: what fits both decides nothing between them. */
function apart(one: PlumbCandidate, other: PlumbCandidate): number {
  const lengthOf = (all: readonly Witness[]): number => all.reduce((sum, { length }) => sum + length, 0);
  return (one.support * lengthOf(one.agree.filter((witness) => !other.agree.includes(witness)))) / Math.max(1e-9, lengthOf(one.agree));
}

/** By how much chance is excluded: logarithm of how many such bundles a picture of scattered steep edges would show. */
export function falseAlarms({ agree, against }: PlumbCandidate): { readonly log: number; readonly sharp: number; readonly share: number } {
  const of = (all: readonly Witness[]): Witness[] => all.filter((witness) => toleranceOf(witness) <= SHARP_DEG);
  const [yes, no] = [of(agree), of(against)];
  const near = [...yes, ...no];
  const total = (all: readonly Witness[]): number => all.reduce((sum, { length }) => sum + length, 0);
  if (near.length === 0) return { log: 0, sharp: 0, share: 0 };
  const chance = near.reduce((sum, witness) => sum + Math.min(1, toleranceOf(witness) / NEAR_DEG), 0) / near.length;
  // answers that were tried: so many fit beside each other where these edges are near
  const tests = 2 * Math.log10(NEAR_DEG / AGREES_DEG);
  return { log: tests + logTail(near.length, yes.length, chance), sharp: yes.length, share: total(yes) / total(near) };
}

/** Why no face is offered; null where one is. */
export function whyNotLevel(directions: readonly LevelDirection[], others: readonly Witness[]): string | null {
  const [best] = directions;
  if (!best || best.agree.length < FEWEST)
    return others.length === 0
      ? 'The picture shows no level edge beside the plumb ones.'
      : 'Too few of its level edges run the same way to show a front.';
  return null;
}
