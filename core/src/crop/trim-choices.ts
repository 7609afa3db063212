import type { Correction, Crop } from '../correction/schema';
import type { Rect } from '../picture/point';
import { costOf } from '../warp/cost';
import type { PlaneWarp } from '../warp/plane-warp';
import { resolveCrop } from './resolve-crop';

/** One trim on offer: its answers, the rectangle it gives and what it keeps. */
export interface TrimChoice {
  readonly edges: Crop['edges'];
  readonly around: Crop['around'];
  /** Null when this trim is impossible here. */
  readonly rect: Rect | null;
  /** Share of the picture's own pixels kept, 0..1. */
  readonly kept: number;
}

/** The trims that a picture is offered, in the proportions of its crop. */
export function trimChoices(correction: Correction, warp: PlaneWarp): TrimChoice[] {
  const offers: readonly (readonly [Crop['edges'], Crop['around']])[] = [
    ['clear', 'picture'],
    ['clear', 'frame'],
    ['keep', 'frame'],
    ['keep', 'picture'],
    ...(correction.panels.some((p) => p.used) ? ([['keep', 'panel']] as const) : []),
  ];
  return offers.map(([edges, around]) => {
    const { rect: _dropped, ...crop } = correction.crop;
    try {
      const rect = resolveCrop({ ...correction, crop: { ...crop, edges, around } }, warp);
      return { edges, around, rect, kept: costOf(warp, rect).kept };
    } catch {
      return { edges, around, rect: null, kept: 0 };
    }
  });
}
