/// <reference lib="webworker" />
import { providePlatformJpeg, provideWasm, wasmPath } from '@able-plumb/codecs';
import { nativeJpeg } from './native-jpeg';

/** In the browser the compiled codecs are files of the application, and JPEGs mostly its own affair. */
export function useBrowserCodecs(): void {
  provideWasm(async (name) => WebAssembly.compileStreaming(fetch(new URL(`/codecs/${wasmPath(name)}`, self.location.origin))));
  providePlatformJpeg(nativeJpeg);
}
