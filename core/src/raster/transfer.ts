/** What is averaged: samples as they are stored, or the light that they stand for, by the curve of sRGB whatever the picture's profile. */
export type Light = 'encoded' | 'linear';

/** From a stored value 0..1 to light 0..1 (IEC 61966-2-1). */
export const toLight = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** From light 0..1 to a stored value 0..1 (IEC 61966-2-1). */
export const fromLight = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

const tables = new Map<number, Float64Array>();

/** Light, 0..top, of every sample 0..top. */
export function lightOf(top: number): Float64Array {
  const known = tables.get(top);
  if (known) return known;
  const table = Float64Array.from({ length: top + 1 }, (_, v) => toLight(v / top) * top);
  tables.set(top, table);
  return table;
}

/** Steps of {@link rootTable}. */
export const ROOT_STEPS = 4096;

/**
 * Stored values, 0..top, over the square root of the light in {@link ROOT_STEPS} steps: over the root the curve is nearly straight, so that
 * what lies between two steps is off by less than a fiftieth of a step of 16 bits.
 */
export const rootTable = (top: number): Float32Array =>
  Float32Array.from({ length: ROOT_STEPS + 2 }, (_, k) => Math.min(1, fromLight((k / ROOT_STEPS) ** 2)) * top);
