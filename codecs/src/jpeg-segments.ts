import { asciiBytes, hasAscii, joinBytes, PictureFileError, viewOf } from './bytes';
import type { Metadata } from './metadata';

const EXIF = 'Exif\0\0';
const XMP = 'http://ns.adobe.com/xap/1.0/\0';
const ICC = 'ICC_PROFILE\0';
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
  const iccParts: { index: number; data: Uint8Array }[] = [];
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
    if (marker === 0xe2 && hasAscii(data, 0, ICC)) iccParts.push({ index: data[ICC.length] ?? 0, data: data.slice(ICC.length + 2) });
    at = end;
  }
  if (!frame) return fail(name, 'is damaged: it holds no picture');
  const icc = iccParts.length > 0 ? joinBytes(iccParts.sort((p, q) => p.index - q.index).map((part) => part.data)) : undefined;
  return { ...frame, metadata: { exif, xmp, icc } };
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

function segment(marker: number, ...parts: readonly Uint8Array[]): Uint8Array {
  const body = joinBytes(parts);
  return joinBytes([Uint8Array.of(0xff, marker, (body.length + 2) >> 8, (body.length + 2) & 255), body]);
}

/** The file without EXIF, XMP and colour profile (APP1 and APP2 before the first scan). */
export function withoutMetadata(jpeg: Uint8Array): Uint8Array<ArrayBuffer> {
  const kept: Uint8Array[] = [jpeg.subarray(0, 2)];
  let at = 2;
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff && jpeg[at + 1] !== START_OF_SCAN) {
    // any number of fill bytes may stand before a marker
    const fill = jpeg[at + 1] === 0xff;
    const end = fill ? at + 1 : at + 2 + viewOf(jpeg).getUint16(at + 2);
    if (jpeg[at + 1] !== 0xe1 && jpeg[at + 1] !== 0xe2) kept.push(jpeg.subarray(at, end));
    at = end;
  }
  return joinBytes([...kept, jpeg.subarray(at)]);
}

/** Puts metadata into an encoded JPEG in place of what it has, after its start marker; blocks too large for a segment (but for ICC, which is divided) are left out. */
export function spliceMetadata(encoded: Uint8Array, { exif, xmp, icc, ppi }: Metadata): Uint8Array<ArrayBuffer> {
  const jpeg = withoutMetadata(encoded);
  const parts: Uint8Array[] = [];
  if (exif && exif.length + EXIF.length <= LARGEST_SEGMENT) parts.push(segment(0xe1, asciiBytes(EXIF), exif));
  if (xmp && xmp.length + XMP.length <= LARGEST_SEGMENT) parts.push(segment(0xe1, asciiBytes(XMP), xmp));
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
