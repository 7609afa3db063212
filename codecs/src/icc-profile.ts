/** XYZ of the full red, green and blue of a space, adapted to D50. */
export type Primaries = readonly [red: Xyz, green: Xyz, blue: Xyz];
type Xyz = readonly [x: number, y: number, z: number];

/** Primaries adapted to D50 by the Bradford transform, as published with IEC 61966-2-1 (from memory). */
export const SRGB: Primaries = [
  [0.43607, 0.22249, 0.01392],
  [0.38515, 0.71687, 0.09708],
  [0.14307, 0.06061, 0.7141],
];

/** The primaries of SMPTE EG 432-1 under D65, adapted to D50 by the Bradford transform; worked out anew in the tests. */
export const DISPLAY_P3: Primaries = [
  [0.51512, 0.2412, -0.00105],
  [0.29198, 0.69225, 0.04189],
  [0.1571, 0.06657, 0.78407],
];

/** The curve of IEC 61966-2-1, which sRGB and Display P3 share: light 0..1 of a sample 0..1. */
const srgbCurve = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** A small matrix profile in the layout of ICC.1:2001-12 (version 2), its curve in 1024 steps. */
export function matrixProfile(description: string, [red, green, blue]: Primaries, lightOf = srgbCurve): Uint8Array {
  const xyz = (x: number, y: number, z: number): Uint8Array => {
    const out = new Uint8Array(20);
    const view = new DataView(out.buffer);
    ascii(out, 0, 'XYZ ');
    [x, y, z].forEach((v, k) => view.setInt32(8 + 4 * k, Math.round(v * 65536)));
    return out;
  };
  const curve = new Uint8Array(12 + 2 * 1024);
  ascii(curve, 0, 'curv');
  const curveView = new DataView(curve.buffer);
  curveView.setUint32(8, 1024);
  for (let i = 0; i < 1024; i += 1) {
    const v = i / 1023;
    curveView.setUint16(12 + 2 * i, Math.round(65535 * lightOf(v)));
  }
  const desc = new Uint8Array(12 + description.length + 1 + 78);
  ascii(desc, 0, 'desc');
  new DataView(desc.buffer).setUint32(8, description.length + 1);
  ascii(desc, 12, description);
  const text = 'text\0\0\0\0No rights reserved\0';
  const copyright = Uint8Array.from(text, (c) => c.charCodeAt(0));
  const tags: readonly (readonly [string, Uint8Array])[] = [
    ['desc', desc],
    ['cprt', copyright],
    ['wtpt', xyz(0.9642, 1, 0.8249)],
    ['rXYZ', xyz(...red)],
    ['gXYZ', xyz(...green)],
    ['bXYZ', xyz(...blue)],
    ['rTRC', curve],
    ['gTRC', curve],
    ['bTRC', curve],
  ];
  let at = 128 + 4 + 12 * tags.length;
  const offsets = new Map<Uint8Array, number>();
  for (const [, data] of tags) {
    if (offsets.has(data)) continue;
    offsets.set(data, at);
    at += Math.ceil(data.length / 4) * 4;
  }
  const out = new Uint8Array(at);
  const view = new DataView(out.buffer);
  view.setUint32(0, at);
  view.setUint32(8, 0x02400000);
  ascii(out, 12, 'mntrRGB XYZ ');
  [2026, 4, 14, 9, 0, 0].forEach((v, k) => view.setUint16(24 + 2 * k, v));
  ascii(out, 36, 'acsp');
  [0.9642, 1, 0.8249].forEach((v, k) => view.setInt32(68 + 4 * k, Math.round(v * 65536)));
  view.setUint32(128, tags.length);
  tags.forEach(([name, data], k) => {
    ascii(out, 132 + 12 * k, name);
    view.setUint32(136 + 12 * k, offsets.get(data) as number);
    view.setUint32(140 + 12 * k, data.length);
  });
  offsets.forEach((offset, data) => out.set(data, offset));
  return out;
}

const ascii = (out: Uint8Array, at: number, text: string): void => [...text].forEach((c, i) => (out[at + i] = c.charCodeAt(0)));
