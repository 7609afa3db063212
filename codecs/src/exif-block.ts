import { asciiBytes, joinBytes, viewOf } from './bytes';

/** One entry of an image file directory: tag, type, count and the raw value bytes in the block's own byte order. */
interface Entry {
  readonly tag: number;
  readonly type: number;
  readonly count: number;
  readonly value: Uint8Array;
  /** Offset of the value field when the value is stored elsewhere; copied entries keep pointing there. */
  readonly inline: Uint8Array;
}

const TYPE_SIZES: Readonly<Record<number, number>> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8 };

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
  focalLength: 0x920a,
  pixelX: 0xa002,
  pixelY: 0xa003,
  focalPlaneX: 0xa20e,
  focalPlaneUnit: 0xa210,
  focal35: 0xa405,
  lensModel: 0xa434,
  taken: 0x9003,
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
}

export const NO_CAMERA_FACTS: CameraFacts = {
  orientation: 1,
  camera: null,
  lens: null,
  focal35: null,
  focalMm: null,
  takenAt: null,
  croppedFrom: null,
};

interface Block {
  readonly view: DataView;
  readonly bytes: Uint8Array;
  readonly little: boolean;
}

/** The block's byte order and its first directory; null when it is no TIFF structure. */
function open(bytes: Uint8Array): (Block & { firstIfd: number }) | null {
  if (bytes.length < 8) return null;
  const little = bytes[0] === 0x49 && bytes[1] === 0x49;
  if (!little && !(bytes[0] === 0x4d && bytes[1] === 0x4d)) return null;
  const view = viewOf(bytes);
  if (view.getUint16(2, little) !== 42) return null;
  return { view, bytes, little, firstIfd: view.getUint32(4, little) };
}

function readDirectory({ view, bytes, little }: Block, at: number): Entry[] {
  if (at < 8 || at + 2 > bytes.length) return [];
  const count = view.getUint16(at, little);
  const entries: Entry[] = [];
  for (let i = 0; i < count; i += 1) {
    const p = at + 2 + i * 12;
    if (p + 12 > bytes.length) break;
    const [type, n] = [view.getUint16(p + 2, little), view.getUint32(p + 4, little)];
    const size = (TYPE_SIZES[type] ?? 1) * n;
    const from = size <= 4 ? p + 8 : view.getUint32(p + 8, little);
    if (from + size > bytes.length) continue;
    entries.push({
      tag: view.getUint16(p, little),
      type,
      count: n,
      value: bytes.subarray(from, from + size),
      inline: bytes.slice(p + 8, p + 12),
    });
  }
  return entries;
}

function numberOf(block: Block, entries: readonly Entry[], tag: number): number | null {
  const entry = entries.find((e) => e.tag === tag);
  if (!entry || entry.count < 1) return null;
  const view = viewOf(entry.value);
  switch (entry.type) {
    case 3:
      return view.getUint16(0, block.little);
    case 4:
      return view.getUint32(0, block.little);
    case 5: {
      const denominator = view.getUint32(4, block.little);
      return denominator === 0 ? null : view.getUint32(0, block.little) / denominator;
    }
    default:
      return null;
  }
}

function textOf(entries: readonly Entry[], tag: number): string | null {
  const entry = entries.find((e) => e.tag === tag && e.type === 2);
  if (!entry) return null;
  const text = new TextDecoder('utf-8').decode(entry.value).replace(/\0+$/, '').trim();
  return text === '' ? null : text;
}

/**
 * Reads what matters from an EXIF block (a TIFF structure without the "Exif" prefix). Damaged or missing parts read as null.
 * The 35 mm equivalent comes from FocalLengthIn35mmFilm, else from FocalLength and the focal-plane resolution by the diagonal.
 */
export function readCameraFacts(bytes: Uint8Array | undefined, storedWidth: number, storedHeight: number): CameraFacts {
  const block = bytes && open(bytes);
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
  };
}

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
}

/**
 * The EXIF block of an exported file: everything the source had, with orientation 1, the new pixel dimensions, the resolution where one is
 * asked for, and the software's name.
 * Changed directories are appended at the end, so that all other offsets (maker notes too) stay valid; the thumbnail directory is let go,
 * as it shows the picture before. Without a source block a minimal one is made.
 */
export function patchExif(source: Uint8Array | undefined, patch: ExifPatch): Uint8Array<ArrayBuffer> {
  const base = source && open(source) ? source : joinBytes([asciiBytes('II*\0'), Uint8Array.of(8, 0, 0, 0, 0, 0, 0, 0, 0, 0)]);
  const block = open(base) as Block & { firstIfd: number };
  const { little } = block;
  const padded = base.length % 2 === 0 ? base : joinBytes([base, Uint8Array.of(0)]);
  const first = readDirectory(block, block.firstIfd);
  const exifAt = numberOf(block, first, TAG.exif);
  const exif = exifAt === null ? [] : readDirectory(block, exifAt);
  const short = (value: number): Uint8Array => {
    const out = new Uint8Array(4);
    viewOf(out).setUint16(0, value, little);
    return out;
  };
  const long = (value: number): Uint8Array => {
    const out = new Uint8Array(4);
    viewOf(out).setUint32(0, value, little);
    return out;
  };
  const software = joinBytes([asciiBytes(patch.software), Uint8Array.of(0)]);
  const softwareAt = padded.length;
  const softwarePadded = software.length % 2 === 0 ? software : joinBytes([software, Uint8Array.of(0)]);
  const exifNewAt = softwareAt + softwarePadded.length;
  const replaced = (entries: readonly Entry[], changes: readonly Pick<Entry, 'tag' | 'type' | 'count' | 'inline'>[]): Uint8Array => {
    const kept = entries.filter((e) => !changes.some((c) => c.tag === e.tag));
    const all = [...kept, ...changes].sort((p, q) => p.tag - q.tag);
    const out = new Uint8Array(2 + all.length * 12 + 4);
    const view = viewOf(out);
    view.setUint16(0, all.length, little);
    all.forEach((e, i) => {
      const p = 2 + i * 12;
      view.setUint16(p, e.tag, little);
      view.setUint16(p + 2, e.type, little);
      view.setUint32(p + 4, e.count, little);
      out.set(e.inline, p + 8);
    });
    return out;
  };
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
  const firstNew = replaced(first, [
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
  ]);
  const out = joinBytes([padded, softwarePadded, exifNew, resolution, firstNew]);
  viewOf(out).setUint32(4, firstNewAt, little);
  return out;
}
