import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { providePlatformJpeg } from './jpeg';
import { provideWasm, wasmPath, type WasmName } from './wasm-source';

/** Node reads the compiled codecs from beside the bundle, where they lie there, or from the installed packages. */
export function useNodeCodecs(): void {
  const beside = fileURLToPath(new URL('./codecs', import.meta.url));
  if (existsSync(beside)) {
    provideWasm(async (name) => new WebAssembly.Module(await readFile(join(beside, `${name}.wasm`))));
    return;
  }
  const { resolve } = createRequire(import.meta.url);
  const folder = (name: string): string => join(dirname(resolve(`@jsquash/${name}/package.json`)), 'codec');
  const folderOf = (name: WasmName): string =>
    name === 'lcms' ? dirname(resolve('lcms-wasm')) : folder(['webp', 'avif', 'jxl'].find((kind) => name.startsWith(kind)) ?? 'jpeg');
  provideWasm(async (name) => new WebAssembly.Module(await readFile(join(folderOf(name), wasmPath(name)))));
}

/**
 * JPEGs are decoded by the platform's own library (sharp, which is libjpeg in native code) where it is installed, within three steps of the
 * compiled one. What it does not do, or finds fault with, the compiled one does.
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
  });
}
