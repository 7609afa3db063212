import { readFileSync } from 'node:fs';
import { blankRaster, type ExportFormat, type Raster } from '@able-plumb/core';

/* What the tests of several formats share. */

/** A picture file of the demo job. */
export const demo = (name: string): Uint8Array => readFileSync(new URL(`../../demo/job/${name}`, import.meta.url));

/** A small picture with every value somewhere. */
export function testRaster(channels: Raster['channels'], bits: 8 | 16, width = 37, height = 23): Raster {
  const raster = blankRaster(width, height, channels, bits);
  for (let k = 0; k < raster.data.length; k += 1) raster.data[k] = bits === 8 ? (k * 37 + (k >> 4)) & 255 : (k * 4099) & 65535;
  return raster;
}

/** How far samples are from others; every seventh. */
export const differences = (data: Raster['data'], other: (k: number) => number): number[] =>
  Array.from({ length: Math.floor(data.length / 7) }, (_, i) => Math.abs((data[7 * i] as number) - other(7 * i)));

export const bitsOf = ({ data }: Raster): 8 | 16 => (data instanceof Uint16Array ? 16 : 8);
export const bytesOf = (data: Raster['data']): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

/** Every format, as it is mostly written. */
export const FORMATS: readonly ExportFormat[] = [
  { kind: 'jpeg', quality: 90, chroma: '4:4:4' },
  { kind: 'png', bits: 8 },
  { kind: 'tiff', bits: 16, compression: 'deflate' },
  { kind: 'webp', quality: 90, lossless: false },
];
