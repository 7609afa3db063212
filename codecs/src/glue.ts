import { wasmModule, type WasmName } from './wasm-source';

/** What surrounds a compiled codec: it makes an instance with the functions that the codec exports. */
export type Glue<T> = (options: {
  readonly noInitialRun: boolean;
  instantiateWasm(imports: WebAssembly.Imports, received: (instance: WebAssembly.Instance) => void): object;
  printErr?(text: string): void;
}) => Promise<T>;

/** A compiled codec, fresh: one that once ran out of memory is not met again, and what it took goes with it. */
export async function startGlue<T>(name: WasmName, glue: Glue<T>): Promise<T> {
  const module = await wasmModule(name);
  return new Promise((resolve, reject) => {
    const started = glue({
      noInitialRun: true,
      instantiateWasm: (imports, received) => {
        // one that finds no memory would never be heard of
        WebAssembly.instantiate(module, imports).then(received, reject);
        return {};
      },
      printErr: () => undefined,
    });
    started.then(resolve, reject);
  });
}
