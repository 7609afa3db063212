/** The compiled codecs that the platform has to supply: from disk in Node, from the application's own files in the browser. */
export type WasmName =
  'mozjpeg_dec' | 'mozjpeg_enc' | 'webp_dec' | 'webp_enc_simd' | 'avif_dec' | 'avif_enc' | 'jxl_dec' | 'jxl_enc' | 'lcms';

/** A codec's file in its package's folder of codecs, and under the application's own. */
export const wasmPath = (name: WasmName): string =>
  name === 'lcms' ? 'lcms.wasm' : `${name.includes('_dec') ? 'dec' : 'enc'}/${name}.wasm`;

type Loader = (name: WasmName) => Promise<WebAssembly.Module>;

let loader: Loader | null = null;
const loaded = new Map<WasmName, Promise<WebAssembly.Module>>();

/** Says where compiled codecs come from; called once by each platform's entry. */
export function provideWasm(load: Loader): void {
  loader = load;
  loaded.clear();
}

/** A compiled codec. */
export function wasmModule(name: WasmName): Promise<WebAssembly.Module> {
  if (!loader) throw new Error('provideWasm was not called before the first picture');
  const known = loaded.get(name);
  if (known) return known;
  const module = loader(name);
  // one that could not be had is asked for again the next time
  module.catch(() => loaded.delete(name));
  loaded.set(name, module);
  return module;
}
