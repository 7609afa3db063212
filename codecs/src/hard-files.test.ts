import { readFileSync } from 'node:fs';
import ExifReader from 'exifreader';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { blankRaster, parseCorrection, PlumbError, readLensFile, type Raster } from '@able-plumb/core';
import { openJobArchive, readPictureInfo, readPixels, readShared, writeJobArchive, writePicture, type Metadata } from './index';
import { md5 } from './md5';
import { bytesOf } from '../tools/test-pictures';
import { useNodeCodecs } from './node';
import { withExtension } from './xmp-packet';

beforeAll(() => useNodeCodecs());

const demo = (name: string): Buffer => readFileSync(new URL(`../../demo/job/${name}`, import.meta.url));
/** Opened as the bench opens it, by rows where it comes so, and at once: both the same, or both a sentence. */
async function open(bytes: Uint8Array, name: string): Promise<Raster> {
  const info = await readPictureInfo(bytes, name);
  const [whole, byRows] = await Promise.allSettled([readPixels(bytes, name, info), readShared(bytes, name, info)]);
  if (whole.status === 'rejected') throw whole.reason;
  if (byRows.status === 'rejected') throw byRows.reason;
  if (info.format !== 'jpeg') expect(bytesOf(byRows.value.data).equals(bytesOf(whole.value.data))).toBe(true);
  return whole.value;
}
const latin = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');

/** A small picture of smooth colours that differ everywhere. */
function shades(width: number, height: number): Raster {
  const raster = blankRaster(width, height, 3, 8);
  for (let k = 0; k < raster.data.length; k += 1) raster.data[k] = Math.round(127 + 90 * Math.sin(k / 41) + 30 * Math.sin(k / 7));
  return raster;
}

/** A TIFF by its entries (tag, type, count, value) and what follows the directory; values over four bytes as offsets from there. */
function tiff(entries: readonly (readonly [number, number, number, number])[], data: Uint8Array = new Uint8Array()): Buffer {
  const head = Buffer.alloc(8 + 2 + entries.length * 12 + 4);
  head.write('II');
  head.writeUInt16LE(42, 2);
  head.writeUInt32LE(8, 4);
  head.writeUInt16LE(entries.length, 8);
  entries.forEach(([tag, type, count, value], i) => {
    const p = 10 + i * 12;
    head.writeUInt16LE(tag, p);
    head.writeUInt16LE(type, p + 2);
    head.writeUInt32LE(count, p + 4);
    head.writeUInt32LE(value, p + 8);
  });
  return Buffer.concat([head, data]);
}

/** Entries of a grey picture of 8 bits in one strip that begins right behind the directory of `n` entries. */
const grey = (width: number, height: number, bytes: number, n: number): (readonly [number, number, number, number])[] => [
  [256, 4, 1, width],
  [257, 4, 1, height],
  [258, 3, 1, 8],
  [259, 3, 1, 1],
  [262, 3, 1, 1],
  [273, 4, 1, 14 + n * 12],
  [277, 3, 1, 1],
  [278, 4, 1, height],
  [279, 4, 1, bytes],
];

