import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { halveRaster, blankRaster, type ExportFormat, type Raster } from '@able-plumb/core';
import {
  arrivingPixels,
  bandFile,
  inOrder,
  latticeOf,
  providePlatformJpeg,
  readPictureInfo,
  readPixels,
  readShared,
  readSmall,
  rowsOf,
  smallOf,
  writePicture,
} from './index';
import { decodeBaseline } from './jpeg-rows';
import { useNativeJpeg, useNodeCodecs } from './node';
import { bitsOf, bytesOf, demo, differences, FORMATS, testRaster } from '../tools/test-pictures';

beforeAll(() => useNodeCodecs());

/** What stands between the tables and the end of a JPEG file. */
const scanOf = (jpeg: Uint8Array): Buffer => {
  let at = 2;
  while (jpeg[at + 1] !== 0xda) at += 2 + jpeg[at + 2]! * 256 + jpeg[at + 3]!;
  return Buffer.from(jpeg.subarray(at + 2 + jpeg[at + 2]! * 256 + jpeg[at + 3]!));
};

describe('JPEG in bands', () => {
  const reference = (raster: Raster, quality: number, chroma: '4:4:4' | '4:2:0'): Promise<Buffer> =>
    sharp(bytesOf(raster.data), { raw: { width: raster.width, height: raster.height, channels: 3 } })
      .jpeg({ quality, chromaSubsampling: chroma, optimiseCoding: false })
      .toBuffer();

  it('codes every quality and size to the bit as libjpeg does (native code, accurate transform, tables of T.81)', async () => {
    const plate = await readPixels(demo('name-plate.jpg'), 'p', await readPictureInfo(demo('name-plate.jpg'), 'p'));
    const part = (width: number, height: number): Raster => {
      const raster = blankRaster(width, height, 3, 8);
      for (let j = 0; j < height; j += 1)
        raster.data.set(
          plate.data.subarray(((500 + j) * plate.width + 700) * 3, ((500 + j) * plate.width + 700 + width) * 3),
          j * width * 3,
        );
      return raster;
    };
    const sizes = [[203, 64], [16, 16], [17, 9], [1, 1], [33, 47], [24, 40], [8, 65]] as const; // prettier-ignore
    for (const [width, height] of sizes)
      for (const raster of [part(width, height), testRaster(3, 8, width, height)])
        for (const quality of [1, 37, 75, 92, 95, 100])
          for (const chroma of ['4:4:4', '4:2:0'] as const) {
            const ours = await writePicture(raster, { kind: 'jpeg', quality, chroma });
            expect(
              scanOf(ours).equals(scanOf(await reference(raster, quality, chroma))),
              `${width} x ${height}, ${quality}, ${chroma}`,
            ).toBe(true);
          }
  });

  it('joins bands to a file that decodes to the same pixels as one coded whole, also at the greatest width', async () => {
    for (const [width, height, bands] of [
      [700, 1000, 4],
      [32767, 200, 4],
    ] as const) {
      // prettier-ignore
      const raster = testRaster(3, 8, width, height);
      for (const chroma of ['4:4:4', '4:2:0'] as const) {
        const ours = await writePicture(raster, { kind: 'jpeg', quality: 90, chroma });
        const scan = scanOf(ours);
        let restarts = 0;
        for (let k = 0; k < scan.length; k += 1) if (scan[k] === 0xff && (scan[k + 1]! & 0xf8) === 0xd0) restarts += 1;
        expect(restarts).toBe(width === 700 || chroma === '4:4:4' ? bands - 1 : 0);
        const [a, b] = await Promise.all([ours, await reference(raster, 90, chroma)].map((file) => sharp(file).raw().toBuffer()));
        expect(a!.equals(b!), `${width}, ${chroma}`).toBe(true);
      }
    }
  });

  it('makes the same file of bands that come from several threads in any order; grey has one component and its own profile', async () => {
    const metadata = (await readPictureInfo(demo('reservoir.jpg'), 'reservoir.jpg')).metadata;
    const kinds: readonly (readonly [Raster, ExportFormat])[] = [
      [testRaster(3, 8, 300, 900), { kind: 'jpeg', quality: 90, chroma: '4:2:0' }],
      [testRaster(1, 16, 300, 900), { kind: 'jpeg', quality: 90, chroma: '4:4:4' }],
      [testRaster(4, 16, 300, 900), { kind: 'png', bits: 'as-taken' }],
      [testRaster(2, 8, 3000, 900), { kind: 'tiff', bits: 16, compression: 'deflate' }],
    ];
    for (const [raster, format] of kinds) {
      const shape = { width: raster.width, height: raster.height, channels: raster.channels, bits: bitsOf(raster) };
      const [first, second] = [bandFile(shape, format, { metadata }), bandFile(shape, format, { metadata })];
      const parts: Uint8Array[] = [];
      const queue = inOrder(await first.bind((bytes) => parts.push(bytes)));
      const count = Math.ceil(raster.height / first.rows);
      expect(count).toBeGreaterThan(2);
      // the last comes first
      for (let index = count - 1; index >= 0; index -= 1) {
        const band = rowsOf(raster, index * first.rows, Math.min(raster.height, (index + 1) * first.rows));
        // nobody waits for it: they come from other threads
        void queue.add(index, await (index % 2 ? first : second).make(band));
      }
      const patch = await queue.end();
      const whole = Buffer.concat(parts);
      if (patch) whole.set(patch.bytes, patch.at);
      expect(whole.equals(Buffer.from(await writePicture(raster, format, { metadata })))).toBe(true);
      const seen = await sharp(whole).metadata();
      if (format.kind === 'jpeg' && raster.channels === 1) expect(seen).toMatchObject({ channels: 1, space: 'b-w' });
    }
  });

  it('ends with what was said where its bytes cannot be taken, whatever the format', async () => {
    const raster = testRaster(3, 8, 1500, 1400);
    const formats: readonly ExportFormat[] = [FORMATS[0]!, FORMATS[1]!, { kind: 'tiff', bits: 8, compression: 'deflate' }];
    for (const format of formats) {
      const file = bandFile({ width: 1500, height: 1400, channels: 3, bits: 8 }, format, {});
      let room = 5000;
      const ended = (async () => {
        const binder = await file.bind((bytes) => {
          room -= bytes.length;
          if (room < 0) throw new Error('the disk is full');
        });
        for (let from = 0; from < raster.height; from += file.rows)
          await binder.add(await file.make(rowsOf(raster, from, Math.min(raster.height, from + file.rows))));
        await binder.end();
      })();
      await expect(ended, format.kind).rejects.toThrow('the disk is full');
    }
  });

  it('is a tenth smaller as “smallest file”, and no worse', async () => {
    const plate = await readPixels(demo('name-plate.jpg'), 'p', await readPictureInfo(demo('name-plate.jpg'), 'p'));
    const raster = halveRaster(plate);
    const psnr = async (file: Uint8Array): Promise<number> => {
      const seen = await sharp(file).raw().toBuffer();
      let sum = 0;
      for (let k = 0; k < seen.length; k += 1) sum += (seen[k]! - raster.data[k]!) ** 2;
      return 10 * Math.log10((255 * 255 * seen.length) / sum);
    };
    const quick = await writePicture(raster, { kind: 'jpeg', quality: 92, chroma: '4:4:4' });
    const small = await writePicture(raster, { kind: 'jpeg', quality: 92, chroma: '4:4:4', smallest: true });
    expect(quick.length / small.length).toBeGreaterThan(1.03);
    expect(quick.length / small.length).toBeLessThan(1.12);
    expect(await psnr(quick)).toBeGreaterThan((await psnr(small)) - 0.1);
  });
});

