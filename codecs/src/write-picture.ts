import type { ExportFormat, KeptMetadata, Raster } from '@able-plumb/core';
import { encodeJpeg } from './jpeg';
import { exportedMetadata, type Metadata } from './metadata';
import { encodePng } from './png';
import { encodeTiff } from './tiff';
import { encodeWebp } from './webp';

/** The `Software` tag of exported files. */
export const SOFTWARE = 'Able Plumb';

export const EXPORT_FORMATS = {
  jpeg: { ending: 'jpg', mime: 'image/jpeg', alpha: false, name: 'JPEG' },
  png: { ending: 'png', mime: 'image/png', alpha: true, name: 'PNG' },
  tiff: { ending: 'tif', mime: 'image/tiff', alpha: true, name: 'TIFF' },
  webp: { ending: 'webp', mime: 'image/webp', alpha: true, name: 'WebP' },
} as const;

/** What goes into an exported file besides its pixels. */
export interface FileNotes {
  readonly metadata: Metadata;
  readonly kept: KeptMetadata;
  /** Pixels an inch for printing; null leaves what the source said. */
  readonly ppi: number | null;
}

/** Encodes a rendered picture with the source's metadata: orientation 1, new dimensions, profile as it was. */
export async function writePicture(raster: Raster, format: ExportFormat, notes: Partial<FileNotes> = {}): Promise<Uint8Array<ArrayBuffer>> {
  const { metadata: source = {}, kept = 'all', ppi = null } = notes;
  const metadata = exportedMetadata(source, kept, { width: raster.width, height: raster.height, software: SOFTWARE, ppi });
  switch (format.kind) {
    case 'jpeg':
      return encodeJpeg(raster, format, metadata);
    case 'png':
      return encodePng(toBits(raster, format.bits), metadata);
    case 'tiff':
      return encodeTiff(toBits(raster, format.bits), format, metadata);
    case 'webp':
      return encodeWebp(raster, format, metadata);
  }
}

/** The raster at another depth: 255 and 65535 mean the same. */
export function toBits(raster: Raster, bits: 8 | 16): Raster {
  const { data } = raster;
  if (data instanceof Uint16Array) {
    if (bits === 16) return raster;
    const out = new Uint8Array(data.length);
    for (let k = 0; k < data.length; k += 1) out[k] = Math.round((data[k] as number) / 257);
    return { ...raster, data: out };
  }
  if (bits === 8) return raster;
  const out = new Uint16Array(data.length);
  for (let k = 0; k < data.length; k += 1) out[k] = (data[k] as number) * 257;
  return { ...raster, data: out };
}
