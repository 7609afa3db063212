import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Raster } from '@able-plumb/core';
import { opaqueRgba } from './image-data';
import { providePlatformJpeg } from './jpeg';
import { provideWasm, wasmPath, type WasmName } from './wasm-source';

/** Node reads the compiled codecs from the installed packages. */
export function useNodeCodecs(): void {
  const { resolve } = createRequire(import.meta.url);
  const folder = (name: string): string => join(dirname(resolve(`@jsquash/${name}/package.json`)), 'codec');
  const folderOf = (name: WasmName): string =>
    name === 'lcms' ? dirname(resolve('lcms-wasm')) : folder(name.startsWith('webp') ? 'webp' : 'jpeg');
  provideWasm(async (name) => new WebAssembly.Module(await readFile(join(folderOf(name), wasmPath(name)))));
}

/**
 * JPEGs by the platform's own library (sharp, which is libjpeg in native code) where it is installed: decoded within three steps of the compiled one;
 * encoded without a second pass over the file, which would make it a tenth smaller and take three times as long. What it does not do, or
 * finds fault with, the compiled codecs do.
 */
export function useNativeJpeg(): void {
  const library = async () => import('sharp').then(({ default: sharp }) => sharp).catch(() => null);
  providePlatformJpeg({
    decode: async (bytes) => {
      const sharp = await library();
      const picture = await sharp?.(bytes, { ignoreIcc: true, limitInputPixels: false, failOn: 'warning' })
        .raw()
        .toBuffer({ resolveWithObject: true })
        .catch(() => null);
      if (!picture || picture.info.channels !== 3) return null;
      const { data, info } = picture;
      return { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data.buffer, data.byteOffset, data.byteLength) };
    },
    encode: async (raster, { quality, chroma }) => {
      const sharp = await library();
      const { width, height } = raster;
      const [samples, channels] = isPlainColour(raster) ? [raster.data, 3 as const] : [opaqueRgba(raster), 4 as const];
      const file = await sharp?.(samples, { raw: { width, height, channels }, limitInputPixels: false })
        .removeAlpha()
        .jpeg({ quality, chromaSubsampling: chroma, optimiseCoding: false })
        .toBuffer()
        .catch(() => null);
      return file ? new Uint8Array(file.buffer, file.byteOffset, file.byteLength) : null;
    },
  });
}

const isPlainColour = ({ channels, data }: Raster): boolean => channels === 3 && data instanceof Uint8Array;
