import { asciiBytes, hasAscii, joinBytes, PictureFileError, viewOf } from './bytes';
import { fittedExif, toldPpi } from './exif-block';
import { asResource, iimOf } from './iptc';
import { md5 } from './md5';
import type { Metadata } from './metadata';
import { pointingTo, slimmed, withExtension } from './xmp-packet';

const EXIF = 'Exif\0\0';
const JFIF = 'JFIF\0';
/** Version 1.02, no unit, densities of 1, no thumbnail. */
const JFIF_REST = Uint8Array.of(1, 2, 0, 0, 1, 0, 1, 0, 0);
const XMP = 'http://ns.adobe.com/xap/1.0/\0';
const MORE_XMP = 'http://ns.adobe.com/xmp/extension/\0';
const ICC = 'ICC_PROFILE\0';
const PHOTOSHOP = 'Photoshop 3.0\0';
const LARGEST_SEGMENT = 65533;
const START_OF_SCAN = 0xda;

/** What the markers of a JPEG file say, without decoding (ITU-T T.81). */
export interface JpegHeader {
  readonly width: number;
  readonly height: number;
  readonly components: number;
  readonly metadata: Metadata;
}

const fail = (name: string, what: string): never => {
  throw new PictureFileError('jpeg-damaged', `${name} ${what}.`, 'Copy it again from the card or the disk; nothing else was changed.');
};

/**
 * Walks the markers of a JPEG file to its end.
 * @throws PictureFileError when it is cut short, damaged, or of a kind that is not read (four colours, lossless, arithmetic, 12 bit)
 */
export function readJpegHeader(bytes: Uint8Array, name: string): JpegHeader {
  const view = viewOf(bytes);
  const iccParts: { index: number; of: number; data: Uint8Array }[] = [];
  const extended: Extension = { whole: null, filled: 0 };
  let iptc: Uint8Array | undefined;
  let ppi: number | undefined;
  let scanned: number | null = null;
  let frame: { width: number; height: number; components: number } | null = null;
  let [exif, xmp]: [Uint8Array | undefined, Uint8Array | undefined] = [undefined, undefined];
  let at = 2;
  for (;;) {
    // most of a file lies between two markers: searched natively
    const next = bytes.indexOf(0xff, at);
    at = next < 0 ? bytes.length : next;
    while (at < bytes.length && bytes[at] === 0xff) at += 1;
    if (at >= bytes.length) return fail(name, frame ? 'is cut short: its last part is missing' : 'is damaged: it holds no picture');
    const marker = bytes[at] as number;
    at += 1;
    if (marker === 0xd9) break;
    if (marker === 0 || marker === 1 || (marker >= 0xd0 && marker <= 0xd8)) continue;
    if (at + 2 > bytes.length) return fail(name, 'is cut short: its last part is missing');
    const length = view.getUint16(at);
    const end = at + length;
    if (end > bytes.length || length < 2) return fail(name, 'is cut short: its last part is missing');
    const data = bytes.subarray(at + 2, end);
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) frame = readFrame(data, marker, name);
    if (marker === 0xe1 && hasAscii(data, 0, EXIF)) exif ??= data.slice(EXIF.length);
    if (marker === 0xe1 && hasAscii(data, 0, XMP)) xmp ??= data.slice(XMP.length);
    if (marker === 0xe1 && hasAscii(data, 0, MORE_XMP)) noteExtension(data, extended);
    if (marker === 0xe2 && hasAscii(data, 0, ICC))
      iccParts.push({ index: data[ICC.length] ?? 0, of: data[ICC.length + 1] ?? 0, data: data.slice(ICC.length + 2) });
    // JFIF 1.02: unit 1 an inch, 2 a centimetre, then the density across
    if (marker === 0xe0 && hasAscii(data, 0, JFIF) && data.length >= 12)
      ppi ??= toldPpi(viewOf(data).getUint16(8), (data[7] as number) + 1) ?? undefined;
    if (marker === 0xed && hasAscii(data, 0, PHOTOSHOP)) iptc ??= iimOf(data);
    if (marker === START_OF_SCAN) scanned ??= end;
    at = end;
  }
  if (!frame) return fail(name, 'is damaged: it holds no picture');
  // one bit a block is the least that any of them takes
  const blocks = Math.ceil(frame.width / 8) * Math.ceil(frame.height / 8);
  if (bytes.length - (scanned ?? bytes.length) < (0.9 * blocks) / 8) return fail(name, 'is cut short: most of its pixels are missing');
  if (xmp && extended.whole && extended.filled >= extended.whole.length) xmp = withExtension(xmp, extended.whole);
  return { ...frame, metadata: { exif, xmp, icc: wholeProfile(iccParts), iptc, ppi } };
}

/** A profile in several parts (ICC.1, annex B.4); one of which parts are missing is none. */
function wholeProfile(
  parts: readonly { readonly index: number; readonly of: number; readonly data: Uint8Array }[],
): Uint8Array | undefined {
  const sorted = [...parts].sort((p, q) => p.index - q.index);
  const whole = sorted.length > 0 && sorted.every((part, i) => part.index === i + 1 && part.of === sorted.length);
  return whole ? joinBytes(sorted.map((part) => part.data)) : undefined;
}

/** What did not fit into the first XMP packet. */
interface Extension {
  whole: Uint8Array | null;
  filled: number;
}

/** A part of extended XMP: a name of 32 digits, the length of the whole, where this part begins, then its bytes (XMP, part 3, 1.1.3.1). */
const EXTENSION_HEAD = 40;
/** Longer packets are not read, bytes. */
const LONGEST_XMP = 32e6;