describe('TIFF', () => {
  it('with its bits in reverse opens as the same picture', async () => {
    const data = Uint8Array.from({ length: 64 }, (_, i) => i * 3);
    const reversed = data.map((v) => parseInt(v.toString(2).padStart(8, '0').split('').reverse().join(''), 2));
    const raster = await open(tiff([...grey(8, 8, 64, 10), [266, 3, 1, 2]], reversed), 'reversed.tif');
    expect([...raster.data]).toEqual([...data]);
  });

  it('with tiles that unpack to more than they hold opens', async () => {
    const { deflateSync } = await import('node:zlib');
    const tile = new Uint8Array(256 * 256 + 200_000).map((_, i) => (i < 65536 ? i & 255 : 7));
    const packed = deflateSync(tile);
    const n = 10;
    const entries: (readonly [number, number, number, number])[] = [
      [256, 4, 1, 200],
      [257, 4, 1, 100],
      [258, 3, 1, 8],
      [259, 3, 1, 8],
      [262, 3, 1, 1],
      [277, 3, 1, 1],
      [322, 3, 1, 256],
      [323, 3, 1, 256],
      [324, 4, 1, 14 + n * 12],
      [325, 4, 1, packed.length],
    ];
    const raster = await open(tiff(entries, packed), 'padded.tif');
    expect([raster.width, raster.height, raster.data[199], raster.data[200]]).toEqual([200, 100, 199, 0]);
  });

  it('of 32 channels and 289 megapixels, or with 60,000 entries that all claim the same megabyte, is told in a sentence or opens', async () => {
    const wide = tiff(grey(17000, 17000, 100, 9).map(([tag, type, count, value]) => [tag, type, count, tag === 277 ? 32 : value] as const));
    await expect(open(wide, 'wide.tif')).rejects.toThrow(/wide\.tif cannot be opened: its pixels lie in pieces of/);
    const many = [...grey(8, 8, 64, 60_000), ...Array.from({ length: 59_991 }, (_, i) => [1000 + (i % 9000), 1, 700_000, 8] as const)];
    const raster = await open(tiff(many, new Uint8Array(64)), 'many.tif');
    const info = await readPictureInfo(tiff(many, new Uint8Array(64)), 'many.tif');
    expect(raster.width).toBe(8);
    for (const kind of ['jpeg', 'tiff'] as const)
      await writePicture(raster, kind === 'jpeg' ? { kind, quality: 80, chroma: '4:4:4' } : { kind, bits: 8, compression: 'none' }, {
        metadata: info.metadata,
      });
  });
});

describe('JPEG', () => {
  it('that claims more pixels than its bytes can hold is refused before anything is made of it', async () => {
    const small = await sharp({ create: { width: 90, height: 320, channels: 3, background: '#888888' } })
      .jpeg()
      .toBuffer();
    const at = small.indexOf(Buffer.from([0xff, 0xc0]));
    small.writeUInt16BE(32000, at + 5);
    small.writeUInt16BE(9000, at + 7);
    await expect(readPictureInfo(small, 'huge.jpg')).rejects.toThrow(/huge\.jpg is cut short: most of its pixels are missing/);
  });

  it('cut in the middle, with an end marker put behind, is told to be cut short; a whole one with a grey lower part is not', async () => {
    for (const options of [{}, { chromaSubsampling: '4:4:4' }, { mozjpeg: false, optimiseCoding: true }]) {
      const whole = await sharp(demo('reservoir.jpg')).resize(800).jpeg(options).toBuffer();
      expect((await open(whole, 'whole.jpg')).width).toBe(800);
      const cut = Buffer.concat([whole.subarray(0, Math.round(whole.length / 2)), Buffer.from([0xff, 0xd9])]);
      await expect(open(cut, 'cut.jpg')).rejects.toThrow(/cut\.jpg is cut short: its lower part is missing/);
    }
    const grey = await sharp(demo('reservoir.jpg'))
      .resize(400)
      .extend({ bottom: 64, background: { r: 128, g: 128, b: 128 } })
      .jpeg()
      .toBuffer();
    expect((await open(grey, 'grey.jpg')).width).toBe(400);
  });

  it('with a profile of which a part is missing opens without it', async () => {
    const raster = shades(16, 16);
    const icc = new Uint8Array(150_000).map((_, i) => i & 127);
    const file = await writePicture(raster, { kind: 'jpeg', quality: 90, chroma: '4:4:4' }, { metadata: { icc } });
    expect((await readPictureInfo(file, 'a.jpg')).metadata.icc?.length).toBe(150_000);
    const second = latin(file).indexOf('ICC_PROFILE\0\x02');
    const broken = Buffer.from(file);
    broken[second + 12] = 9;
    expect((await readPictureInfo(broken, 'b.jpg')).metadata.icc).toBeUndefined();
  });
});

