import { hasAscii, PictureFileError } from './bytes';
import { isJxl } from './jxl';

/** Picture formats that are read. */
export type PictureFormat = 'jpeg' | 'png' | 'tiff' | 'webp' | 'avif' | 'jxl';

const RAW_ENDINGS = [
  'cr2',
  'cr3',
  'crw',
  'nef',
  'nrw',
  'arw',
  'sr2',
  'srf',
  'dng',
  'raf',
  'orf',
  'rw2',
  'pef',
  'srw',
  'x3f',
  '3fr',
  'iiq',
  'erf',
  'mef',
  'mos',
  'kdc',
  'dcr',
  'rwl',
];
const FORMAT_NAMES = 'JPEG, PNG, TIFF, WebP, AVIF and JPEG XL pictures can be opened.';

/** Brands of files whose pixels are coded as in video (ISO/IEC 23008-12). */
const HEIC_BRANDS = ['heic', 'heix', 'heim', 'heis', 'hevc', 'hevx', 'mif1', 'msf1'];

/** Brands of a file of boxes, the main one first. */
function brandsOf(bytes: Uint8Array): readonly string[] {
  if (!hasAscii(bytes, 4, 'ftyp')) return [];
  const length = Math.min(bytes.length, ((bytes[2] as number) << 8) | (bytes[3] as number));
  const names: string[] = [];
  for (let at = 8; at + 4 <= length; at += at === 8 ? 8 : 4) names.push(new TextDecoder('latin1').decode(bytes.subarray(at, at + 4)));
  return names;
}

/**
 * What kind of picture some bytes are, by their first bytes; the file's name only helps with the wording of a refusal.
 * @throws PictureFileError for anything that is not readable, in a plain sentence
 */
export function sniffFormat(bytes: Uint8Array, name: string): PictureFormat {
  if (bytes.length === 0)
    throw new PictureFileError(
      'empty-file',
      `${name} is empty (0 bytes).`,
      'Copy it again from the card or the disk; nothing else was changed.',
    );
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff) return 'jpeg';
  if (hasAscii(bytes, 1, 'PNG\r\n\x1a\n') && bytes[0] === 0x89) return 'png';
  const ending = name.toLowerCase().split('.').pop() ?? '';
  const raw =
    RAW_ENDINGS.includes(ending) ||
    hasAscii(bytes, 0, 'FUJIFILMCCD-RAW') ||
    hasAscii(bytes, 0, 'IIRO') ||
    hasAscii(bytes, 0, 'IIU\0') ||
    hasAscii(bytes, 4, 'ftypcrx') ||
    hasAscii(bytes, 8, 'CR\x02');
  if (raw)
    throw new PictureFileError(
      'camera-raw',
      `${name} is a raw file from a camera.`,
      'Develop it to a picture first (a 16-bit TIFF keeps everything), then open that; the raw file is untouched.',
    );
  if (hasAscii(bytes, 0, 'II*\0') || hasAscii(bytes, 0, 'MM\0*')) return 'tiff';
  if (hasAscii(bytes, 0, 'RIFF') && hasAscii(bytes, 8, 'WEBP')) return 'webp';
  if (isJxl(bytes)) return 'jxl';
  const brands = brandsOf(bytes);
  if (brands.includes('avif') || brands.includes('avis')) return 'avif';
  if (brands.some((brand) => HEIC_BRANDS.includes(brand)))
    throw new PictureFileError(
      'heic',
      `${name} is an HEIC picture, which cannot be opened.`,
      'Save it as JPEG or TIFF with the program that shows it, or set the camera to write JPEG; the file is untouched.',
    );
  const known =
    hasAscii(bytes, 0, 'II+\0') || hasAscii(bytes, 0, 'MM\0+')
      ? 'a BigTIFF'
      : hasAscii(bytes, 4, 'ftyp')
        ? 'a video file'
        : hasAscii(bytes, 0, 'GIF8')
          ? 'a GIF'
          : hasAscii(bytes, 0, '%PDF')
            ? 'a PDF'
            : hasAscii(bytes, 0, 'PK')
              ? 'a zip archive'
              : null;
  if (known)
    throw new PictureFileError('format-unknown', `${name} is ${known}, which cannot be opened.`, `${FORMAT_NAMES} The file is untouched.`);
  throw new PictureFileError(
    'not-a-picture',
    `${name} is not a picture: its contents are something else than its name says.`,
    `${FORMAT_NAMES} The file is untouched.`,
  );
}
