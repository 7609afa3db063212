import { asciiBytes, joinBytes, viewOf } from './bytes';
import {
  directoryBytes,
  inlineNumber,
  nextDirectory,
  numberOf,
  openBlock,
  readDirectory,
  textOf,
  type Block,
  type Entry,
  type WrittenEntry,
} from './directories';

const TAG = {
  make: 0x010f,
  model: 0x0110,
  orientation: 0x0112,
  software: 0x0131,
  imageWidth: 0x0100,
  imageLength: 0x0101,
  resolutionX: 0x011a,
  resolutionY: 0x011b,
  resolutionUnit: 0x0128,
  exif: 0x8769,
  position: 0x8825,
  thumbnailAt: 0x0201,
  focalLength: 0x920a,
  pixelX: 0xa002,
  pixelY: 0xa003,
  focalPlaneX: 0xa20e,
  focalPlaneUnit: 0xa210,
  focal35: 0xa405,
  lensModel: 0xa434,
  taken: 0x9003,
  elevation: 0x9405,
} as const;

/** What the product reads from a camera's metadata (CIPA DC-008). */
export interface CameraFacts {
  readonly orientation: number;
  readonly camera: string | null;
  readonly lens: string | null;
  /** 35 mm equivalent by the picture's own diagonal, mm. */
  readonly focal35: number | null;
  readonly focalMm: number | null;
  readonly takenAt: string | null;
  /**
   * Size that the camera took, px as stored, where the picture shows by another shape that it was cropped since: nobody knows then
   * where the optical centre lies. Null where nothing betrays a crop.
   */
  readonly croppedFrom: { readonly width: number; readonly height: number } | null;
  /** By how much the camera's own level says that it looked up, degrees (EXIF 2.31, CameraElevationAngle). */
  readonly elevation: number | null;
  /** Pixels an inch, where a resolution is told with its unit. */
  readonly ppi: number | null;
}

export const NO_CAMERA_FACTS: CameraFacts = {
  orientation: 1,
  camera: null,
  lens: null,
  focal35: null,
  focalMm: null,
  takenAt: null,
  croppedFrom: null,
  elevation: null,
  ppi: null,
};

/**
 * Reads what matters from an EXIF block (a TIFF structure without the "Exif" prefix). Damaged or missing parts read as null.
 * The 35 mm equivalent comes from FocalLengthIn35mmFilm, else from FocalLength and the focal-plane resolution by the diagonal.
 */
export function readCameraFacts(bytes: Uint8Array | undefined, storedWidth: number, storedHeight: number): CameraFacts {
  const block = bytes && openBlock(bytes);
  if (!block) return NO_CAMERA_FACTS;
  const first = readDirectory(block, block.firstIfd);
  const exifAt = numberOf(block, first, TAG.exif);
  const exif = exifAt === null ? [] : readDirectory(block, exifAt);
  const orientation = numberOf(block, first, TAG.orientation) ?? 1;
  const [make, model] = [textOf(first, TAG.make), textOf(first, TAG.model)];
  const camera = make && model && !model.startsWith(make) ? `${make} ${model}` : (model ?? make);
  const focalMm = numberOf(block, exif, TAG.focalLength);
  const stated = numberOf(block, exif, TAG.focal35);
  const perUnit = numberOf(block, exif, TAG.focalPlaneX);
  const unitMm = numberOf(block, exif, TAG.focalPlaneUnit) === 3 ? 10 : 25.4;
  const sensorDiagonal = perUnit ? (Math.hypot(storedWidth, storedHeight) / perUnit) * unitMm : null;
  const derived = focalMm && sensorDiagonal ? (focalMm * Math.hypot(36, 24)) / sensorDiagonal : null;
  const cropped = croppedFrom(numberOf(block, exif, TAG.pixelX), numberOf(block, exif, TAG.pixelY), storedWidth, storedHeight);
  // the stated equivalent belongs to what the camera took; a crop sees a narrower field
  const narrowed = cropped ? Math.hypot(cropped.width, cropped.height) / Math.hypot(storedWidth, storedHeight) : 1;
  const focal35 = stated && stated > 0 ? stated * narrowed : derived;
  return {
    orientation: orientation >= 1 && orientation <= 8 ? orientation : 1,
    camera,
    lens: textOf(exif, TAG.lensModel),
    focal35: focal35 && focal35 > 2 && focal35 < 5000 ? focal35 : null,
    focalMm: focalMm && focalMm > 0 ? focalMm : null,
    takenAt: textOf(exif, TAG.taken),
    croppedFrom: cropped,
    elevation: withinQuarter(numberOf(block, exif, TAG.elevation)),
    ppi: toldPpi(numberOf(block, first, TAG.resolutionX), numberOf(block, first, TAG.resolutionUnit)),
  };
}

/**
 * Pixels an inch from a resolution and its unit (TIFF 6.0, ResolutionUnit: 2 an inch, 3 a centimetre); null for none, or an impossible one.
 */
