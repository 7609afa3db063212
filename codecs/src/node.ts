import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { provideWasm, wasmPath } from './wasm-source';

/** Node reads the compiled codecs from the installed packages. */
export function useNodeCodecs(): void {
  const { resolve } = createRequire(import.meta.url);
  const folder = (name: string): string => join(dirname(resolve(`@jsquash/${name}/package.json`)), 'codec');
  const [jpeg, webp] = [folder('jpeg'), folder('webp')];
  provideWasm(async (name) => new WebAssembly.Module(await readFile(join(name.startsWith('webp') ? webp : jpeg, wasmPath(name)))));
}
