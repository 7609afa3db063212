import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { provideWasm } from './wasm-source';

const FOLDERS = { mozjpeg_dec: 'dec', mozjpeg_enc: 'enc' } as const;

/** Node reads the compiled codecs from the installed package. */
export function useNodeCodecs(): void {
  const root = dirname(createRequire(import.meta.url).resolve('@jsquash/jpeg/package.json'));
  provideWasm(async (name) => new WebAssembly.Module(await readFile(join(root, 'codec', FOLDERS[name], `${name}.wasm`))));
}