describe('metadata', () => {
  const jpeg = { kind: 'jpeg', quality: 90, chroma: '4:4:4' } as const;
  const written = (metadata: Metadata, kept: 'all' | 'no-position' = 'all'): Promise<Uint8Array> =>
    writePicture(shades(16, 16), jpeg, { metadata, kept });
  const packet = (inner: string): Uint8Array =>
    new TextEncoder().encode(
      `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">${inner}</rdf:RDF></x:xmpmeta>`,
    );

  it('leaves no position behind, wherever a writer has put it', async () => {
    const xmp = packet(
      '<rdf:Description xmlns:e="http://ns.adobe.com/exif/1.0/" e:GPSLatitude = "54,12.5N" e:GPSLongitude=\'1,3W\' xmlns:drone="http://air.example/" drone:GpsLatitude="54.21" drone:RelativeAltitude="+12" tiff:Make="Tarn">' +
        '<Iptc4xmpExt:LocationShown><rdf:Bag><rdf:li Iptc4xmpExt:City="Tarnbeck54"/></rdf:Bag></Iptc4xmpExt:LocationShown>' +
        '<Iptc4xmpExt:LocationCreated rdf:parseType="Resource"><Iptc4xmpExt:City>Tarnbeck54</Iptc4xmpExt:City></Iptc4xmpExt:LocationCreated>' +
        '<m:Latitude>54.2</m:Latitude><dc:title>Pump hall</dc:title></rdf:Description>',
    );
    // a position under the capture data: pointer 0x8825 in the directory of 0x8769
    const exif = tiff(
      [[0x8769, 4, 1, 26]],
      Buffer.concat([
        Buffer.from([2, 0, 0x25, 0x88, 4, 0, 1, 0, 0, 0, 56, 0, 0, 0, 0x03, 0x90, 2, 0, 4, 0, 0, 0, 0x32, 0x30, 0x32, 0x36, 0, 0, 0, 0]),
        Buffer.from([1, 0, 2, 0, 5, 0, 1, 0, 0, 0, 74, 0, 0, 0, 0, 0, 0, 0]),
        Buffer.from('LATITUDE'),
      ]),
    );
    const kept = latin(await written({ xmp, exif }));
    for (const word of ['54,12.5N', '54.21', 'Tarnbeck54', 'LATITUDE']) expect(kept).toContain(word);
    const without = latin(await written({ xmp, exif }, 'no-position'));
    for (const word of ['54,12', '1,3W', '54.2', '+12', 'Tarnbeck54', 'LATITUDE', 'GPS', 'Gps']) expect(without).not.toContain(word);
    for (const word of ['Pump hall', 'Tarn', '2026']) expect(without).toContain(word);
  });

  it('that is larger than a segment is not lost: EXIF without what is least needed, XMP in parts (judged by ExifReader)', async () => {
    const note = Buffer.alloc(70_000, 'n');
    const exif = tiff(
      [
        [0x0110, 2, 10, 38],
        [0x8769, 4, 1, 48],
      ],
      Buffer.concat([
        Buffer.from('Tarn Plate'),
        Buffer.from([2, 0, 0x7c, 0x92, 7, 0, 0x70, 0x11, 1, 0, 78, 0, 0, 0, 0x05, 0xa4, 3, 0, 1, 0, 0, 0, 28, 0, 0, 0, 0, 0, 0, 0]),
        note,
      ]),
    );
    const large = packet(
      `<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" dc:source="${'filter gallery '.repeat(12_000)}end"/>`,
    );
    const file = await written({ exif, xmp: large });
    const tags = ExifReader.load(Buffer.from(file));
    expect(tags['Model']?.description).toBe('Tarn Plate');
    expect(tags['FocalLengthIn35mmFilm']?.value).toBe(28);
    expect(tags['Orientation']?.value).toBe(1);
    const again = await readPictureInfo(file, 'again.jpg');
    expect(new TextDecoder().decode(again.metadata.xmp)).toContain('filter gallery end');
    expect(new TextDecoder().decode(again.metadata.xmp)).not.toContain('HasExtendedXMP');
    const { createHash } = await import('node:crypto');
    for (const text of ['', 'a', 'x'.repeat(55), 'x'.repeat(56), 'x'.repeat(1000)])
      expect(md5(Buffer.from(text))).toBe(createHash('md5').update(text).digest('hex').toUpperCase());
    expect(withExtension(Uint8Array.of(0xff, 0xfe), large)).toEqual(Uint8Array.of(0xff, 0xfe));
  });

  it('of IPTC goes to JPEG and TIFF, and as XMP to every format; the places stay out where they are to, or all of it (judged by ExifReader)', async () => {
    const set = (number: number, text: string): Buffer =>
      Buffer.concat([Buffer.from([0x1c, 2, number, 0, Buffer.byteLength(text)]), Buffer.from(text)]);
    const iim = Buffer.concat([
      Buffer.from([0x1c, 1, 90, 0, 3, 0x1b, 0x25, 0x47]),
      set(80, 'Wilma Garrow'),
      set(90, 'Tarnbeck'),
      set(116, '© Tarnbeck survey'),
      set(120, 'Pump hall <west>'),
    ]);
    // from a JPEG, and from a TIFF that holds the data sets by themselves
    const jpegSource = (await readPictureInfo(await written({ iptc: iim }), 'a.jpg')).metadata;
    const tiffSource = (
      await readPictureInfo(
        await writePicture(shades(16, 16), { kind: 'tiff', bits: 8, compression: 'none' }, { metadata: { iptc: iim } }),
        'a.tif',
      )
    ).metadata;
    expect([latin(jpegSource.iptc!), latin(tiffSource.iptc!)]).toEqual([iim.toString('latin1'), iim.toString('latin1')]);
    const of = (tag: unknown): string | undefined =>
      ((Array.isArray(tag) ? tag[0] : tag) as { description?: string } | undefined)?.description;
    for (const format of [
      { kind: 'jpeg', quality: 90, chroma: '4:4:4' },
      { kind: 'tiff', bits: 8, compression: 'none' },
      { kind: 'png', bits: 8 },
      { kind: 'webp', quality: 90, lossless: false },
    ] as const)
      for (const kept of ['all', 'no-position', 'none'] as const) {
        // the twin is made where the source has none
        const metadata = { iptc: jpegSource.iptc };
        const file = await writePicture(shades(16, 16), format, { metadata, kept });
        const { iptc, xmp } = await ExifReader.load(Buffer.from(file), { async: true, expanded: true });
        const said = [
          xmp?.['creator']?.description,
          xmp?.['rights']?.description,
          xmp?.['description']?.description,
          xmp?.['City']?.description,
        ];
        const all = ['Wilma Garrow', '© Tarnbeck survey', 'Pump hall <west>'];
        expect(said, `${format.kind} ${kept}`).toEqual(
          kept === 'all' ? [...all, 'Tarnbeck'] : kept === 'none' ? [undefined, undefined, undefined, undefined] : [...all, undefined],
        );
        if (format.kind === 'jpeg' || format.kind === 'tiff')
          expect([of(iptc?.['By-line']), of(iptc?.['City'])], `${format.kind} ${kept}`).toEqual(
            kept === 'all' ? ['Wilma Garrow', 'Tarnbeck'] : kept === 'none' ? [undefined, undefined] : ['Wilma Garrow', undefined],
          );
      }
  });
});

