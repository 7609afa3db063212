import { asciiBytes, hasAscii, joinBytes, PictureFileError, viewOf } from './bytes';
import { box, boxesIn, fullBox, longs, words, type Box } from './boxes';
import type { Metadata } from './metadata';

/* What an AVIF file says of its picture, and how more is said (ISO/IEC 23000-22 and 23008-12). */

/** What the boxes of an AVIF file say, without decoding. Width and height are those of the stored pixels. */
export interface AvifHeader {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly alpha: boolean;
  /** How pixels are to be turned, as EXIF counts it. */
  readonly orientation: number;
  readonly metadata: Metadata;
}

interface Item {
  readonly id: number;
  readonly type: string;
  readonly extents: readonly { readonly at: number; readonly length: number }[];
}

function fail(name: string, what: string): never {
  throw new PictureFileError('avif-damaged', `${name} ${what}.`, 'Copy it again from the disk; nothing else was changed.');
}

/** Orientation by quarter turns against the clock and then mirroring: none, top with bottom, left with right. */
const ORIENTATIONS = [
  [1, 4, 2],
  [8, 5, 7],
  [3, 2, 4],
  [6, 7, 5],
] as const;

/**
 * Reads the boxes of an AVIF file.
 * @throws PictureFileError when it is damaged or moves
 */
export function readAvifHeader(bytes: Uint8Array, name: string): AvifHeader {
  try {
    return headerOf(bytes, name);
  } catch (error) {
    if (error instanceof PictureFileError) throw error;
    return fail(name, 'is cut short or damaged');
  }
}

function headerOf(bytes: Uint8Array, name: string): AvifHeader {
  const view = viewOf(bytes);
  const whole = boxesIn(bytes, 0, bytes.length);
  if (hasAscii(bytes, 8, 'avis') && whole.some(({ type }) => type === 'moov'))
    throw new PictureFileError(
      'avif-kind',
      `${name} is a moving AVIF picture.`,
      'Save one of its pictures by itself; the file is untouched.',
    );
  const meta = whole.find(({ type }) => type === 'meta');
  if (!meta) return fail(name, 'is damaged: it holds no picture');
  const parts = boxesIn(bytes, meta.from + 4, meta.to);
  const part = (type: string): Box | undefined => parts.find((one) => one.type === type);
  const primary = part('pitm');
  const properties = part('iprp');
  if (!primary || !properties) return fail(name, 'is damaged: it holds no picture');
  const id = bytes[primary.from] === 0 ? view.getUint16(primary.from + 4) : view.getUint32(primary.from + 4);
  const of = propertiesOf(bytes, properties);
  const mine = of(id);
  const size = mine.find(({ type }) => type === 'ispe');
  if (!size) return fail(name, 'is damaged: it does not say how large it is');
  const depth = mine.find(({ type }) => type === 'pixi');
  const profile = mine.find(({ type, from }) => type === 'colr' && (hasAscii(bytes, from, 'prof') || hasAscii(bytes, from, 'rICC')));
  const turned = mine.find(({ type }) => type === 'irot');
  const mirrored = mine.find(({ type }) => type === 'imir');
  const items = itemsOf(bytes, parts);
  const alpha = items.some((item) =>
    of(item.id).some(({ type, from }) => type === 'auxC' && hasAscii(bytes, from + 4, 'urn:mpeg:mpegB:cicp:systems:auxiliary:alpha')),
  );
  const data = (type: string): Uint8Array | undefined => {
    const item = items.find((one) => one.type === type);
    return item && joinBytes(item.extents.map(({ at, length }) => bytes.subarray(at, at + length)));
  };
  const exif = data('Exif');
  return {
    width: view.getUint32(size.from + 4),
    height: view.getUint32(size.from + 8),
    bits: depth ? (bytes[depth.from + 5] as number) : 8,
    alpha,
    orientation: (ORIENTATIONS[turned ? (bytes[turned.from] as number) & 3 : 0] as readonly number[])[
      mirrored ? 1 + ((bytes[mirrored.from] as number) & 1) : 0
    ] as number,
    metadata: {
      // before it stands where the block begins
      exif: exif && exif.length > 4 ? exif.slice(4 + viewOf(exif).getUint32(0)) : undefined,
      xmp: data('mime'),
      icc: profile && bytes.slice(profile.from + 4, profile.to),
    },
  };
}

