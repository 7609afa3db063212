import { beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { throughLattice, type Raster } from '@able-plumb/core';
import { convertColours, latticeOf, profileOf } from './colour';
import { DISPLAY_P3, SRGB } from './icc-profile';
import { useNodeCodecs } from './node';
import { readPictureInfo, readPixels } from './read-picture';
import { writePicture } from './write-picture';

beforeAll(() => useNodeCodecs());

type V = readonly [number, number, number];
type M = readonly [V, V, V];
const times = (m: M, v: V): V => m.map((row) => row[0] * v[0] + row[1] * v[1] + row[2] * v[2]) as unknown as V;
const columns = (a: V, b: V, c: V): M => [
  [a[0], b[0], c[0]],
  [a[1], b[1], c[1]],
  [a[2], b[2], c[2]],
];
function inverse([[a, b, c], [d, e, f], [g, h, i]]: M): M {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    [(e * i - f * h) / det, (c * h - b * i) / det, (b * f - c * e) / det],
    [(f * g - d * i) / det, (a * i - c * g) / det, (c * d - a * f) / det],
    [(d * h - e * g) / det, (b * g - a * h) / det, (a * e - b * d) / det],
  ];
}
const fromXy = (x: number, y: number): V => [x / y, 1, (1 - x - y) / y];
/** Primaries under D65, adapted to D50 by the Bradford transform (Lam 1985; matrix as in ICC.1:2022, annex E). */
function adapted(red: V, green: V, blue: V): readonly V[] {
  const bradford: M = [
    [0.8951, 0.2664, -0.1614],
    [-0.7502, 1.7135, 0.0367],
    [0.0389, -0.0685, 1.0296],
  ];
  const [d65, d50] = [fromXy(0.3127, 0.329), [0.9642, 1, 0.8249] as const];
  const parts = times(inverse(columns(red, green, blue)), d65);
  const [from, to] = [times(bradford, d65), times(bradford, d50)];
  return [red, green, blue].map((p, k) => {
    const cone = times(bradford, p.map((v) => v * parts[k]!) as unknown as V);
    return times(inverse(bradford), cone.map((v, c) => (v * to[c]!) / from[c]!) as unknown as V);
  });
}
const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const encoded = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

/** Colours all over the cube, and greys. */
function colours(bits: 8 | 16): Raster {
  const most = bits === 8 ? 255 : 65535;
  const values = Array.from({ length: 12 }, (_, k) => Math.round((k / 11) * most));
  const all = [...values.flatMap((r) => values.flatMap((g) => values.flatMap((b) => [r, g, b]))), ...values.flatMap((v) => [v, v, v])];
  return { width: all.length / 3, height: 1, channels: 3, data: bits === 8 ? Uint8Array.from(all) : Uint16Array.from(all) };
}