describe('JPEG by rows', () => {
  it('decodes to the bit as libjpeg does: sizes, qualities, halved colour both ways, restarts, optimised tables', async () => {
    const odd = '.cache/odd-pictures/usr/share/go-1.19/src/image/testdata/video-001.q50.';
    const files = ['422.jpeg', '420.jpeg'].map((name) => readFileSync(`${odd}${name}`));
    // the second one is longer than what the kernel takes in at a time
    for (const [width, height] of [
      [700, 1000],
      [40, 3000],
    ] as const)
      // prettier-ignore
      files.push(Buffer.from(await writePicture(testRaster(3, 8, width, height), { kind: 'jpeg', quality: 98, chroma: '4:2:0' })));
    const sizes = [[203, 64], [16, 16], [17, 9], [1, 1], [33, 47], [5, 40], [300, 17], [9, 3000]] as const; // prettier-ignore
    for (const [width, height] of sizes)
      for (const quality of [1, 50, 92, 100])
        for (const chromaSubsampling of ['4:4:4', '4:2:0'])
          for (const optimiseCoding of [true, false]) {
            if (width < 5 && chromaSubsampling === '4:2:0') continue;
            const raw = { width, height, channels: 3 as const };
            files.push(
              await sharp(testRaster(3, 8, width, height).data, { raw })
                .jpeg({ quality, chromaSubsampling, optimiseCoding })
                .toBuffer(),
            );
          }
    for (const [i, file] of files.entries()) {
      const ours = decodeBaseline(file);
      expect(ours, `file ${i}`).not.toBeNull();
      expect(bytesOf(ours!.data).equals(await sharp(file).raw().toBuffer()), `file ${i}`).toBe(true);
    }
  });

  it('makes a large picture smaller while it decodes: the means of the whole one, as it lies turned too', async () => {
    const [width, height] = [531, 397];
    const raw = { width, height, channels: 3 as const };
    const picture = () => sharp(testRaster(3, 8, width, height).data, { raw }).withMetadata({ orientation: 6 });
    const [full, halved] = ['4:4:4', '4:2:0'].map((chromaSubsampling) => picture().jpeg({ chromaSubsampling }));
    for (const kind of [full, halved, picture().tiff({ compression: 'lzw' })]) {
      const file = await kind!.toBuffer();
      const info = await readPictureInfo(file, 'turned');
      const small = (await readSmall(file, 'turned', info, 100))!;
      expect([small.width, small.height]).toEqual([Math.floor(height / 5), Math.floor(width / 5)]);
      const whole = await readPixels(file, 'turned', info);
      // by rows, each put where it belongs
      const shared = await readShared(file, 'turned', info);
      expect([shared.width, shared.height]).toEqual([whole.width, whole.height]);
      expect(bytesOf(shared.data).equals(bytesOf(whole.data))).toBe(true);
      for (const [x, y] of [
        [0, 0],
        [small.width - 1, 40],
        [33, small.height - 1],
      ] as const)
        for (let c = 0; c < 3; c += 1) {
          let sum = 0;
          // turned by a quarter, what is left over of its height lies on the left
          for (let k = 0; k < 25; k += 1)
            sum += whole.data[((5 * y + Math.floor(k / 5)) * whole.width + (height % 5) + 5 * x + (k % 5)) * 3 + c]!;
          expect(small.data[(y * small.width + x) * 3 + c]).toBe(Math.round(sum / 25));
        }
      expect(await readSmall(file.subarray(0, file.length / 2), 'cut', info, 100)).toBeNull();
    }
  });

  it('decodes one whole before the next is begun, whoever waits: all rows, and small', async () => {
    const files = await Promise.all(
      [3, 4, 5].map(async (k) =>
        Buffer.from(await writePicture(testRaster(3, 8, 200 * k, 300), { kind: 'jpeg', quality: 90, chroma: '4:2:0' })),
      ),
    );
    const infos = await Promise.all(files.map(async (file) => readPictureInfo(file, 'a.jpg')));
    const all = await Promise.all(files.map(async (file, k) => readShared(file, 'a.jpg', infos[k]!)));
    for (const [k, raster] of all.entries())
      expect(bytesOf(raster.data).equals(bytesOf((await readPixels(files[k]!, 'a.jpg', infos[k]!)).data))).toBe(true);
    const small = await Promise.all(files.map(async (file, k) => readSmall(file, 'a.jpg', infos[k]!, 100)));
    expect(small.map((raster) => raster?.width)).toEqual([100, 100, 100]);
    // of pixels that are there already it is the same
    for (const [k, raster] of all.entries()) expect(bytesOf((await smallOf(raster, 100))!.data).equals(bytesOf(small[k]!.data))).toBe(true);
  });

  it('leaves to others what it does not know, and what is damaged anywhere', async () => {
    const raster = testRaster(3, 8, 300, 200);
    const raw = { width: 300, height: 200, channels: 3 as const };
    expect(decodeBaseline(await sharp(raster.data, { raw }).jpeg({ progressive: true }).toBuffer())).toBeNull();
    const file = await writePicture(raster, { kind: 'jpeg', quality: 90, chroma: '4:4:4' });
    expect(decodeBaseline(file)).not.toBeNull();
    for (let length = 10; length < file.length - 40; length += 977) expect(decodeBaseline(file.subarray(0, length))).toBeNull();
    // a bit anywhere: another picture or none, and no end of the world
    for (let at = 700; at < file.length; at += 1009) {
      const turned = file.slice();
      turned[at] = turned[at]! ^ 16;
      const seen = decodeBaseline(turned);
      if (seen) expect(seen.data.length).toBe(raster.data.length);
    }
  });
});

