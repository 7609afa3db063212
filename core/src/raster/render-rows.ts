import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { TILE_HEIGHT } from './kernel';
import { shimParts } from './shim-parts';
import { apartIn } from './lateral';
import type { PositionMap } from './position-map';
import { samplesFor } from './resample';
import { hasAlpha, halveRaster, largestSample, type Raster, type Source } from './raster';
import { resampleRowsFast } from './resample-fast';
import type { Light } from './transfer';

/** A picture made ready for export: the source (halved when the result is much smaller) and how many times it was halved. */
export interface PreparedSource {
  readonly raster: Source;
  readonly halvings: number;
}

/**
 * Halves the source while a pixel of the result covers more than eight of its own a side, so that kernels stay narrow, and it has more than
 * 16 px a side; as it is otherwise.
 */
export function prepareSource(source: Source, warp: Warp, light: Light = 'encoded'): PreparedSource {
  let raster = source;
  let halvings = 0;
  let shrink = Math.min(warp.crop.width / warp.outputSize.width, warp.crop.height / warp.outputSize.height);
  while (shrink > 8 && Math.min(raster.width, raster.height) > 16) {
    raster = halveRaster(raster, light);
    halvings += 1;
    shrink /= 2;
  }
  return { raster, halvings };
}

/** Channels of the result: with alpha when the source has it, or when edges may be empty and are to be transparent. */
export function resultChannels(source: Pick<Raster, 'channels'>, correction: Correction, formatHasAlpha: boolean): Raster['channels'] {
  const wants =
    formatHasAlpha && (hasAlpha(source) || (correction.crop.edges !== 'clear' && correction.output.background === 'transparent'));
  const grey = source.channels <= 2;
  return grey ? (wants ? 2 : 1) : wants ? 4 : 3;
}

/** Background as samples of the source's depth; white where a format without transparency needs a colour and none was chosen. */
export function backgroundSamples(correction: Correction, source: Raster, channels: Raster['channels']): readonly number[] | 'transparent' {
  const { background } = correction.output;
  if (background === 'transparent' && (channels === 2 || channels === 4)) return 'transparent';
  const hex = background === 'transparent' ? '#ffffff' : background;
  const scale = largestSample(source) / 255;
  const rgb = [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) * scale);
  if (channels >= 3) return rgb;
  const [r, g, b] = rgb as [number, number, number];
  return [Math.round(0.2126 * r + 0.7152 * g + 0.0722 * b)];
}

/**
 * Rows of the exported file, once resampled from the original.
 * @param into where they go: zeros, exactly as many samples as there are; new memory by default
 * @returns `into`
 */
export function renderRows(
  prepared: PreparedSource,
  warp: Warp,
  correction: Correction,
  channels: Raster['channels'],
  fromRow: number,
  toRow: number,
  into: Uint8Array | Uint16Array = samplesFor(prepared.raster, warp.outputSize.width * (toRow - fromRow) * channels),
): Uint8Array | Uint16Array {
  const { raster, halvings } = prepared;
  const sx = raster.width / warp.pictureSize.width;
  const sy = raster.height / warp.pictureSize.height;
  const halved = (map: PositionMap): PositionMap =>
    halvings === 0
      ? map
      : (x, y, out) => {
          if (!map(x, y, out)) return false;
          out[0] = (out[0] as number) * sx;
          out[1] = (out[1] as number) * sy;
          return true;
        };
  const apart = channels >= 3 ? apartIn(correction, [sx, sy]) : null;
  const background = backgroundSamples(correction, raster, channels);
  const drawn = (map: PositionMap, width: number, from: number, to: number, memory: Uint8Array | Uint16Array, exact: boolean): void => {
    resampleRowsFast({
      into: memory,
      source: raster,
      map,
      // where pixels go over one to one there is nothing to interpolate; a smoothing filter must not soften them
      filter: exact ? 'bilinear' : correction.output.filter,
      light: exact ? 'encoded' : correction.output.light,
      width,
      fromRow: from,
      toRow: to,
      background,
      outChannels: channels,
      apart,
    });
  };
  const { width } = warp.outputSize;
  drawn(halved(warp.outputToPictureUnshimmed), width, fromRow, toRow, into, warp.pixelExact && !apart);
  // what shims move is drawn by itself, so that everything else is to the bit what it were without them
  for (const { left, top, right, bottom } of shimParts(warp.shimBoxes, width, fromRow, toRow)) {
    // tiles as they lie in the whole file, whatever the band
    const first = Math.max(fromRow, top - (top % TILE_HEIGHT));
    const columns = right - left;
    const moved: PositionMap = (u, v, out) => warp.outputToPicture(u + left, v, out);
    const part = samplesFor(raster, columns * (bottom - first) * channels);
    drawn(halved(moved), columns, first, bottom, part, false);
    for (let row = top; row < bottom; row += 1)
      into.set(
        part.subarray((row - first) * columns * channels, (row - first + 1) * columns * channels),
        ((row - fromRow) * width + left) * channels,
      );
  }
  return into;
}