describe('colours', () => {
  it('have the primaries of sRGB and Display P3 (worked out from IEC 61966-2-1 and SMPTE EG 432-1 by the Bradford transform)', () => {
    const p3 = adapted(fromXy(0.68, 0.32), fromXy(0.265, 0.69), fromXy(0.15, 0.06));
    const srgb = adapted(fromXy(0.64, 0.33), fromXy(0.3, 0.6), fromXy(0.15, 0.06));
    for (const [said, found] of [
      [DISPLAY_P3, p3],
      [SRGB, srgb],
    ] as const)
      said.forEach((primary, k) => primary.forEach((v, c) => expect(v).toBeCloseTo(found[k]![c]!, 3)));
  });

  it('are converted as the matrices say, at 8 and 16 bits, and through a lattice within a step; greys stay grey', async () => {
    const toP3 = inverse(columns(...DISPLAY_P3));
    const oracle = (rgb: V): V => times(toP3, times(columns(...SRGB), rgb.map(linear) as unknown as V)).map(encoded) as unknown as V;
    for (const bits of [8, 16] as const) {
      const raster = colours(bits);
      const most = bits === 8 ? 255 : 65535;
      const done = await convertColours(raster, profileOf('srgb'), 'display-p3');
      const seen = throughLattice(raster, (await latticeOf(profileOf('srgb'), 3, 'display-p3'))!);
      for (let k = 0; k < raster.data.length; k += 3) {
        const wanted = oracle([raster.data[k]! / most, raster.data[k + 1]! / most, raster.data[k + 2]! / most]);
        wanted.forEach((v, c) => {
          expect(Math.abs(done.data[k + c]! - v * most), `${bits}, ${k}`).toBeLessThan(bits === 8 ? 1 : 120);
          expect(Math.abs(seen.data[k + c]! - v * 255), `lattice, ${bits}, ${k}`).toBeLessThan(2);
        });
      }
      for (let k = 12 ** 3 * 3; k < raster.data.length; k += 3) expect(Math.abs(seen.data[k]! - seen.data[k + 2]!)).toBeLessThanOrEqual(1);
    }
  });

  it('need no way to the screen where they are sRGB or nobody knows; a broken profile is said', async () => {
    expect(await latticeOf(undefined, 3, 'srgb')).toBeNull();
    expect(await latticeOf(profileOf('srgb'), 3, 'srgb')).toBeNull();
    await expect(latticeOf(profileOf('srgb').slice(0, 200), 3, 'srgb')).rejects.toThrow(/cannot be read.*sRGB/);
    await expect(latticeOf(profileOf('srgb'), 1, 'srgb')).rejects.toThrow(/cannot be read/);
    await expect(convertColours(colours(8), profileOf('srgb').slice(0, 200), 'srgb')).rejects.toThrow(
      /cannot be read.*as the original has them; nothing was written/,
    );
  });

  it('of a delivery in sRGB are those that another program makes of the same file, and the profile says so (sharp, libvips)', async () => {
    const width = 64;
    const data = Uint8Array.from({ length: width * width * 3 }, (_, k) => (k * 37) % 256);
    const metadata = { icc: profileOf('display-p3') };
    const source = await writePicture({ width, height: width, channels: 3, data }, { kind: 'png', bits: 8 }, { metadata });
    const info = await readPictureInfo(source, 'a.png');
    const file = await writePicture(
      await readPixels(source, 'a.png', info),
      { kind: 'png', bits: 8 },
      { metadata: info.metadata, colour: 'srgb' },
    );
    const written = await readPictureInfo(file, 'b.png');
    expect(written.profileName).toBe('sRGB');
    const theirs = await sharp(source).toColourspace('srgb').removeAlpha().raw().toBuffer();
    const ours = (await readPixels(file, 'b.png', written)).data;
    let [sum, most] = [0, 0];
    for (let k = 0; k < theirs.length; k += 1) {
      const off = Math.abs(ours[k]! - theirs[k]!);
      sum += off;
      most = Math.max(most, off);
    }
    expect(sum / theirs.length).toBeLessThan(0.6);
    expect(most).toBeLessThanOrEqual(3);
  });

  it('and depth: 16 bits go out as 16 where the format can, whatever was converted or sharpened', async () => {
    const raster = colours(16);
    for (const format of [
      { kind: 'png', bits: 'as-taken' } as const,
      { kind: 'tiff', bits: 'as-taken', compression: 'deflate' } as const,
    ]) {
      const file = await writePicture(raster, format, { metadata: { icc: profileOf('srgb') }, colour: 'display-p3', sharpen: 'screen' });
      expect((await sharp(file).metadata()).depth).toBe('ushort');
    }
  });
});

describe('a file with a limit', () => {
  it('has the highest quality that fits, and a sentence where none does', async () => {
    const width = 256;
    const data = Uint8Array.from({ length: width * width * 3 }, (_, k) => ((k * 2654435761) >>> 13) % 256);
    const raster: Raster = { width, height: width, channels: 3, data };
    const jpeg = { kind: 'jpeg', quality: 95, chroma: '4:2:0' } as const;
    const sizeAt = async (quality: number): Promise<number> => (await writePicture(raster, { ...jpeg, quality })).length;
    const limit = Math.round((await sizeAt(60)) * 1.002);
    const file = await writePicture(raster, { ...jpeg, mostBytes: limit });
    expect(file.length).toBeLessThanOrEqual(limit);
    expect(file.length).toBe(await sizeAt(60));
    await expect(writePicture(raster, { ...jpeg, mostBytes: 1000 })).rejects.toThrow(/Even at quality 30 .* 1 kB were asked for/);
  });
});
