import type { Raster } from '@able-plumb/core';
import { encodeJpeg } from './jpeg';
import { exportedMetadata, type Metadata } from './metadata';
import { encodePng } from './png';

/** Picture formats that are written, and how. */
export type ExportFormat =
  { readonly kind: 'jpeg'; readonly quality: number; readonly chroma: '4:4:4' | '4:2:0' } | { readonly kind: 'png'; readonly bits: 8 | 16 };

/** The `Software` tag of exported files. */
export const SOFTWARE = 'Able Plumb';

export const EXPORT_FORMATS = {
  jpeg: { ending: 'jpg', mime: 'image/jpeg', alpha: false, name: 'JPEG' },
  png: { ending: 'png', mime: 'image/png', alpha: true, name: 'PNG' },
} as const;

/**
 * Encodes a rendered picture with the source's metadata: orientation 1, new dimensions, profile as it was.
 * @param ppi pixels an inch for printing; null leaves what the source said
 */
export async function writePicture(
  raster: Raster,
  format: ExportFormat,
  source: Metadata,
  ppi: number | null = null,
): Promise<Uint8Array<ArrayBuffer>> {
  const metadata = exportedMetadata(source, { width: raster.width, height: raster.height, software: SOFTWARE, ppi });
  switch (format.kind) {
    case 'jpeg':
      return encodeJpeg(raster, format, metadata);
    case 'png':
      return encodePng(toBits(raster, format.bits), metadata);
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
