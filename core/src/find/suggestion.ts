import type { FoundLine } from '../correction/found-lines';
import type { Correction, ReferenceKind } from '../correction/schema';
import type { Point } from '../picture/point';
import type { Attitude } from '../stance/attitude';
import type { Movement } from '../stance/determined-by';

/** What a suggestion is named by. */
export type SuggestionKind = 'eye-line' | 'turn-middle' | 'stand-plumb' | 'front' | 'return' | 'sheet';

/** An edge of the picture and what it says to a suggestion. */
export interface EvidenceLine {
  readonly kind: ReferenceKind;
  /** Ends in picture px. */
  readonly a: Point;
  readonly b: Point;
  readonly agrees: boolean;
  /** By how much it is off, degrees, never negative. */
  readonly offDeg: number;
}

/** A complete correction found from the picture. */
export interface Suggestion {
  readonly kind: SuggestionKind;
  readonly sure: 'sure' | 'likely';
  /** Greatest lean or slope that it may leave anywhere in the crop, two deviations, degrees. */
  readonly withinDeg: number;
  readonly stance: Attitude;
  /** Standard deviations, degrees; null where it does not touch a movement. */
  readonly sd: Readonly<Record<Movement, number | null>>;
  /** Solved along, px; null where it was known, or is not told. */
  readonly focalPx: number | null;
  readonly evidence: {
    readonly agree: number;
    readonly against: number;
    readonly lines: readonly EvidenceLine[];
  };
  /** Share of the picture that its crop keeps, and the greatest enlargement in it. */
  readonly cost: { readonly kept: number; readonly peak: number };
  /** The document with it, its edges as references. */
  readonly correction: Correction;
}

/** What is not suggested, and why not, in a sentence. */
export interface Silence {
  readonly kind: SuggestionKind;
  readonly why: string;
}

/** What a suggestion is called. */
export const SUGGESTION_NAMES: Readonly<Record<SuggestionKind, string>> = {
  'eye-line': 'Eye line level',
  'turn-middle': 'Turned by the middle',
  'stand-plumb': 'Stand plumb',
  front: 'Front square-on',
  return: 'Return square-on',
  sheet: 'Sheet straight',
};

/** On what evidence a suggestion rests, in words. */
export function evidenceInWords({ kind, evidence: { agree, against, lines } }: Pick<Suggestion, 'kind' | 'evidence'>): string {
  if (kind === 'eye-line') return 'One far, straight boundary from side to side';
  const what = kind === 'sheet' ? 'line' : kind === 'front' || kind === 'return' ? 'edge' : 'plumb edge';
  const off = lines.filter(({ agrees }) => !agrees).map((line) => line.offDeg);
  const worst = off.length === 0 ? '' : `, the most by ${Math.max(...off).toFixed(1)}°`;
  return `${agree} ${what}${agree === 1 ? ' agrees' : 's agree'}${against > 0 ? `, ${against} ${against === 1 ? 'speaks' : 'speak'} against${worst}` : ''}`;
}

/** The lines that taking a suggestion over makes references. */
export const foundLines = ({ correction }: Pick<Suggestion, 'correction'>): readonly FoundLine[] =>
  correction.references.filter(({ by }) => by === 'found').map(({ kind, a, b, placedPx }) => ({ kind, a, b, placedPx }));
