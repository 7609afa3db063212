import type { KeptMetadata } from '@able-plumb/core';
import { patchExif, type ExifPatch } from './exif-block';
import { hasAscii, viewOf } from './bytes';
import { withoutPlace, xmpTwin } from './iptc';
import { patchXmp } from './xmp-packet';

/** Metadata blocks as they travel through: EXIF (TIFF structure), XMP packet (UTF-8), ICC profile. */
export interface Metadata {
  readonly exif?: Uint8Array | undefined;
  readonly xmp?: Uint8Array | undefined;
  readonly icc?: Uint8Array | undefined;
  /** IPTC data sets (Information Interchange Model), as JPEG and TIFF hold them. */
  readonly iptc?: Uint8Array | undefined;
  /** Pixels an inch that the container says of itself. */
  readonly ppi?: number | undefined;
}

/**
 * The blocks of an exported file: orientation 1, new dimensions, software named; profile untouched, as the colours mean nothing without
 * it.
 */
export function exportedMetadata(source: Metadata, kept: KeptMetadata, size: Omit<ExifPatch, 'position'>): Metadata {
  const { icc } = source;
  const ppi = size.ppi ?? source.ppi;
  if (kept === 'none') return { icc, ppi };
  const patch: ExifPatch = { ...size, position: kept === 'all' };
  const told = source.iptc && (kept === 'all' ? source.iptc : withoutPlace(source.iptc));
  const iptc = told && told.length > 0 ? told : undefined;
  return {
    exif: patchExif(source.exif, patch),
    // what the data sets say is said in every format
    xmp: source.xmp ? (patchXmp(source.xmp, patch) ?? undefined) : iptc && xmpTwin(iptc),
    icc,
    ppi,
    iptc,
  };
}

/** Whether a profile is one for grey (ICC.1, 7.2.6). */
export const isGreyProfile = (icc: Uint8Array | undefined): boolean => icc !== undefined && hasAscii(icc, 16, 'GRAY');

/** Name of an ICC profile from its description tag (ICC.1, types 'desc' and 'mluc'); null when it has none. */
export function iccName(icc: Uint8Array | undefined): string | null {
  if (!icc || icc.length < 132) return null;
  const view = viewOf(icc);
  const count = view.getUint32(128);
  for (let i = 0; i < count && 132 + i * 12 + 12 <= icc.length; i += 1) {
    const p = 132 + i * 12;
    if (!hasAscii(icc, p, 'desc')) continue;
    const at = view.getUint32(p + 4);
    if (at + 28 > icc.length) return null;
    if (hasAscii(icc, at, 'desc')) {
      const length = view.getUint32(at + 8);
      return new TextDecoder('latin1').decode(icc.subarray(at + 12, at + 12 + length)).replace(/\0.*$/s, '');
    }
    if (hasAscii(icc, at, 'mluc')) {
      const [length, offset] = [view.getUint32(at + 20), view.getUint32(at + 24)];
      return new TextDecoder('utf-16be').decode(icc.subarray(at + offset, at + offset + length)).replace(/\0.*$/s, '');
    }
  }
  return null;
}