/** A profile in the layout of ICC.1 of which only the colour space of its pixels is read. */
function profileFor(space: 'GRAY' | 'RGB '): Uint8Array {
  const profile = new Uint8Array(200);
  profile.set(Buffer.from(space), 16);
  return profile;
}

describe('a grey JPEG', () => {
  it('is grey with a profile for grey, RGB otherwise, whichever decoder has it; and has one component again, quick or smallest', async () => {
    const raster = testRaster(1, 8, 64, 48);
    for (const [icc, channels] of [
      [undefined, 3],
      [profileFor('RGB '), 3],
      [profileFor('GRAY'), 1],
    ] as const)
      // prettier-ignore
      for (const smallest of [false, true]) {
        const file = await writePicture(raster, { kind: 'jpeg', quality: 100, chroma: '4:4:4', smallest }, { metadata: { icc } });
        expect(await sharp(file, { ignoreIcc: true }).metadata()).toMatchObject({ channels: 1, space: 'b-w' });
        const progressive = await sharp(file, { ignoreIcc: true }).toColourspace('b-w').jpeg({ progressive: true, quality: 100 }).toBuffer();
        for (const bytes of [file, progressive]) {
          const info = await readPictureInfo(bytes, 'grey.jpg');
          const told = { ...info, metadata: { ...info.metadata, icc } };
          const seen = await readPixels(bytes, 'grey.jpg', told);
          expect(seen.channels).toBe(channels);
          const off = differences(seen.data, (k) => raster.data[Math.floor(k / channels)]!);
          expect(Math.max(...off)).toBeLessThanOrEqual(4);
          const arriving = arrivingPixels(bytes, 'grey.jpg', told);
          if (arriving) expect(arriving.channels).toBe(channels);
        }
      }
    // one that says sRGB is shown by it
    const { icc } = (await readPictureInfo(demo('reservoir.jpg'), 'r.jpg')).metadata;
    const file = await writePicture(raster, { kind: 'jpeg', quality: 90, chroma: '4:4:4' }, { metadata: { icc } });
    const info = await readPictureInfo(file, 'grey.jpg');
    const { channels } = await readPixels(file, 'grey.jpg', info);
    await expect(latticeOf(info.metadata.icc, channels, 'srgb')).resolves.toBeNull();
  });
});

