import {
  blankRaster,
  hasAlpha,
  isWide,
  putUpright,
  resultSamples,
  ROWS_TURNED,
  uprightSize,
  type Raster,
  type Source,
} from '@able-plumb/core';
import type { Shape } from './band-file';

/** Some rows as interleaved samples. */
export type Rows = Uint8Array | Uint16Array;

/** A picture's rows while they are decoded, from the top. */
export interface RowReader extends Shape {
  /** Most rows that come at a time. */
  readonly step: number;
  /** Some rows that come next, whole ones, there until more are asked for; null for damage that another decoder has to look at. */
  next(): Rows | null | Promise<Rows | null>;
}

/** A picture's pixels while they are being decoded, in memory that threads share where they can. */
export interface Arriving extends Shape {
  /** Most rows that come at a time. */
  readonly step: number;
  /**
   * Memory for them, before any is decoded.
   * @param held for how many rows: of all that came the last ones are there
   */
  into(held: number): Source;
  /** Decodes more of them. @returns how many rows have come by now, from the top */
  more(): Promise<number>;
}

/** Whether the platform has memory that threads share, and lets it be used. */
export const canShare =
  typeof SharedArrayBuffer !== 'undefined' && (globalThis as { crossOriginIsolated?: boolean }).crossOriginIsolated !== false;

/**
 * Puts rows where threads draw from them.
 * @param atOnce decodes all of it, or says what is damaged, where rows cannot be read on. Sound rows that were there already are the same
 *   within the few steps that decoders may differ by
 */
export function arrivingRows(reader: RowReader, atOnce: () => Promise<Raster>): Arriving {
  const { width, height, channels, bits, step } = reader;
  const row = width * channels;
  let memory: Rows = new Uint8Array();
  let patient: Rows | null = null;
  let [held, there] = [0, 0];
  const next = async (): Promise<Rows> => {
    const rows = patient ? null : await reader.next();
    if (rows) return rows;
    patient ??= (await atOnce()).data as Rows;
    return patient.subarray(there * row, Math.min(height, there + step) * row);
  };
  return {
    width,
    height,
    channels,
    bits,
    step,
    into: (rows) => {
      held = Math.min(height, rows);
      memory = resultSamples(held * row, bits, canShare);
      return held < height ? { width, height, channels, data: memory, held } : { width, height, channels, data: memory };
    },
    more: async () => {
      const rows = await next();
      const first = (there % held) * row;
      const fit = Math.min(rows.length, memory.length - first);
      memory.set(rows.subarray(0, fit), first);
      memory.set(rows.subarray(fit));
      there += rows.length / row;
      return there;
    },
  };
}

/** Rows that come; without a turn of the event loop where they come at once, as another decoder might begin in it. */
async function eachOf(reader: RowReader, take: (rows: Rows) => void): Promise<boolean> {
  const row = reader.width * reader.channels;
  for (let there = 0; there < reader.height;) {
    const next = reader.next();
    const rows = next instanceof Promise ? await next : next;
    if (!rows) return false;
    take(rows);
    there += rows.length / row;
  }
  return true;
}

/**
 * All rows of a picture, the right way up, without a copy of the whole in between.
 * @param shared whether in memory that threads share
 * @param orientation how the picture is stored: 1..8 (CIPA DC-008, tag 0x0112)
 * @returns null for damage that another decoder has to look at
 */
export async function allRows(reader: RowReader, shared: boolean, orientation = 1): Promise<Raster | null> {
  const { width, height, channels, bits } = reader;
  const data = resultSamples(width * height * channels, bits, shared);
  const row = width * channels;
  let y = 0;
  const put = (rows: Rows): void => {
    putUpright(data, rows, y, reader, channels, orientation);
    y += rows.length / row;
  };
  if (orientation < 5) return (await eachOf(reader, put)) ? { width, height, channels, data } : null;
  // what becomes columns comes together first
  const together = resultSamples(Math.min(ROWS_TURNED, height) * row, bits, false);
  let waiting = 0;
  const sound = await eachOf(reader, (rows) => {
    for (let from = 0; from < rows.length;) {
      const some = rows.subarray(from, from + together.length - waiting);
      together.set(some, waiting);
      [from, waiting] = [from + some.length, waiting + some.length];
      if (waiting < together.length) continue;
      put(together);
      waiting = 0;
    }
  });
  if (!sound) return null;
  put(together.subarray(0, waiting));
  return { ...uprightSize(reader, orientation), channels, data };
}

/** A small copy of a picture as {@link shrunkRows} makes it. */
export const smallOf = (raster: Raster, longEdge: number): Promise<Raster | null> =>
  shrunkRows({ ...raster, bits: isWide(raster) ? 16 : 8, step: raster.height, next: () => raster.data as Rows }, longEdge);

/**
 * A picture made smaller by a whole number while it is decoded, so that it never lies anywhere whole: means of so many times so many samples;
 * what is left over at the right and below is left out.
 * @param longEdge its longer side is at least so many px
 * @returns null for damage, where it is small already, or nothing would be left, and for alpha, which would have to weigh
 */
export async function shrunkRows(reader: RowReader, longEdge: number): Promise<Raster | null> {
  const { channels, bits } = reader;
  const times = Math.floor(Math.max(reader.width, reader.height) / longEdge);
  const [width, height] = [Math.floor(reader.width / times), Math.floor(reader.height / times)];
  if (times <= 1 || width < 1 || height < 1 || hasAlpha({ channels })) return null;
  const small = blankRaster(width, height, channels, bits);
  const sums = new Uint32Array(width * channels);
  const row = reader.width * channels;
  let y = 0;
  const sound = await eachOf(reader, (rows) => {
    for (let from = 0; from < rows.length; from += row, y += 1) {
      addTo(sums, rows, from, times, channels);
      if (y % times !== times - 1) continue;
      const at = Math.floor(y / times) * width * channels;
      for (let k = 0; k < sums.length; k += 1) small.data[at + k] = Math.round((sums[k] as number) / (times * times));
      sums.fill(0);
    }
  });
  return sound ? small : null;
}

/** Adds so many pixels each of a row of grey or RGB to sums; one colour after the other, as sums in registers take half of the time. */
function addTo(sums: Uint32Array, rows: Rows, from: number, times: number, channels: number): void {
  for (let c = 0; c < channels; c += 1)
    for (let to = c, k = from + c; to < sums.length; to += channels) {
      let sum = 0;
      for (let t = 0; t < times; t += 1, k += channels) sum += rows[k] as number;
      sums[to] = (sums[to] as number) + sum;
    }
}
