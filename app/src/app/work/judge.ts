import { composeWarp, degreesText, isUntouched, readingsOf, verdictDegrees, verdictInWords, type Correction } from '@able-plumb/core';

/** What a picture's readings say, for its place on the sheet. */
export interface Judged {
  /** Lean or slope of its worst line before and after, degrees; null without lines. */
  readonly beforeDeg: number | null;
  readonly afterDeg: number | null;
  /** In words. */
  readonly line: string;
  readonly state: 'untouched' | 'set' | 'attention';
}

const judged = new WeakMap<Correction, Judged>();

/** What a correction's readings say; worked out once for each. */
export function judge(correction: Correction): Judged {
  const known = judged.get(correction);
  if (known) return known;
  const fresh = judgeAnew(correction);
  judged.set(correction, fresh);
  return fresh;
}

/** What is known of a correction's readings without working anything out; null for nothing yet. */
export const judgedAlready = (correction: Correction): Judged | null => judged.get(correction) ?? null;

/** Keeps what was worked out elsewhere. */
export const keepJudged = (correction: Correction, found: Judged): void => void judged.set(correction, found);

function judgeAnew(correction: Correction): Judged {
  const none = { beforeDeg: null, afterDeg: null };
  if (isUntouched(correction)) return { ...none, line: 'untouched', state: 'untouched' };
  try {
    const { worst, references, verdict } = readingsOf(correction, composeWarp(correction, correction.picture, 'near'));
    const words = verdictInWords(verdict, correction);
    const waits = references.some((r) => r.waits);
    const state = words.bad || waits ? 'attention' : 'set';
    const said = verdict.state === 'unknown' ? (waits ? 'a line waits to be told' : 'set, without lines') : words.main.toLowerCase();
    const sure = verdict.state === 'unchecked' && verdict.sureDeg !== null ? ` ± ${verdictDegrees(verdict.sureDeg)}` : '';
    // what a line into the depth rises by in the picture is no error
    const shows = worst !== null && worst.kind !== 'return';
    return {
      beforeDeg: shows ? Math.abs(worst.beforeDeg) : null,
      afterDeg: worst && Math.abs(worst.offDeg ?? 0),
      line: `${said}${sure}${shows ? `, was ${degreesText(worst.beforeDeg)}` : ''}`,
      state,
    };
  } catch (error) {
    return { ...none, line: (error as Error).message, state: 'attention' };
  }
}
