import { inflateSync } from 'node:zlib';
import ExifReader from 'exifreader';
import { decode } from 'fast-png';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { blankRaster, type ExportFormat, type KeptMetadata, type Raster } from '@able-plumb/core';
import { encodeJpeg, PictureFileError, readPictureInfo, readPixels, readShared, writePicture } from './index';
import { useNodeCodecs } from './node';
import { crc32, crcPlainly, filterPlainly, filterRows } from './png-kernel';
import { bytesOf, demo, FORMATS, testRaster } from '../tools/test-pictures';

beforeAll(() => useNodeCodecs());

/** What the chunks of pixels of a PNG hold, unpacked by zlib, which checks their sum. */
function pngData(file: Uint8Array): Uint8Array {
  const bytes = Buffer.from(file);
  const parts: Buffer[] = [];
  for (let at = 8; at < bytes.length; at += 12 + bytes.readUInt32BE(at))
    if (bytes.toString('latin1', at + 4, at + 8) === 'IDAT') parts.push(bytes.subarray(at + 8, at + 8 + bytes.readUInt32BE(at)));
  return inflateSync(Buffer.concat(parts));
}

describe('pictures in and out', () => {
  it('decodes JPEG within three steps a channel of a reference decoder, the right way up', async () => {
    const bytes = demo('water-tower.jpg');
    const info = await readPictureInfo(bytes, 'water-tower.jpg');
    expect([info.width, info.height, info.orientation]).toEqual([2400, 3600, 6]);
    const ours = await readPixels(bytes, 'water-tower.jpg', info);
    const theirs = await sharp(bytes).autoOrient().raw().toBuffer({ resolveWithObject: true });
    expect([ours.width, ours.height, ours.channels]).toEqual([theirs.info.width, theirs.info.height, theirs.info.channels]);
    let worst = 0;
    for (let k = 0; k < ours.data.length; k += 101)
      worst = Math.max(worst, Math.abs((ours.data[k] as number) - (theirs.data[k] as number)));
    expect(worst).toBeLessThanOrEqual(3);
  });

  it('writes PNG and TIFF that a reference decoder reads bit for bit, 1 to 4 channels, 8 and 16 bit; and reads them back', async () => {
    const kinds = (bits: 8 | 16): ExportFormat[] => [
      { kind: 'png', bits },
      { kind: 'tiff', bits, compression: 'none' },
      { kind: 'tiff', bits, compression: 'deflate' },
    ];
    const cases = [8, 16].flatMap((bits) => [1, 2, 3, 4].map((channels) => [bits as 8 | 16, channels as Raster['channels']] as const));
    for (const [bits, channels] of cases) {
      for (const format of kinds(bits)) {
        // tall enough for several strips
        const raster = testRaster(channels, bits, 37, format.kind === 'tiff' ? 30011 : 23);
        // a TIFF is written in the byte order of its source's capture data
        const exif = channels === 3 ? Uint8Array.from([...Buffer.from('MM\0*'), 0, 0, 0, 8, 0, 0, 0, 0, 0, 0]) : undefined;
        const file = await writePicture(raster, format, { metadata: { exif } });
        const theirs = await sharp(file)
          .toColourspace(bits === 16 ? 'rgb16' : 'srgb')
          .raw({ depth: bits === 16 ? 'ushort' : 'uchar' })
          .toBuffer({ resolveWithObject: true });
        const { data, info } = theirs;
        const samples =
          bits === 16 ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.length)) : new Uint8Array(data);
        // the reference hands grey out as RGB: its first channel, and its last where there is alpha
        const taken = channels >= 3 ? Array.from({ length: channels }, (_, c) => c) : channels === 2 ? [0, info.channels - 1] : [0];
        const seen = raster.data.map(
          (_, k) => samples[Math.floor(k / channels) * info.channels + (taken[k % channels] as number)] as number,
        );
        expect(Buffer.compare(bytesOf(seen), bytesOf(raster.data)), `${JSON.stringify(format)}, ${channels} channels`).toBe(0);
        const back = await readPixels(file, 'x', await readPictureInfo(file, 'x'));
        expect(back).toMatchObject({ width: raster.width, height: raster.height, channels });
        expect(Buffer.compare(bytesOf(back.data), bytesOf(raster.data))).toBe(0);
      }
    }
  });

  it('writes PNGs by every filter and of every width, in several bands, that a reference decoder reads bit for bit', async () => {
    const seen = new Set<number>();
    let noise = 7;
    const looks = [
      (i: number, j: number) => 37 * j + i * i,
      (i: number, j: number) => 53 * i + ((i * j) % 3),
      (i: number, j: number) => 8 * Math.sin(i * 1.7) * Math.cos(j * 2.1) + 100 * Math.sin((i + j) / 9) + 128,
      (i: number, j: number) => (i > j ? 200 : 30) + ((i + j) % 2),
      () => (noise = (Math.imul(noise, 1103515245) + 12345) & 0x7fffffff) >> 8,
    ];
    for (let width = 1; width <= 45; width += 1)
      for (const [k, look] of looks.entries()) {
        const channels = (1 + ((width + k) % 4)) as Raster['channels'];
        const bits = width % 3 ? 8 : 16;
        const raster = blankRaster(width, 70, channels, bits);
        raster.data.forEach((_, at) => {
          const value = look(Math.floor(at / channels) % width, Math.floor(at / channels / width)) + 11 * (at % channels);
          raster.data[at] = bits === 8 ? value & 255 : (value * 251) & 65535;
        });
        const file = await writePicture(raster, { kind: 'png', bits });
        const rowLength = (width * channels * bits) / 8;
        const packed = pngData(file);
        for (let at = 0; at < packed.length; at += rowLength + 1) seen.add(packed[at] as number);
        const byRows = await readShared(file, 'x', await readPictureInfo(file, 'x'));
        expect(Buffer.compare(bytesOf(byRows.data), bytesOf(raster.data)), `${width} wide, by rows`).toBe(0);
        const { data } = decode(file, { checkCrc: true });
        expect(Buffer.compare(bytesOf(data as Raster['data']), bytesOf(raster.data)), `${width} wide, ${channels} of ${bits} bits`).toBe(0);
      }
    expect([...seen].sort()).toEqual([1, 2, 3, 4]);
  });

  it('says of a PNG the same by the kernel as plainly: its rows by Sub, and the sums of its chunks', () => {
    for (const bits of [8, 16] as const) {
      const row = testRaster(3, bits, 301, 1).data;
      const rowLength = row.byteLength;
      expect(bytesOf(filterRows(row, rowLength, rowLength / 301))).toEqual(bytesOf(filterPlainly(row, rowLength, rowLength / 301)));
    }
    const bytes = demo('name-plate.jpg');
    for (const length of [0, 1, 7, 8, 9, 1000, 100_003])
      expect(crc32(bytes.subarray(3, 3 + length))).toBe(crcPlainly(bytes.subarray(3, 3 + length)));
    // the check value of this sum in common catalogues, from memory
    expect(crc32(Buffer.from('123456789'))).toBe(0xcbf43926);
  });

  it('writes WebP without loss that a reference decoder reads bit for bit, and near it with loss', async () => {
    for (const channels of [3, 4] as const) {
      const raster = testRaster(channels, 8, 64, 48);
      const exact = await writePicture(raster, { kind: 'webp', quality: 50, lossless: true });
      const theirs = await sharp(exact).raw().toBuffer({ resolveWithObject: true });
      expect(theirs.info.channels).toBe(channels);
      expect(Buffer.compare(theirs.data, bytesOf(raster.data))).toBe(0);
      expect(Buffer.compare(bytesOf((await readPixels(exact, 'x', await readPictureInfo(exact, 'x'))).data), bytesOf(raster.data))).toBe(0);
    }
    const bytes = demo('name-plate.jpg');
    const plate = await readPixels(bytes, 'p', await readPictureInfo(bytes, 'p'));
    const theirs = await sharp(await writePicture(plate, { kind: 'webp', quality: 90, lossless: false }))
      .raw()
      .toBuffer();
    let sum = 0;
    for (let k = 0; k < theirs.length; k += 1) sum += ((theirs[k] as number) - (plate.data[k] as number)) ** 2;
    expect(10 * Math.log10((255 * 255 * theirs.length) / sum)).toBeGreaterThan(36);
  });

  it('reads tiles, LZW and PackBits as the reference wrote them', async () => {
    const raster = testRaster(3, 8, 700, 523);
    const base = sharp(bytesOf(raster.data), { raw: { width: 700, height: 523, channels: 3 } });
    for (const options of [
      { compression: 'lzw', predictor: 'horizontal' },
      { compression: 'lzw', predictor: 'none' },
      { compression: 'deflate', tile: true, tileWidth: 256, tileHeight: 128 },
      { compression: 'packbits' },
      { compression: 'none', bigtiff: false },
    ] as const) {
      const file = await base.clone().tiff(options).toBuffer();
      const back = await readPixels(file, 'x', await readPictureInfo(file, 'x'));
      expect(Buffer.compare(bytesOf(back.data), bytesOf(raster.data)), JSON.stringify(options)).toBe(0);
    }
  });

  it('reads palettes, low depths, colour keys and interlace as a reference decoder does', async () => {
    const raster = testRaster(3, 8);
    const base = sharp(Buffer.from(raster.data), { raw: { width: raster.width, height: raster.height, channels: 3 } });
    for (const options of [{ palette: true, colours: 16 }, { palette: true, colours: 2 }, { progressive: true }]) {
      const file = await base.clone().png(options).toBuffer();
      const ours = await readPixels(file, 'x.png', await readPictureInfo(file, 'x.png'));
      const theirs = await sharp(file).toColourspace('srgb').removeAlpha().raw().toBuffer();
      expect(Array.from(ours.data), JSON.stringify(options)).toEqual(Array.from(theirs));
    }
  });

  it('carries EXIF, XMP and ICC through, with orientation 1, new size and its own name (judged by ExifReader)', async () => {
    const bytes = demo('water-tower.jpg');
    const info = await readPictureInfo(bytes, 'water-tower.jpg');
    const xmp = new TextEncoder().encode(
      '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description xmlns:tiff="http://ns.adobe.com/tiff/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/" tiff:Orientation="6" dc:source="tower"/></rdf:RDF></x:xmpmeta>',
    );
    for (const format of FORMATS) {
      const file = await writePicture(testRaster(3, 8), format, { metadata: { ...info.metadata, xmp } });
      const { exif, xmp: packet, icc } = await ExifReader.load(file.buffer, { async: true, expanded: true });
      expect(exif?.Orientation?.value).toBe(1);
      expect(exif?.PixelXDimension?.value).toBe(37);
      expect(exif?.PixelYDimension?.value).toBe(23);
      expect(exif?.Software?.description).toBe('Able Plumb');
      expect(exif?.DateTimeOriginal?.description).toBe('2026:04:14 10:41:50');
      expect(exif?.LensModel?.description).toBe('Hollin 24 mm f/2.8');
      expect(exif?.FocalLengthIn35mmFilm?.value).toBe(24);
      expect(icc?.['ICC Description']?.description).toBe('sRGB (Tarnbeck survey)');
      expect(packet?.['source']?.value).toBe('tower');
      expect(packet?.['Orientation']?.value).toBe('1');
      const again = await readPictureInfo(file, 'again');
      expect(again).toMatchObject({
        width: 37,
        height: 23,
        orientation: 1,
        focal35: 24,
        lens: 'Hollin 24 mm f/2.8',
        profileName: 'sRGB (Tarnbeck survey)',
      });
      // the file's bytes may be let go of
      for (const block of Object.values(again.metadata)) if (block instanceof Uint8Array) expect(block.buffer).not.toBe(file.buffer);
      expect(again.metadata.icc).toEqual(info.metadata.icc);
      expect(new TextDecoder().decode(again.metadata.xmp)).toContain('tiff:Orientation="1"');
    }
  });

  it('leaves the position out, or everything but the colours, where that is asked for (judged by ExifReader)', async () => {
    const taken = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#888' } })
      .withExif({
        IFD0: { Make: 'Hollin' },
        IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '54/1 21/1 3/1', GPSLongitudeRef: 'W', GPSLongitude: '2/1 47/1 9/1' },
      })
      .withIccProfile('p3')
      .jpeg()
      .toBuffer();
    const { metadata } = await readPictureInfo(taken, 'x.jpg');
    const xmp = new TextEncoder().encode(
      '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description xmlns:exif="http://ns.adobe.com/exif/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/" exif:GPSLatitude="54,21.05N" dc:source="tower"><exif:GPSLongitude>2,47.15W</exif:GPSLongitude></rdf:Description></rdf:RDF></x:xmpmeta>',
    );
    for (const format of FORMATS) {
      const read = async (kept: KeptMetadata) => {
        const file = await writePicture(testRaster(3, 8), format, { metadata: { ...metadata, xmp }, kept });
        return { text: Buffer.from(file).toString('latin1'), ...(await ExifReader.load(file.buffer, { async: true, expanded: true })) };
      };
      const all = await read('all');
      expect(all.gps?.Latitude).toBeCloseTo(54.35083, 4);
      expect(all.xmp?.['GPSLongitude']?.value).toBe('2,47.15W');
      const without = await read('no-position');
      expect(without.gps).toBeUndefined();
      expect(without.exif?.Make?.description).toBe('Hollin');
      expect(without.xmp?.['source']?.value).toBe('tower');
      expect(without.text).not.toMatch(/GPSL/);
      // nothing of the numbers is left in the file's bytes either
      const [degrees] = metadata.exif ? [Buffer.from(metadata.exif).indexOf(Buffer.from([21, 0, 0, 0, 1, 0, 0, 0, 3, 0, 0, 0]))] : [-1];
      expect(degrees).toBeGreaterThan(0);
      expect(Buffer.from(without.text, 'latin1').indexOf(Buffer.from([21, 0, 0, 0, 1, 0, 0, 0, 3, 0, 0, 0]))).toBe(-1);
      const none = await read('none');
      expect(none.exif?.Make).toBeUndefined();
      expect(none.xmp).toBeUndefined();
      expect(none.icc).toBeDefined();
    }
  });

  it('reads the focal length from FocalLength and focal-plane resolution where the equivalent is missing (CIPA DC-008)', async () => {
    // 6000 px over 36 mm is 1666.67 px a centimetre: a full frame, so the equivalent is the focal length itself
    const file = await sharp({ create: { width: 6000, height: 4000, channels: 3, background: '#888' } })
      .withExif({ IFD2: { FocalLength: '35/1', FocalPlaneXResolution: '500000/300', FocalPlaneResolutionUnit: '3' } })
      .jpeg({ quality: 30 })
      .toBuffer();
    expect((await readPictureInfo(file, 'x.jpg')).focal35).toBeCloseTo(35, 3);
  });

  it('knows a picture that was cropped since by its shape, and gives the crop its own equivalent', async () => {
    const taken = await sharp({ create: { width: 6000, height: 4000, channels: 3, background: '#888' } })
      .withExif({ IFD2: { FocalLengthIn35mmFilm: '24' } })
      .jpeg({ quality: 30 })
      .toBuffer();
    const { metadata } = await readPictureInfo(taken, 'x.jpg');
    const cut = await encodeJpeg(blankRaster(300, 300, 3, 8), { quality: 80, chroma: '4:2:0' }, metadata);
    const info = await readPictureInfo(cut, 'cut.jpg');
    expect(info.croppedFrom).toEqual({ width: 6000, height: 4000 });
    expect(info.focal35! * Math.hypot(300, 300)).toBeCloseTo(24 * Math.hypot(6000, 4000), 3);
    // a smaller copy of the same shape is no crop
    const copy = await encodeJpeg(blankRaster(300, 200, 3, 8), { quality: 80, chroma: '4:2:0' }, metadata);
    expect(await readPictureInfo(copy, 'copy.jpg')).toMatchObject({ croppedFrom: null, focal35: 24 });
  });

  it('writes the pixels an inch that a print size was set with into the containers and their EXIF (judged by sharp and ExifReader)', async () => {
    for (const format of FORMATS) {
      const file = await writePicture(testRaster(3, 8), format, {
        metadata: (await readPictureInfo(demo('stair.jpg'), 'stair.jpg')).metadata,
        ppi: 300,
      });
      // WebP has no place for it but its EXIF
      if (format.kind !== 'webp') expect((await sharp(file).metadata()).density).toBe(300);
      const { exif } = await ExifReader.load(file.buffer, { async: true, expanded: true });
      expect(exif?.XResolution?.description).toBe('300');
      expect(exif?.ResolutionUnit?.description).toBe('inches');
    }
  });

  it('refuses bad input with a plain sentence', async () => {
    const jpeg = demo('stair.jpg');
    const tiff = await writePicture(testRaster(3, 8), { kind: 'tiff', bits: 8, compression: 'none' });
    const webp = await writePicture(testRaster(3, 8), { kind: 'webp', quality: 80, lossless: false });
    const bomb = Buffer.from(await writePicture(testRaster(3, 8), { kind: 'png', bits: 8 }, {}));
    bomb.writeUInt32BE(20000, 16);
    bomb.writeUInt32BE(20000, 20);
    const cmyk = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#888' } })
      .toColourspace('cmyk')
      .jpeg()
      .toBuffer();
    const cases: readonly (readonly [string, Uint8Array, string, RegExp])[] = [
      ['text.jpg', new TextEncoder().encode('no picture at all'), 'not-a-picture', /not a picture/],
      ['card.nef', new TextEncoder().encode('MM\0*....'), 'camera-raw', /Develop it/],
      ['scan.tif', new TextEncoder().encode('II*\0....'), 'tiff-damaged', /holds no picture/],
      ['big.tif', new TextEncoder().encode('II+\0....'), 'format-unknown', /BigTIFF/],
      ['cut.tif', tiff.subarray(0, tiff.length - 300), 'tiff-damaged', /cut short|no picture/],
      ['cut.webp', webp.subarray(0, webp.length - 30), 'webp-damaged', /cut short/],
      ['empty.png', new Uint8Array(0), 'empty-file', /0 bytes/],
      ['cut.jpg', jpeg.subarray(0, jpeg.length >> 1), 'jpeg-damaged', /cut short/],
      ['head.jpg', jpeg.subarray(0, 30), 'jpeg-damaged', /cut short|holds no picture/],
      ['cut.png', bomb.subarray(0, 60), 'png-damaged', /cut short/],
      ['bomb.png', bomb, 'too-large', /400 megapixels/],
      ['print.jpg', cmyk, 'jpeg-kind', /CMYK/],
    ];
    for (const [name, bytes, code, sentence] of cases) {
      const error = await readPictureInfo(bytes, name).then(
        () => null,
        (e: unknown) => e,
      );
      expect(error, name).toBeInstanceOf(PictureFileError);
      expect((error as PictureFileError).code).toBe(code);
      expect((error as PictureFileError).message).toMatch(sentence);
      expect((error as PictureFileError).message).toContain(name);
    }
    const one = await writePicture(testRaster(3, 8, 1, 1), { kind: 'png', bits: 8 }, {});
    expect(await readPictureInfo(one, 'one.png')).toMatchObject({ width: 1, height: 1 });
  });
});
