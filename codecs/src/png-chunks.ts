import { asciiBytes, hasAscii, joinBytes, PictureFileError, throughStream, viewOf } from './bytes';
import { toldPpi } from './exif-block';
import type { Metadata } from './metadata';
import { crc32 } from './png-kernel';

export const PNG_SIGNATURE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);

/** Largest metadata block that is unpacked, bytes. */
const LARGEST_BLOCK = 64e6;

const XMP_KEYWORD = 'XML:com.adobe.xmp';

/** One chunk: length, type, data, CRC. */
export function pngChunk(type: string, ...parts: readonly Uint8Array[]): Uint8Array {
  const head = new Uint8Array(4);
  viewOf(head).setUint32(
    0,
    parts.reduce((sum, part) => sum + part.length, 0),
  );
  const chunk = joinBytes([head, asciiBytes(type), ...parts, new Uint8Array(4)]);
  viewOf(chunk).setUint32(chunk.length - 4, crc32(chunk.subarray(4, -4)));
  return chunk;
}

/** What the chunks of a PNG file say, without decoding. */
export interface PngHeader {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly colourType: number;
  readonly metadata: Metadata;
}

/**
 * Walks the chunks of a PNG file.
 * @throws PictureFileError when it is cut short or its header is impossible
 */
export async function readPngHeader(bytes: Uint8Array, name: string): Promise<PngHeader> {
  const cut = (): never => {
    throw new PictureFileError(
      'png-damaged',
      `${name} is cut short: its last part is missing.`,
      'Copy it again from the disk; nothing else was changed.',
    );
  };
  const view = viewOf(bytes);
  if (bytes.length < 33 || !hasAscii(bytes, 12, 'IHDR')) return cut();
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  // the decoder mixes up the rows of such files
  if (bytes[28] === 1 && (bytes[24] as number) < 8)
    throw new PictureFileError(
      'png-kind',
      `${name} is an interlaced PNG of ${bytes[24]} bits, which cannot be opened.`,
      'Save it without interlace, or at 8 bits; the file is untouched.',
    );
  let [exif, xmp, icc]: (Uint8Array | undefined)[] = [];
  let ppi: number | undefined;
  for (let at = 8; ;) {
    if (at + 12 > bytes.length) return cut();
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) return cut();
    const data = bytes.subarray(at + 8, at + 8 + length);
    if (hasAscii(bytes, at + 4, 'eXIf')) exif = data.slice();
    if (hasAscii(bytes, at + 4, 'iTXt') && hasAscii(data, 0, `${XMP_KEYWORD}\0`)) xmp = await readXmp(data);
    if (hasAscii(bytes, at + 4, 'iCCP')) icc = await readIcc(data);
    // pixels a metre (PNG 3, 11.3.4.3)
    if (hasAscii(bytes, at + 4, 'pHYs') && data.length === 9 && data[8] === 1)
      ppi = toldPpi(viewOf(data).getUint32(0) / 100, 3) ?? undefined;
    if (hasAscii(bytes, at + 4, 'IEND')) break;
    at += 12 + length;
  }
  return { width, height, bits: bytes[24] as number, colourType: bytes[25] as number, metadata: { exif, xmp, icc, ppi } };
}

async function readXmp(data: Uint8Array): Promise<Uint8Array | undefined> {
  let at = XMP_KEYWORD.length + 1;
  const compressed = data[at] === 1;
  at += 2;
  for (let zeros = 0; zeros < 2 && at < data.length; at += 1) if (data[at] === 0) zeros += 1;
  const text = data.slice(at);
  return compressed ? throughStream(text, new DecompressionStream('deflate'), LARGEST_BLOCK).catch(() => undefined) : text;
}

async function readIcc(data: Uint8Array): Promise<Uint8Array | undefined> {
  const end = data.indexOf(0);
  return end < 0 ? undefined : throughStream(data.slice(end + 2), new DecompressionStream('deflate'), LARGEST_BLOCK).catch(() => undefined);
}

/** Chunks that carry the metadata, to stand between IHDR and IDAT. */
export async function metadataChunks({ exif, xmp, icc, ppi }: Metadata): Promise<Uint8Array[]> {
  const chunks: Uint8Array[] = [];
  if (icc) chunks.push(pngChunk('iCCP', asciiBytes('ICC profile\0\0'), await throughStream(icc, new CompressionStream('deflate'))));
  if (ppi !== undefined) {
    const density = new Uint8Array(9);
    const perMetre = Math.round(ppi / 0.0254);
    viewOf(density).setUint32(0, perMetre);
    viewOf(density).setUint32(4, perMetre);
    density[8] = 1;
    chunks.push(pngChunk('pHYs', density));
  }
  if (exif) chunks.push(pngChunk('eXIf', exif));
  if (xmp) chunks.push(pngChunk('iTXt', asciiBytes(`${XMP_KEYWORD}\0\0\0\0\0`), xmp));
  return chunks;
}
