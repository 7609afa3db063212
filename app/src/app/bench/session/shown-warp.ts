import { composeWarp, originalOf, PlumbError, withTrim, type Correction, type Warp } from '@able-plumb/core';

/** A warp, or the sentence that says why there is none. */
export interface Shown {
  readonly warp: Warp;
  /** The correction that the warp belongs to: the asked-for one, or the nearest that works. */
  readonly correction: Correction;
  /** What stands in the way of what was asked for; the warp then shows the nearest thing that works. */
  readonly trouble: string | null;
}

/** Ways out when a correction cannot be shown as it is, nearest first: a smaller file, another crop, the original. */
const WAYS_OUT: readonly ((c: Correction) => Correction)[] = [
  (c) => c,
  (c) => ({ ...c, output: { ...c.output, size: { kind: 'long-edge', px: 4000 } } }),
  (c) => withTrim({ ...c, output: { ...c.output, size: { kind: 'long-edge', px: 4000 } } }, { edges: 'keep' }),
  originalOf,
];

/** The warp of a correction; when it cannot be had, the nearest thing that can be shown, and the reason. */
export function shownWarp(asked: Correction, trim: 'best' | 'near' = 'best'): Shown {
  let trouble: string | null = null;
  for (const way of WAYS_OUT) {
    try {
      const correction = way(asked);
      return { warp: composeWarp(correction, correction.picture, trim), correction, trouble };
    } catch (error) {
      if (!(error instanceof PlumbError)) throw error;
      trouble ??= error.message;
    }
  }
  throw new Error('Even the original cannot be shown.');
}