export function toldPpi(resolution: number | null, unit: number | null): number | null {
  const ppi = unit === 2 ? resolution : unit === 3 && resolution ? resolution * 2.54 : null;
  return ppi !== null && ppi >= 1 && ppi <= 100000 ? ppi : null;
}

const withinQuarter = (deg: number | null): number | null => (deg !== null && Math.abs(deg) <= 90 ? deg : null);

/** Shapes that differ by more than this were cropped; the same shape in fewer pixels is a smaller copy. */
const SAME_SHAPE = 0.01;

function croppedFrom(takenX: number | null, takenY: number | null, width: number, height: number): CameraFacts['croppedFrom'] {
  if (!takenX || !takenY || takenX < width || takenY < height) return null;
  return Math.abs((takenX / takenY) * (height / width) - 1) > SAME_SHAPE ? { width: takenX, height: takenY } : null;
}

/** What an exported file says of itself. */
export interface ExifPatch {
  readonly width: number;
  readonly height: number;
  readonly software: string;
  /** Pixels an inch for printing; null leaves what the source said. */
  readonly ppi: number | null;
  /** Whether the position where the picture was taken goes along. */
  readonly position: boolean;
}

/**
 * The EXIF block of an exported file: everything the source had, with orientation 1, the new pixel dimensions, the resolution where one is
 * asked for, and the software's name.
 * Changed directories are appended at the end, so that all other offsets (maker notes too) stay valid. The thumbnail shows the picture
 * before, so it is let go; it and a position that is not to go along are overwritten with zeros. Without a source block a minimal one is
 * made.
 */
export function patchExif(source: Uint8Array | undefined, patch: ExifPatch): Uint8Array<ArrayBuffer> {
  const base = source && openBlock(source) ? source.slice() : emptyBlock();
  const block = openBlock(base) as Block;
  const { little } = block;
  const first = readDirectory(block, block.firstIfd);
  const exifAt = numberOf(block, first, TAG.exif);
  const allExif = exifAt === null ? [] : readDirectory(block, exifAt);
  // some writers hang the position under the capture data, and under the small picture
  if (!patch.position)
    for (const entries of [first, allExif, readDirectory(block, nextDirectory(block, block.firstIfd))])
      wipeDirectory(block, numberOf(block, entries, TAG.position) ?? 0);
  wipeThumbnail(block);
  const exif = allExif.filter((e) => patch.position || e.tag !== TAG.position);
  const padded = evenBytes(base);
  const short = (value: number): Uint8Array => inlineNumber(value, 3, little);
  const long = (value: number): Uint8Array => inlineNumber(value, 4, little);
  const software = joinBytes([asciiBytes(patch.software), Uint8Array.of(0)]);
  const softwareAt = padded.length;
  const softwarePadded = evenBytes(software);
  const exifNewAt = softwareAt + softwarePadded.length;
  const replaced = (entries: readonly Entry[], changes: readonly WrittenEntry[]): Uint8Array =>
    directoryBytes([...entries.filter((e) => !changes.some((c) => c.tag === e.tag)), ...changes], little);
  const exifNew = replaced(exif, [
    { tag: TAG.pixelX, type: 4, count: 1, inline: long(patch.width) },
    { tag: TAG.pixelY, type: 4, count: 1, inline: long(patch.height) },
  ]);
  const resolution = new Uint8Array(patch.ppi === null ? 0 : 8);
  if (patch.ppi !== null) {
    viewOf(resolution).setUint32(0, Math.round(patch.ppi * 1000), little);
    viewOf(resolution).setUint32(4, 1000, little);
  }
  const resolutionAt = exifNewAt + exifNew.length;
  const firstNewAt = resolutionAt + resolution.length;
  const sizes = first.filter((e) => e.tag === TAG.imageWidth || e.tag === TAG.imageLength);
  const firstNew = replaced(
    first.filter((e) => patch.position || e.tag !== TAG.position),
    [
      { tag: TAG.orientation, type: 3, count: 1, inline: short(1) },
      {
        tag: TAG.software,
        type: 2,
        count: software.length,
        inline: software.length <= 4 ? joinBytes([software, new Uint8Array(4)]).slice(0, 4) : long(softwareAt),
      },
      { tag: TAG.exif, type: 4, count: 1, inline: long(exifNewAt) },
      ...(patch.ppi === null
        ? []
        : [
            { tag: TAG.resolutionX, type: 5, count: 1, inline: long(resolutionAt) },
            { tag: TAG.resolutionY, type: 5, count: 1, inline: long(resolutionAt) },
            { tag: TAG.resolutionUnit, type: 3, count: 1, inline: short(2) },
          ]),
      ...sizes.map((e) => ({ tag: e.tag, type: 4, count: 1, inline: long(e.tag === TAG.imageWidth ? patch.width : patch.height) })),
    ],
  );
  const out = joinBytes([padded, softwarePadded, exifNew, resolution, firstNew]);
  viewOf(out).setUint32(4, firstNewAt, little);
  return out;
}

/** A maker note: mostly for the camera's own use, and often the largest part of a block. */
const MAKER_NOTE = 0x927c;

