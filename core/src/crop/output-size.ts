import type { Correction } from '../correction/schema';
import type { Rect, Size } from '../picture/point';
import { PlumbError } from '../picture/failure';

const MM_PER: Readonly<Record<'mm' | 'cm' | 'in', number>> = { mm: 1, cm: 10, in: 25.4 };

/** Largest side and area of an exported picture. */
export const LARGEST_SIDE = 32767;
export const LARGEST_AREA = 300e6;

/** Arithmetic noise of a trim, px: far below what a pixel's centre is from the edge, and above what long thin pictures gather. */
const NOISE_PX = 1e-3;

/** The whole pixels that lie in a length on the plane, px. */
export const wholePx = (side: number): number => Math.floor(side + NOISE_PX);

/**
 * Size of the exported file in whole px. `natural`: one output px for one px of the plane.
 * @param peakEnlargement largest local enlargement inside the crop; used by `no-enlargement`
 * @param mmPerPx millimetres in reality for one plane px, across and down; used by `scale`
 * @throws PlumbError when the plane has no scale, and when the file would be larger than can be written
 */
export function outputSize(
  correction: Correction,
  crop: Rect,
  peakEnlargement: () => number,
  mmPerPx: () => readonly [number, number] | null,
): Size {
  const wanted = sizeFor(correction, crop, peakEnlargement, mmPerPx);
  const size = { width: Math.max(1, wanted.width), height: Math.max(1, wanted.height) };
  if (size.width > LARGEST_SIDE || size.height > LARGEST_SIDE || size.width * size.height > LARGEST_AREA) {
    throw new PlumbError(
      'output-too-large',
      `The result would be ${size.width} x ${size.height} px; 32767 px a side and 300 megapixels are the limit.`,
      'Choose a smaller output size.',
    );
  }
  return size;
}

function sizeFor(correction: Correction, crop: Rect, peakEnlargement: () => number, mmPerPx: () => readonly [number, number] | null): Size {
  const { size } = correction.output;
  const scaled = (s: number): Size => ({ width: Math.round(crop.width * s), height: Math.round(crop.height * s) });
  switch (size.kind) {
    case 'natural':
      return { width: wholePx(crop.width), height: wholePx(crop.height) };
    case 'long-edge':
      return scaled(size.px / Math.max(crop.width, crop.height));
    case 'exact':
      return { width: size.width, height: size.height };
    case 'print': {
      const px = (length: number): number => Math.round((length * MM_PER[size.unit] * size.ppi) / 25.4);
      return { width: px(size.width), height: px(size.height) };
    }
    case 'no-enlargement':
      return scaled(Math.min(1, 1 / peakEnlargement()));
    case 'scale': {
      if (correction.crop.edges === 'fill')
        throw new PlumbError(
          'filled-scale',
          'A file at 1:n is measured on, and what is filled has no size.',
          'Keep the empty edges, or choose another output size.',
        );
      const scale = mmPerPx();
      if (!scale)
        throw new PlumbError(
          'no-scale',
          'The plane has no scale: no panel of this picture has a typed size.',
          'Mark a panel and type its size with a unit, or choose another output size.',
        );
      const px = (length: number, mm: number): number => Math.round((length * mm * size.ppi) / 25.4 / size.oneTo);
      return { width: px(crop.width, scale[0]), height: px(crop.height, scale[1]) };
    }
  }
}

/** Pixels an inch that a file says of itself: what its size was set for; null where it was set in pixels. */
export const outputPpi = ({ output: { size } }: Correction): number | null => ('ppi' in size ? size.ppi : null);
