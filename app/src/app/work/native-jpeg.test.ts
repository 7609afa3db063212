import { afterEach, describe, expect, it, vi } from 'vitest';
import { nativeJpeg } from './native-jpeg';

afterEach(() => vi.unstubAllGlobals());

describe('JPEGs by the browser', () => {
  it.each([false, true])('leave none of its memory held, whether they decode or not (%s)', async (decodes) => {
    const closed: string[] = [];
    vi.stubGlobal('self', { crossOriginIsolated: false });
    vi.stubGlobal('createImageBitmap', async () => ({ width: 4, height: 2, close: () => closed.push('bitmap') }));
    vi.stubGlobal(
      'VideoFrame',
      class {
        copyTo = async (into: Uint8Array): Promise<void> => {
          if (!decodes) throw new DOMException('', 'EncodingError');
          into.fill(9);
        };
        close = (): void => void closed.push('frame');
      },
    );
    const raster = await nativeJpeg.decode!(new Uint8Array(4));
    expect(raster === null).toBe(!decodes);
    expect(closed).toContain('bitmap');
    expect(closed).toContain('frame');
  });
});
