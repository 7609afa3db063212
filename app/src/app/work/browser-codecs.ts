/// <reference lib="webworker" />
import { PlumbError } from '@able-plumb/core';
import { providePlatformJpeg, provideWasm, wasmPath } from '@able-plumb/codecs';
import { nativeJpeg } from './native-jpeg';

/** In the browser the compiled codecs are files of the application, and JPEGs mostly its own affair. */
export function useBrowserCodecs(): void {
  provideWasm(async (name) => {
    const answer = await fetch(new URL(`/codecs/${wasmPath(name)}`, self.location.origin)).catch(() => null);
    if (!answer?.ok)
      throw new PlumbError(
        'codec-missing',
        'The part of the application that does this format could not be fetched.',
        'It is kept once it was used: try again when the server can be reached, or use JPEG.',
      );
    return WebAssembly.compileStreaming(answer);
  });
  providePlatformJpeg(nativeJpeg);
}
