/// <reference lib="webworker" />
import { provideWasm, wasmPath } from '@able-plumb/codecs';

/** In the browser the compiled codecs are files of the application. */
export function useBrowserCodecs(): void {
  provideWasm(async (name) => WebAssembly.compileStreaming(fetch(new URL(`/codecs/${wasmPath(name)}`, self.location.origin))));
}
