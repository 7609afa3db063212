import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { hasAlpha, type Raster } from '../raster/raster';
import { backgroundSamples, resultChannels } from '../raster/render-rows';
import { isClear } from '../crop/inside-outline';
import { fillEmpty } from './fill-empty';

/** Whether a result has something empty in it that is to be filled. */
export const fills = (correction: Correction, warp: Warp): boolean =>
  correction.crop.edges === 'fill' && !isClear(warp.outline, warp.crop, CLEAR_PX);

/** A pixel is empty when its centre is, which lies half a pixel inside. */
const CLEAR_PX = 0.05;

/** How a result is drawn that is to be filled: with alpha, what is empty clear. */
export const drawnToBeFilled = (correction: Correction): Correction => ({
  ...correction,
  output: { ...correction.output, background: 'transparent' },
});

/** Channels of a result that is drawn to be filled. */
export const filledChannels = (source: Pick<Raster, 'channels'>): 2 | 4 => (source.channels <= 2 ? 2 : 4);

/** A result that was filled, as it goes into its file, and what share of it was. */
export interface FilledResult {
  readonly raster: Raster;
  readonly share: number;
}

/**
 * Fills a result that was drawn to be ({@link drawnToBeFilled}), and gives it the channels and the background of its file.
 *
 * @param correction as it was asked for; @param warp of the result
 * @param source the original
 * @param onShare called with the share that is done, 0..1
 * @throws PlumbError as {@link fillEmpty} does
 */
export function fillRendered(
  drawn: Raster,
  correction: Correction,
  warp: Warp,
  source: Raster,
  formatHasAlpha: boolean,
  onShare?: (share: number) => void,
): FilledResult {
  const { share, leftEmpty } = fillEmpty(drawn, correction, warp, hasAlpha(source), onShare);
  // where nothing is empty any more a file has the alpha of its original only
  const clear: Correction = leftEmpty ? correction : { ...correction, crop: { ...correction.crop, edges: 'clear' } };
  const channels = resultChannels(source, clear, formatHasAlpha);
  return { raster: onBackground(drawn, backgroundSamples(correction, source, channels), channels), share };
}

/** A raster with alpha as it is over a background, with fewer channels or as many. */
function onBackground(
  { width, height, channels, data }: Raster,
  background: readonly number[] | 'transparent',
  to: Raster['channels'],
): Raster {
  const colours = to >= 3 ? 3 : 1;
  const keepsAlpha = to === 2 || to === 4;
  const most = data instanceof Uint16Array ? 65535 : 255;
  const out = data instanceof Uint16Array ? new Uint16Array(width * height * to) : new Uint8Array(width * height * to);
  for (let k = 0, from = 0, into = 0; k < width * height; k += 1, from += channels, into += to) {
    const alpha = data[from + channels - 1] as number;
    const behind = background === 'transparent' ? null : background;
    for (let c = 0; c < colours; c += 1) {
      const value = data[from + c] as number;
      out[into + c] = alpha === most || !behind ? value : Math.round((value * alpha + (behind[c] as number) * (most - alpha)) / most);
    }
    if (keepsAlpha) out[into + to - 1] = behind ? most : alpha;
  }
  return { width, height, channels: to, data: out };
}
