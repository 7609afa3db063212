/** Memory of a kernel in WebAssembly. */
export interface WasmMemory {
  readonly buffer: ArrayBuffer;
  grow(pages: number): number;
}

/** The platform's WebAssembly, as far as it is used here: the computation knows neither the page's types nor Node's. */
declare const WebAssembly:
  | {
      readonly Module: new (bytes: Uint8Array) => object;
      readonly Memory: new (size: { initial: number }) => WasmMemory;
      readonly Instance: new (module: object, imports: object) => { readonly exports: unknown };
    }
  | undefined;
declare const atob: (text: string) => string;

/** A page of a kernel's memory, bytes. */
export const WASM_PAGE = 65_536;

/**
 * A kernel of this thread with memory of its own; null where WebAssembly with SIMD is missing: an old engine, or one that is forbidden to
 * compile. The plain versions do the work then.
 */
export function startWasm<T>(base64: string, pages: number): { readonly exports: T; readonly memory: WasmMemory } | null {
  try {
    if (typeof WebAssembly === 'undefined') return null;
    const code = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
    const memory = new WebAssembly.Memory({ initial: pages });
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(code), { env: { memory } });
    return { exports: exports as T, memory };
  } catch {
    return null;
  }
}

/** Makes the memory of a kernel reach to `end`, bytes. @throws RangeError where there is no room */
export function growTo(memory: WasmMemory, end: number): void {
  const missing = Math.ceil((end - memory.buffer.byteLength) / WASM_PAGE);
  if (missing > 0) memory.grow(missing);
}
