import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import ExifReader from 'exifreader';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { blankRaster, type Raster } from '@able-plumb/core';
import { readPictureInfo, readPixels, writePicture } from './index';
import { useNodeCodecs } from './node';

const demo = (name: string): Uint8Array => readFileSync(new URL(`../../demo/job/${name}`, import.meta.url));

/** A smooth picture with noise in it; soft alpha. */
function testRaster(channels: Raster['channels'], bits: 8 | 16, width = 90, height = 64): Raster {
  const raster = blankRaster(width, height, channels, bits);
  const top = bits === 8 ? 255 : 65535;
  for (let k = 0; k < raster.data.length; k += 1) {
    const [pixel, c] = [Math.floor(k / channels), k % channels];
    const [x, y] = [pixel % width, Math.floor(pixel / width)];
    raster.data[k] = Math.round(top * (0.5 + 0.4 * Math.sin(x / 9 + c) * Math.cos(y / 7) + 0.05 * Math.sin(k * 12.9898)));
  }
  return raster;
}

const psnr = (a: ArrayLike<number>, b: ArrayLike<number>, top: number): number => {
  let sum = 0;
  for (let k = 0; k < a.length; k += 1) sum += (a[k]! - b[k]!) ** 2;
  return 10 * Math.log10((top * top * a.length) / sum);
};

const read = async (file: Uint8Array): Promise<Raster> => readPixels(file, 'x', await readPictureInfo(file, 'x'));

beforeAll(() => useNodeCodecs());

describe('AVIF', () => {
  it('goes out and comes back, near or without loss, with alpha, at 10 bits; a reference decoder agrees', async () => {
    for (const channels of [3, 4] as const) {
      const raster = testRaster(channels, 8);
      const exact = await writePicture(raster, { kind: 'avif', quality: 50, lossless: true });
      expect(Buffer.compare(Buffer.from((await read(exact)).data), Buffer.from(raster.data))).toBe(0);
      const near = await writePicture(raster, { kind: 'avif', quality: 90, lossless: false });
      const back = await read(near);
      expect(back.channels).toBe(channels);
      expect(psnr(back.data, raster.data, 255)).toBeGreaterThan(38);
      const theirs = await sharp(near).raw().toBuffer({ resolveWithObject: true });
      expect(theirs.info).toMatchObject({ width: 90, height: 64, channels });
      expect(psnr(theirs.data, back.data, 255)).toBeGreaterThan(45);
    }
    const deep = testRaster(3, 16);
    const back = await read(await writePicture(deep, { kind: 'avif', quality: 95, lossless: false }));
    expect(back.data).toBeInstanceOf(Uint16Array);
    expect(psnr(back.data, deep.data, 65535)).toBeGreaterThan(40);
  });

  it('reads what another encoder wrote, with its profile', async () => {
    const raster = testRaster(3, 8, 96, 64);
    const base = sharp(raster.data, { raw: { width: 96, height: 64, channels: 3 } });
    const theirs = await base.clone().withIccProfile('p3').avif({ quality: 95, chromaSubsampling: '4:4:4' }).toBuffer();
    const info = await readPictureInfo(theirs, 'x.avif');
    expect(info).toMatchObject({ width: 96, height: 64, format: 'avif', channels: 3, bits: 8 });
    expect(info.profileName).toContain('P3');
    const seen = await sharp(theirs, { ignoreIcc: true }).raw().toBuffer();
    expect(psnr((await readPixels(theirs, 'x.avif', info)).data, seen, 255)).toBeGreaterThan(45);
  });
});

describe('an AVIF that is turned', () => {
  it('comes in the right way up as a reference decoder has it: quarter turns and mirrors', async () => {
    const raster = testRaster(3, 8, 96, 64);
    // a profile of five bytes takes as much room as a turn and a box that nobody reads
    const plain = Buffer.from(
      await writePicture(raster, { kind: 'avif', quality: 50, lossless: true }, { metadata: { icc: Uint8Array.of(1, 2, 3, 4, 5) } }),
    );
    const at = plain.indexOf('colrprof') - 4;
    for (const [type, value] of [
      ['irot', 1],
      ['irot', 2],
      ['irot', 3],
      ['imir', 0],
      ['imir', 1],
    ] as const) {
      // prettier-ignore
      const file = Buffer.from(plain);
      file.set([0, 0, 0, 9, ...Buffer.from(type), value, 0, 0, 0, 8, ...Buffer.from('free')], at);
      const ours = await read(file);
      const theirs = await sharp(file).raw().toBuffer({ resolveWithObject: true });
      expect([ours.width, ours.height], `${type} ${value}`).toEqual([theirs.info.width, theirs.info.height]);
      expect(psnr(ours.data, theirs.data, 255), `${type} ${value}`).toBeGreaterThan(45);
    }
  });
});