/** Properties of items, in their order. */
function propertiesOf(bytes: Uint8Array, properties: Box): (id: number) => readonly Box[] {
  const view = viewOf(bytes);
  const inside = boxesIn(bytes, properties.from, properties.to);
  const shelf = inside.find(({ type }) => type === 'ipco');
  const known = shelf ? boxesIn(bytes, shelf.from, shelf.to) : [];
  const found = new Map<number, Box[]>();
  for (const { from } of inside.filter(({ type }) => type === 'ipma')) {
    const [wideIds, wideIndices] = [bytes[from] !== 0, ((bytes[from + 3] as number) & 1) === 1];
    let at = from + 8;
    for (let n = view.getUint32(from + 4); n > 0; n -= 1) {
      const id = wideIds ? view.getUint32(at) : view.getUint16(at);
      at += wideIds ? 4 : 2;
      const count = bytes[at] as number;
      at += 1;
      const list = found.get(id) ?? [];
      for (let k = 0; k < count; k += 1, at += wideIndices ? 2 : 1) {
        const index = wideIndices ? view.getUint16(at) & 0x7fff : (bytes[at] as number) & 0x7f;
        const property = known[index - 1];
        if (property) list.push(property);
      }
      found.set(id, list);
    }
  }
  return (id) => found.get(id) ?? [];
}

/** Items with where their bytes are. */
function itemsOf(bytes: Uint8Array, parts: readonly Box[]): Item[] {
  const view = viewOf(bytes);
  const info = parts.find(({ type }) => type === 'iinf');
  const places = parts.find(({ type }) => type === 'iloc');
  if (!info || !places) return [];
  const extents = extentsOf(
    bytes,
    places,
    parts.find(({ type }) => type === 'idat'),
  );
  return boxesIn(bytes, info.from + (bytes[info.from] === 0 ? 6 : 8), info.to)
    .filter(({ type, from }) => type === 'infe' && (bytes[from] as number) >= 2)
    .map(({ from }) => {
      const wide = bytes[from] !== 2;
      const id = wide ? view.getUint32(from + 4) : view.getUint16(from + 4);
      const at = from + (wide ? 10 : 8);
      return { id, type: new TextDecoder('latin1').decode(bytes.subarray(at, at + 4)), extents: extents.get(id) ?? [] };
    });
}

function extentsOf(bytes: Uint8Array, places: Box, data: Box | undefined): Map<number, Item['extents']> {
  const view = viewOf(bytes);
  const version = bytes[places.from] as number;
  const [sizes, more] = [bytes[places.from + 4] as number, bytes[places.from + 5] as number];
  let at = places.from + 6;
  const number = (size: number): number => {
    const value =
      size === 0 ? 0 : size === 4 ? view.getUint32(at) : size === 8 ? Number(view.getBigUint64(at)) : size === 2 ? view.getUint16(at) : NaN;
    at += size;
    return value;
  };
  const found = new Map<number, Item['extents']>();
  for (let n = number(version < 2 ? 2 : 4); n > 0; n -= 1) {
    const id = number(version < 2 ? 2 : 4);
    const way = version > 0 ? number(2) & 15 : 0;
    number(2);
    const base = number(more >> 4);
    const list: { at: number; length: number }[] = [];
    for (let k = number(2); k > 0; k -= 1) {
      if (version > 0) number(more & 15);
      const offset = number(sizes >> 4);
      const length = number(sizes & 15);
      list.push({ at: base + offset + (way === 1 ? (data?.from ?? 0) : 0), length });
    }
    found.set(id, list);
  }
  return found;
}

/**
 * The same AVIF file with metadata: items for EXIF and XMP behind its pixels, the profile as a property.
 * @param file as an encoder wrote it: one picture, perhaps with alpha, without metadata, offsets from the start of the file
 */