/** Mutations of each kind of file; more on demand. */
const MUTATIONS = Number(process.env['MUTATIONS'] ?? 200);

describe('files that were changed at random', () => {
  it('are a picture or a sentence: nothing hangs, nothing is a stack trace', { timeout: 600_000 }, async () => {
    let state = 7;
    const random = (n: number): number => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return Math.floor((state / 2 ** 32) * n);
    };
    const raster = shades(97, 61);
    const metadata = (await readPictureInfo(demo('water-tower.jpg'), 'w.jpg')).metadata;
    const encode = (format: Parameters<typeof writePicture>[1]): Promise<Uint8Array> => writePicture(raster, format, { metadata });
    const correction = {
      format: 'able-plumb/correction',
      version: 1,
      picture: { name: 'a', width: 97, height: 61 },
      references: [{ id: 'r1', kind: 'plumb', a: [1, 2], b: [3, 50] }],
    };
    const picture = {
      name: 'a.png',
      file: new Blob([(await encode({ kind: 'png', bits: 8 })) as BlobPart]),
      sha256: 'a'.repeat(64),
      correction: parseCorrection(correction),
      set: undefined,
    };
    const archive = await writeJobArchive({ name: 'Tarnbeck', pictures: [picture], deliveries: [], lenses: [] });
    const text = (value: unknown): Uint8Array => Buffer.from(JSON.stringify(value));
    const kinds: readonly (readonly [string, Uint8Array, (bytes: Uint8Array) => Promise<unknown>])[] = [
      ['a.jpg', await encode({ kind: 'jpeg', quality: 85, chroma: '4:2:0' }), (b) => open(b, 'a.jpg')],
      ['a.png', await encode({ kind: 'png', bits: 16 }), (b) => open(b, 'a.png')],
      ['a.tif', await encode({ kind: 'tiff', bits: 16, compression: 'deflate' }), (b) => open(b, 'a.tif')],
      [
        'b.tif',
        await sharp(demo('name-plate.jpg')).resize(90).tiff({ compression: 'lzw', tile: true, tileWidth: 32, tileHeight: 32 }).toBuffer(),
        (b) => open(b, 'b.tif'),
      ],
      ['a.webp', await encode({ kind: 'webp', quality: 80, lossless: false }), (b) => open(b, 'a.webp')],
      [
        'a.zip',
        new Uint8Array(await archive.arrayBuffer()),
        async (b) => (await openJobArchive(new Blob([b as BlobPart]), () => undefined)).picture(0),
      ],
      ['a.json', text(correction), async (b) => parseCorrection(JSON.parse(Buffer.from(b).toString()))],
      [
        'a.lens',
        readFileSync(new URL('../../demo/job/lenses/hollin-45-field-36.lens.json', import.meta.url)),
        async (b) => readLensFile(Buffer.from(b).toString(), 'a.lens', 'id'),
      ],
    ];
    const faults: string[] = [];
    for (const [name, whole, read] of kinds)
      for (let i = 0; i < MUTATIONS / kinds.length; i += 1) {
        const bytes = new Uint8Array(whole);
        for (let k = random(8); k >= 0; k -= 1) {
          const at = random(3) === 0 ? random(Math.min(200, bytes.length)) : random(bytes.length);
          if (random(4) === 0) bytes.fill(random(256), at, at + random(40));
          else bytes[at] = random(3) === 0 ? 255 : random(256);
        }
        const changed = random(5) === 0 ? bytes.subarray(0, random(bytes.length)) : bytes;
        const began = performance.now();
        try {
          await read(changed);
        } catch (error) {
          const said = error instanceof PlumbError || error instanceof SyntaxError;
          if (!said || (!/[.!?]$/.test((error as Error).message.trim()) && !(error instanceof SyntaxError)))
            faults.push(`${name} ${i}: ${(error as Error).stack}`);
        }
        if (performance.now() - began > 10_000) faults.push(`${name} ${i}: ${Math.round(performance.now() - began)} ms`);
      }
    expect(faults).toEqual([]);
    expect(process.memoryUsage().rss).toBeLessThan(1.5e9);
  });
});
