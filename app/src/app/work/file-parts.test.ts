import { describe, expect, it } from 'vitest';
import { FileParts } from './file-parts';

describe('a file that is given away while it is made', () => {
  it('has its parts in their order, whatever was given away before, and what was known last in the first one', async () => {
    const parts = new FileParts(5);
    for (const part of [[1, 2, 3], [4, 5], [6, 7, 8, 9], [10], [11, 12, 13, 14, 15, 16], [17]]) parts.add(new Uint8Array(part));
    const file = parts.file('image/tiff', { at: 1, bytes: new Uint8Array([98, 99]) });
    expect(file.type).toBe('image/tiff');
    const read = [...new Uint8Array(await file.arrayBuffer())];
    expect(read).toEqual([1, 98, 99, ...Array.from({ length: 14 }, (_, i) => i + 4)]);
    expect((await new FileParts().file('image/png', null).arrayBuffer()).byteLength).toBe(0);
  });
});