function noteExtension(data: Uint8Array, into: Extension): void {
  const from = MORE_XMP.length;
  if (data.length < from + EXTENSION_HEAD) return;
  const [length, at] = [viewOf(data).getUint32(from + 32), viewOf(data).getUint32(from + 36)];
  if (length > LONGEST_XMP) return;
  const part = data.subarray(from + EXTENSION_HEAD);
  into.whole ??= new Uint8Array(length);
  if (into.whole.length !== length || at + part.length > length) return;
  into.whole.set(part, at);
  into.filled += part.length;
}

function readFrame(data: Uint8Array, marker: number, name: string): { width: number; height: number; components: number } {
  if (data.length < 6) return fail(name, 'is damaged: its frame header is too short');
  const view = viewOf(data);
  const refuse = (what: string): never => {
    throw new PictureFileError(
      'jpeg-kind',
      `${name} is ${what}, which cannot be opened.`,
      'Save it as an ordinary RGB or grey JPEG, or as PNG; the file is untouched.',
    );
  };
  if (marker === 0xc3 || marker >= 0xc5) return refuse('a lossless, hierarchical or arithmetic-coded JPEG');
  if (data[0] !== 8) return refuse(`a ${data[0]}-bit JPEG`);
  const components = data[5] as number;
  if (components !== 1 && components !== 3) return refuse(`a JPEG with ${components} colour components (CMYK)`);
  return { height: view.getUint16(1), width: view.getUint16(3), components };
}

/** A packet in one segment, or with an extension where it is larger (XMP, part 3, 1.1.3.1). */
function xmpSegments(whole: Uint8Array): Uint8Array[] {
  const fits = (xmp: Uint8Array): boolean => xmp.length + XMP.length <= LARGEST_SEGMENT;
  const xmp = fits(whole) ? whole : slimmed(whole);
  if (fits(xmp)) return [segment(0xe1, asciiBytes(XMP), xmp)];
  const guid = md5(xmp);
  const room = LARGEST_SEGMENT - MORE_XMP.length - EXTENSION_HEAD;
  const parts = [segment(0xe1, asciiBytes(XMP), pointingTo(guid))];
  for (let at = 0; at < xmp.length; at += room) {
    const place = new Uint8Array(8);
    viewOf(place).setUint32(0, xmp.length);
    viewOf(place).setUint32(4, at);
    parts.push(segment(0xe1, asciiBytes(MORE_XMP), asciiBytes(guid), place, xmp.subarray(at, at + room)));
  }
  return parts;
}

function segment(marker: number, ...parts: readonly Uint8Array[]): Uint8Array {
  const body = joinBytes(parts);
  return joinBytes([Uint8Array.of(0xff, marker, (body.length + 2) >> 8, (body.length + 2) & 255), body]);
}

/** The file without EXIF, XMP, colour profile and IPTC (APP1, APP2 and APP13 before the first scan). */
export function withoutMetadata(jpeg: Uint8Array): Uint8Array<ArrayBuffer> {
  const kept: Uint8Array[] = [jpeg.subarray(0, 2)];
  let at = 2;
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff && jpeg[at + 1] !== START_OF_SCAN) {
    // any number of fill bytes may stand before a marker
    const fill = jpeg[at + 1] === 0xff;
    const end = fill ? at + 1 : at + 2 + viewOf(jpeg).getUint16(at + 2);
    if (![0xe1, 0xe2, 0xed].includes(jpeg[at + 1] as number)) kept.push(jpeg.subarray(at, end));
    at = end;
  }
  return joinBytes([...kept, jpeg.subarray(at)]);
}

/**
 * Puts metadata into an encoded JPEG in place of what it has, after its start marker. What is too large for a segment is made to fit: EXIF
 * by leaving the least needed out, XMP and ICC by dividing them.
 */
export function spliceMetadata(encoded: Uint8Array, { exif, xmp, icc, iptc, ppi }: Metadata): Uint8Array<ArrayBuffer> {
  const bare = withoutMetadata(encoded);
  // an encoder that writes no JFIF header leaves no place for the resolution; EXIF has one of its own
  const needsJfif = ppi !== undefined && !exif && !(bare[2] === 0xff && bare[3] === 0xe0);
  const jpeg = needsJfif ? joinBytes([bare.subarray(0, 2), segment(0xe0, asciiBytes(JFIF), JFIF_REST), bare.subarray(2)]) : bare;
  const parts: Uint8Array[] = [];
  if (exif) parts.push(segment(0xe1, asciiBytes(EXIF), fittedExif(exif, LARGEST_SEGMENT - EXIF.length)));
  if (xmp) parts.push(...xmpSegments(xmp));
  const resource = iptc && asResource(iptc);
  if (resource && resource.length <= LARGEST_SEGMENT) parts.push(segment(0xed, resource));
  if (icc) {
    const room = LARGEST_SEGMENT - ICC.length - 2;
    const count = Math.ceil(icc.length / room);
    for (let i = 0; i < count; i += 1)
      parts.push(segment(0xe2, asciiBytes(ICC), Uint8Array.of(i + 1, count), icc.subarray(i * room, (i + 1) * room)));
  }
  // an encoder's own JFIF header stays first, as JFIF wants it
  const hasJfif = jpeg[2] === 0xff && jpeg[3] === 0xe0;
  const head = hasJfif ? 4 + viewOf(jpeg).getUint16(4) : 2;
  const out = joinBytes([jpeg.subarray(0, head), ...parts, jpeg.subarray(head)]);
  if (hasJfif && ppi !== undefined) {
    // JFIF: after marker, length, "JFIF\0" and version come the unit (1: inch) and the two densities
    viewOf(out).setUint8(13, 1);
    viewOf(out).setUint16(14, Math.round(ppi));
    viewOf(out).setUint16(16, Math.round(ppi));
  }
  return out;
}
