import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { PlumbError } from '@able-plumb/core';
import { readPictureInfo, type PictureInfo } from '@able-plumb/codecs';

/** Reads a file, with a sentence when it cannot be read. */
export async function readBytes(path: string): Promise<Uint8Array> {
  try {
    return await readFile(path);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    const why =
      code === 'ENOENT'
        ? 'there is no such file'
        : code === 'EISDIR'
          ? 'it is a folder'
          : code === 'EACCES'
            ? 'it may not be read'
            : String(code);
    throw new PlumbError('cannot-read', `${path} cannot be read: ${why}.`);
  }
}

/** Whether two paths lead to one file, through whatever folders and links; false where one of them leads nowhere. */
export async function isSameFile(a: string, b: string): Promise<boolean> {
  const [x, y] = await Promise.all([a, b].map((path) => stat(path).catch(() => null)));
  return x !== null && y !== null && x !== undefined && y !== undefined && x.dev === y.dev && x.ino === y.ino;
}

/** A picture file with its header read. */
export async function readPictureFile(path: string): Promise<{ bytes: Uint8Array; info: PictureInfo; name: string }> {
  const bytes = await readBytes(path);
  const name = basename(path);
  return { bytes, info: await readPictureInfo(bytes, name), name };
}
