import { afterEach, describe, expect, it, vi } from 'vitest';
import { chooseTarget } from './export-target';

afterEach(() => vi.unstubAllGlobals());

/** A folder as browsers hand it out, with what is written into it. */
function folder(names: readonly string[]) {
  const written: Record<string, string> = {};
  return {
    written,
    handle: {
      async *keys() {
        yield* names;
      },
      getFileHandle: async (name: string) => ({
        createWritable: async () => ({
          write: async (file: Blob) => void (written[name] = await file.text()),
          close: async () => undefined,
        }),
      }),
    },
  };
}

describe('where an export goes', () => {
  it('is asked for at the press itself, before anything is planned: browsers forget a press after seconds', async () => {
    const { handle, written } = folder(['Tower.jpg']);
    const ask = vi.fn(async () => handle);
    vi.stubGlobal('window', { showDirectoryPicker: ask });
    const chosen = chooseTarget(true, 'folder', 'Tarnbeck');
    // in the same turn
    expect(ask).toHaveBeenCalledTimes(1);
    const target = await (await chosen)!(2);
    // nothing that is there is written over, in whatever case its name is
    expect(await target.put('tower', 'jpg', new Blob(['new']))).not.toBe('tower.jpg');
    expect(Object.values(written)).toEqual(['new']);
  });

  it('is nowhere when the user changes their mind, and no folder is asked for where one file comes', async () => {
    const ask = vi.fn(async () => {
      throw new DOMException('', 'AbortError');
    });
    vi.stubGlobal('window', { showDirectoryPicker: ask });
    expect(await chooseTarget(true, 'folder', 'Tarnbeck')).toBeNull();
    expect(await chooseTarget(false, 'folder', 'Tarnbeck')).not.toBeNull();
    expect(ask).toHaveBeenCalledTimes(1);
  });
});