export function withAvifMetadata(file: Uint8Array, { exif, xmp, icc }: Metadata): Uint8Array<ArrayBuffer> {
  const whole = boxesIn(file, 0, file.length);
  const meta = whole.find(({ type }) => type === 'meta') as Box;
  const parts = boxesIn(file, meta.from + 4, meta.to);
  const part = (type: string): Box => parts.find((one) => one.type === type) as Box;
  const primary = viewOf(file).getUint16(part('pitm').from + 4);
  const known = itemsOf(file, parts);
  const next = Math.max(...known.map(({ id }) => id)) + 1;
  const added = [
    ...(exif ? [{ type: 'Exif', about: Uint8Array.of(0), data: joinBytes([new Uint8Array(4), exif]) }] : []),
    ...(xmp ? [{ type: 'mime', about: asciiBytes('\0application/rdf+xml\0'), data: xmp }] : []),
  ].map((item, k) => ({ ...item, id: next + k }));
  const described = boxesIn(file, part('iinf').from + 6, part('iinf').to).map(({ at, to }) => file.subarray(at, to));
  const infos = added.map(({ id, type, about }) => fullBox('infe', 2, words(id, 0), asciiBytes(type), about));
  const links = parts.filter(({ type }) => type === 'iref').flatMap(({ from, to }) => [file.subarray(from + 4, to)]);
  const tells = added.map(({ id }) => box('cdsc', words(id, 1, primary)));
  /** Everything about items, where those that were there have moved by so much, and the new ones begin there. */
  const metaOf = (moved: number, newAt: number): Uint8Array<ArrayBuffer> => {
    let at = newAt;
    const places = [
      ...known.map(({ id, extents }) => [words(id, 0, extents.length), ...extents.map((e) => longs(e.at + moved, e.length))]),
      ...added.map(({ id, data }) => {
        const place = [words(id, 0, 1), longs(at, data.length)];
        at += data.length;
        return place;
      }),
    ];
    const rebuilt: Readonly<Record<string, Uint8Array>> = {
      iinf: fullBox('iinf', 0, words(described.length + infos.length), ...described, ...infos),
      iloc: fullBox('iloc', 0, Uint8Array.of(0x44, 0), words(places.length), ...places.flat()),
      iprp: icc ? withProfile(file, part('iprp'), primary, icc) : file.subarray(part('iprp').at, part('iprp').to),
    };
    const iref = tells.length + links.length > 0 ? [fullBox('iref', 0, ...links, ...tells)] : [];
    const kept = parts.filter(({ type }) => type !== 'iref').map(({ type, at: from, to }) => rebuilt[type] ?? file.subarray(from, to));
    return fullBox('meta', 0, ...kept, ...iref);
  };
  const length = metaOf(0, 0).length;
  const moved = length - (meta.to - meta.at);
  const newAt = file.length + moved + 8;
  const data = added.length > 0 ? [box('mdat', ...added.map((item) => item.data))] : [];
  return joinBytes([file.subarray(0, meta.at), metaOf(moved, newAt), file.subarray(meta.to), ...data]);
}

/** The properties with a profile for an item. */
function withProfile(file: Uint8Array, properties: Box, id: number, icc: Uint8Array): Uint8Array<ArrayBuffer> {
  const view = viewOf(file);
  const inside = boxesIn(file, properties.from, properties.to);
  const shelf = inside.find(({ type }) => type === 'ipco') as Box;
  const index = boxesIn(file, shelf.from, shelf.to).length + 1;
  const table = inside.find(({ type }) => type === 'ipma') as Box;
  // of an encoder's few items and properties: ids of two bytes, indices of one
  const rows: Uint8Array[] = [];
  let at = table.from + 8;
  for (let n = view.getUint32(table.from + 4); n > 0; n -= 1) {
    const count = file[at + 2] as number;
    const row = file.subarray(at, at + 3 + count);
    rows.push(
      view.getUint16(at) === id ? joinBytes([row.subarray(0, 2), Uint8Array.of(count + 1), row.subarray(3), Uint8Array.of(index)]) : row,
    );
    at += 3 + count;
  }
  return box(
    'iprp',
    box('ipco', file.subarray(shelf.from, shelf.to), box('colr', asciiBytes('prof'), icc)),
    fullBox('ipma', 0, longs(rows.length), ...rows),
  );
}