describe('JPEG XL', () => {
  it('goes out and comes back, near or without loss, with alpha; other colours are converted to sRGB', async () => {
    for (const channels of [3, 4] as const) {
      const raster = testRaster(channels, 8);
      const exact = await writePicture(raster, { kind: 'jxl', quality: 50, lossless: true });
      expect(Buffer.compare(Buffer.from((await read(exact)).data), Buffer.from(raster.data))).toBe(0);
      const back = await read(await writePicture(raster, { kind: 'jxl', quality: 90, lossless: false }));
      expect(back.channels).toBe(channels);
      expect(psnr(back.data, raster.data, 255)).toBeGreaterThan(34);
    }
    const wide = await sharp(testRaster(3, 8).data, { raw: { width: 90, height: 64, channels: 3 } })
      .withIccProfile('p3')
      .png()
      .toBuffer();
    const info = await readPictureInfo(wide, 'x.png');
    const file = await writePicture(
      await readPixels(wide, 'x.png', info),
      { kind: 'jxl', quality: 50, lossless: true },
      { metadata: info.metadata },
    );
    const srgb = await sharp(wide).toColourspace('srgb').raw().toBuffer();
    expect(psnr((await read(file)).data, srgb, 255)).toBeGreaterThan(40);
  });

  it('is what the reference decoder reads, and writes: sizes of every kind of header (djxl, cjxl of libjxl)', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'plumb-jxl-'));
    const at = (name: string): string => join(folder, name);
    try {
      for (const [width, height] of [
        [90, 64],
        [64, 64],
        [600, 400],
        [257, 513],
        [1, 1],
        [320, 180],
      ] as const) {
        // prettier-ignore
        const raster = testRaster(3, 8, width, height);
        writeFileSync(at('ours.jxl'), await writePicture(raster, { kind: 'jxl', quality: 50, lossless: true }));
        execFileSync('djxl', [at('ours.jxl'), at('ours.png')], { stdio: 'ignore' });
        expect(Buffer.compare(await sharp(at('ours.png')).removeAlpha().raw().toBuffer(), Buffer.from(raster.data))).toBe(0);
        await sharp(raster.data, { raw: { width, height, channels: 3 } })
          .png()
          .toFile(at('theirs.png'));
        execFileSync('cjxl', [at('theirs.png'), at('theirs.jxl'), '-d', '0'], { stdio: 'ignore' });
        const theirs = readFileSync(at('theirs.jxl'));
        expect(await readPictureInfo(theirs, 'x.jxl')).toMatchObject({ width, height, format: 'jxl' });
        expect(Buffer.compare(Buffer.from((await read(theirs)).data), Buffer.from(raster.data))).toBe(0);
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }, 60_000);
});

describe('both', () => {
  it('carry EXIF, XMP and, in AVIF, the profile through (judged by ExifReader and sharp)', async () => {
    const file = demo('reservoir.jpg');
    const { metadata } = await readPictureInfo(file, 'reservoir.jpg');
    const xmp = new TextEncoder().encode(
      '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"/></x:xmpmeta>',
    );
    const raster = testRaster(4, 8);
    for (const kind of ['avif', 'jxl'] as const) {
      const out = await writePicture(raster, { kind, quality: 90, lossless: false }, { metadata: { ...metadata, xmp } });
      const told = await ExifReader.load(Buffer.from(out), { expanded: true, async: true });
      expect(told.exif?.LensModel?.description, kind).toBe('Hollin 35 mm f/2');
      const info = await readPictureInfo(out, `x.${kind}`);
      expect(info).toMatchObject({ width: 90, height: 64, orientation: 1, lens: 'Hollin 35 mm f/2' });
      for (const block of Object.values(info.metadata)) if (block instanceof Uint8Array) expect(block.buffer).not.toBe(out.buffer);
      expect(new TextDecoder().decode(info.metadata.xmp)).toContain('xmpmeta');
      if (kind === 'avif') {
        const seen = await sharp(out).metadata();
        expect(Buffer.compare(seen.icc!, Buffer.from(metadata.icc!))).toBe(0);
        expect([seen.exif !== undefined, seen.xmp !== undefined, seen.hasAlpha]).toEqual([true, true, true]);
      }
    }
  });

  it('are refused with a sentence where they are cut or damaged; HEIC is named', async () => {
    for (const kind of ['avif', 'jxl'] as const) {
      const file = await writePicture(testRaster(3, 8), { kind, quality: 90, lossless: false });
      for (let length = 16; length < file.length - 20; length += Math.ceil(file.length / 9))
        await expect(read(file.slice(0, length)), `${kind} ${length}`).rejects.toThrow(/damaged|cut short/);
    }
    const heic = Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from('ftypheic\0\0\0\0mif1heic'), Buffer.alloc(40)]);
    await expect(readPictureInfo(heic, 'phone.heic')).rejects.toThrow(/phone\.heic is an HEIC picture/);
  });
});
