import { evidenceInWords, sureInWords, SUGGESTION_NAMES, type Correction } from '@able-plumb/core';
import { seenWith, type Finding } from '../state/finding.reducer';

/** What a picture said by itself, for its place on the sheet. */
export interface SaidOfPicture {
  readonly state: 'asked' | 'sure' | 'likely' | 'silent';
  readonly words: string;
  /** On what evidence, in words; empty where the words say it all. */
  readonly evidence: string;
  /** How sure its best suggestion is, degrees; larger than anything without one. */
  readonly withinDeg: number;
}

/** What is known of it; null where it was not asked with the lens that it has now. */
export function saidOf(finding: Finding | null, asked: boolean, correction: Correction | null): SaidOfPicture | null {
  if (asked) return { state: 'asked', words: 'looking …', evidence: '', withinDeg: Number.MAX_VALUE };
  if (!finding || !correction || finding.seenWith !== seenWith(correction)) return null;
  const best = finding.said?.suggestions[0];
  if (!best || finding.refused) {
    const why = finding.said ? finding.said.silent.map((one) => one.why).join(' ') : finding.why;
    return { state: 'silent', words: finding.refused ? 'refused' : why, evidence: '', withinDeg: Number.MAX_VALUE };
  }
  // how sure comes first: it is what a narrow cell has to show
  const words = `${sureInWords(best)}: ${SUGGESTION_NAMES[best.kind].toLowerCase()}`;
  return { state: best.sure, words, evidence: evidenceInWords(best), withinDeg: best.withinDeg };
}