describe('pixels that arrive', () => {
  it('come from the top and are those of the file; what is damaged below is told as it were at once', async () => {
    const file = new Uint8Array(demo('name-plate.jpg'));
    const info = await readPictureInfo(file, 'plate.jpg');
    const whole = await readPixels(file, 'plate.jpg', info);
    const arriving = arrivingPixels(file, 'plate.jpg', info)!;
    const row = whole.width * 3;
    const { data } = arriving.into(whole.height);
    let there = 0;
    for (let steps = 0; there < whole.height; steps += 1) {
      const rows = await arriving.more();
      expect(rows).toBeGreaterThan(there);
      there = rows;
      if (steps === 3) expect(bytesOf(data.subarray(0, rows * row)).equals(bytesOf(whole.data.subarray(0, rows * row)))).toBe(true);
    }
    expect(bytesOf(data).equals(bytesOf(whole.data))).toBe(true);

    // the lower half is missing, and an end mark stands behind the rest
    const cut = Uint8Array.from([...file.subarray(0, file.length >> 1), 0xff, 0xd9]);
    const broken = arrivingPixels(cut, 'cut.jpg', await readPictureInfo(cut, 'cut.jpg'))!;
    broken.into(whole.height);
    const toTheEnd = async (): Promise<void> => {
      while ((await broken.more()) < whole.height);
    };
    await expect(toTheEnd()).rejects.toThrow(/cut\.jpg is cut short/);
  });
});

describe('the platform’s own JPEG decoder', () => {
  it('of Node decodes within three steps of the compiled one; grey and damage go to the compiled one', async () => {
    const raster = testRaster(3, 8, 64, 48);
    const grey = await sharp(raster.data, { raw: { width: 64, height: 48, channels: 3 } })
      .greyscale()
      .jpeg({ progressive: true })
      .toBuffer();
    // baseline files go to neither
    const progressive = (file: Uint8Array): Promise<Buffer> =>
      sharp(file).keepMetadata().jpeg({ progressive: true, quality: 95 }).toBuffer();
    const [reservoir, plate] = await Promise.all(['reservoir.jpg', 'name-plate.jpg'].map((name) => progressive(demo(name))));
    const files = { reservoir: reservoir!, plate: plate!, grey };
    const read = async (): Promise<Raster[]> => {
      const rasters: Raster[] = [];
      for (const [name, file] of Object.entries(files)) rasters.push(await readPixels(file, name, await readPictureInfo(file, name)));
      return rasters;
    };
    const compiled = await read();
    useNativeJpeg();
    try {
      (await read()).forEach((native, i) => {
        const { width, height, channels, data } = compiled[i]!;
        expect([native.width, native.height, native.channels]).toEqual([width, height, channels]);
        expect(differences(native.data, (k) => data[k]!).filter((off) => off > 3)).toEqual([]);
      });
      await expect(readPixels(files.plate.subarray(0, 3000), 'cut.jpg', await readPictureInfo(files.plate, 'cut.jpg'))).rejects.toThrow(
        /cut\.jpg is damaged/,
      );
    } finally {
      providePlatformJpeg({});
    }
  });
});
