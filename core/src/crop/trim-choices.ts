import type { Correction, Crop } from '../correction/schema';
import type { Rect, Size } from '../picture/point';
import { costOf } from '../warp/cost';
import type { PlaneWarp } from '../warp/plane-warp';
import { planeScale } from '../warp/panel-plane';
import { cutBoxes } from './keep-boxes';
import { pointedAt } from './lines-in-crop';
import { outputSize } from './output-size';
import { resolveCrop } from './resolve-crop';

/** One trim on offer: its answers, the rectangle it gives and what it keeps. */
export interface TrimChoice {
  readonly edges: Crop['edges'];
  readonly around: Crop['around'];
  /** Null when this trim is impossible here. */
  readonly rect: Rect | null;
  /** Share of the picture's own pixels kept, 0..1. */
  readonly kept: number;
  /** Size of the file that it would give, px; null where it would be too large. */
  readonly size: Size | null;
  /** How many keep boxes it cuts. */
  readonly cuts: number;
}

/** The trims that a picture is offered, in the proportions of its crop. */
export function trimChoices(correction: Correction, warp: PlaneWarp): TrimChoice[] {
  const offers: readonly (readonly [Crop['edges'], Crop['around']])[] = [
    ...(pointedAt(correction, warp).length > 0 ? ([['clear', 'lines']] as const) : []),
    ['clear', 'picture'],
    ...(correction.crop.keep.length > 0 ? ([['clear', 'keep']] as const) : []),
    ['clear', 'frame'],
    ['keep', 'frame'],
    ['keep', 'picture'],
    ...(correction.panels.some((p) => p.used) ? ([['keep', 'panel']] as const) : []),
  ];
  const choices = offers.map(([edges, around]): TrimChoice => {
    const { rect: _dropped, ...crop } = correction.crop;
    try {
      const rect = resolveCrop({ ...correction, crop: { ...crop, edges, around } }, warp);
      const cost = costOf(warp, rect);
      const sizeOrNull = (): Size | null => {
        try {
          return outputSize(
            correction,
            rect,
            () => cost.peakEnlargement,
            () => planeScale(correction, warp)?.mmPerPx ?? null,
          );
        } catch {
          return null;
        }
      };
      return { edges, around, rect, kept: cost.kept, size: sizeOrNull(), cuts: cutBoxes(correction, warp, rect) };
    } catch {
      return { edges, around, rect: null, kept: 0, size: null, cuts: 0 };
    }
  });
  // where the largest crop holds what is marked, one offer stands for both: the one that was asked for
  const [lines, picture] = (['lines', 'picture'] as const).map((around) => choices.find((c) => c.edges === 'clear' && c.around === around));
  const [a, b] = [lines?.rect, picture?.rect];
  const same = a && b && a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;
  return same ? choices.filter((c) => c !== (correction.crop.around === 'picture' ? lines : picture)) : choices;
}