/**
 * A block that is no larger than there is room for: written anew without what is left of small pictures, then without the maker note, then
 * with nothing but what fits of the rest. The pixel dimensions, orientation and software's name stay in any case.
 */
export function fittedExif(exif: Uint8Array, most: number): Uint8Array {
  if (exif.length <= most) return exif;
  const block = openBlock(exif);
  if (!block) return emptyBlock();
  for (const without of [NO_TAGS, new Set([MAKER_NOTE])]) {
    const tried = captureBlock(block, block.firstIfd, without);
    if (tried.length <= most) return tried;
  }
  const large = new Set<number>([MAKER_NOTE]);
  const all = [
    readDirectory(block, block.firstIfd),
    readDirectory(block, numberOf(block, readDirectory(block, block.firstIfd), TAG.exif) ?? 0),
  ].flat();
  for (const { tag } of all.filter((e) => !POINTERS.has(e.tag)).sort((p, q) => q.value.length - p.value.length)) {
    large.add(tag);
    const tried = captureBlock(block, block.firstIfd, large);
    if (tried.length <= most) return tried;
  }
  return emptyBlock();
}

const NO_TAGS: ReadonlySet<number> = new Set();

/** A block without entries, little end first. */
export const emptyBlock = (): Uint8Array<ArrayBuffer> =>
  joinBytes([asciiBytes('II*\0'), Uint8Array.of(8, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0)]);

/** The same bytes, one more where their number is odd. */
export const evenBytes = (bytes: Uint8Array): Uint8Array => (bytes.length % 2 === 0 ? bytes : joinBytes([bytes, Uint8Array.of(0)]));

/** Overwrites the values of a directory and itself with zeros, in the block's own bytes. */
function wipeDirectory(block: Block, at: number): void {
  const entries = readDirectory(block, at);
  if (entries.length === 0) return;
  for (const entry of entries) entry.value.fill(0);
  block.bytes.fill(0, at, Math.min(block.bytes.length, at + 2 + entries.length * 12));
}

/** Overwrites the embedded small picture and its directory. */
function wipeThumbnail(block: Block): void {
  const at = nextDirectory(block, block.firstIfd);
  const entries = readDirectory(block, at);
  const [from, length] = [numberOf(block, entries, TAG.thumbnailAt), numberOf(block, entries, TAG.thumbnailAt + 1)];
  if (from !== null && length !== null) block.bytes.fill(0, from, Math.min(block.bytes.length, from + length));
  wipeDirectory(block, at);
}

/** Tags of a TIFF file that say how its pixels lie, what travels apart from the block, or small pictures (TIFF 6.0; Adobe's resources). */
const NOT_CAPTURE = new Set([
  ...[254, 255, 256, 257, 258, 259, 262, 263, 264, 265, 266, 273, 277, 278, 279, 280, 281, 284, 288, 289, 290, 291, 292, 293, 301, 317],
  ...[320, 321, 322, 323, 324, 325, 330, 332, 333, 334, 336, 338, 339, 340, 341, 347, 512, 513, 514, 515, 517, 518, 519, 520, 521, 529],
  // IPTC-IIM says where and who, in a form that nobody looks into here
  ...[530, 531, 532, 700, 33723, 34377, 34675, 37724],
]);

/** Capture data are no larger than this, bytes: entries of a damaged file may all claim the same megabytes. */
const MOST_CAPTURE = 16e6;

/** Tags that point to another directory: capture data, position, interoperability. */
const POINTERS = new Set([0x8769, 0x8825, 0xa005]);

/**
 * The capture data of a TIFF file as a block of their own, without its pixels. Values are moved, so a maker note that counts from the
 * file's beginning no longer finds its parts.
 */
export function captureBlock(file: Block, at: number, without: ReadonlySet<number> = NO_TAGS): Uint8Array<ArrayBuffer> {
  const { little } = file;
  const parts: Uint8Array[] = [little ? asciiBytes('II*\0') : asciiBytes('MM\0*'), new Uint8Array(4)];
  let end = 8;
  const put = (bytes: Uint8Array): number => {
    const from = end;
    parts.push(evenBytes(bytes));
    end += bytes.length + (bytes.length % 2);
    return from;
  };
  const directory = (from: number, depth: number): number =>
    put(
      directoryBytes(
        readDirectory(file, from)
          .filter((e) => !without.has(e.tag) && (depth > 0 || !NOT_CAPTURE.has(e.tag)))
          .flatMap((e): WrittenEntry[] => {
            if (POINTERS.has(e.tag)) {
              const to = numberOf(file, [e], e.tag);
              return to === null || depth > 1
                ? []
                : [{ ...e, type: 4, count: 1, inline: inlineNumber(directory(to, depth + 1), 4, little) }];
            }
            if (e.value.length > 4 && end + e.value.length > MOST_CAPTURE) return [];
            return [e.value.length <= 4 ? e : { ...e, inline: inlineNumber(put(e.value), 4, little) }];
          }),
        little,
      ),
    );
  const first = directory(at, 0);
  const out = joinBytes(parts);
  viewOf(out).setUint32(4, first, little);
  return out;
}
