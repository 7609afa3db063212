import { Zip, ZipPassThrough } from 'fflate';
import { freeName } from '@able-plumb/core';
import { saveFile } from '../ui/save-file';

/** Where exported files go. Nothing that is there is ever overwritten: a name that is taken gets a number. */
export interface ExportTarget {
  /** Keeps a file and returns the name that it got. */
  put(stem: string, ending: string, file: Blob): Promise<string>;
  /** After the last file. */
  finish(): Promise<void>;
}

/** Each file as a download of its own. */
export function downloadTarget(): ExportTarget {
  return {
    async put(stem, ending, file) {
      const name = `${stem}.${ending}`;
      saveFile(file, name);
      return name;
    },
    finish: async () => undefined,
  };
}

/** Files into a folder of the user's; each appears under its name only when complete. */
export async function folderTarget(folder: FileSystemDirectoryHandle): Promise<ExportTarget> {
  const taken = new Set<string>();
  // the names in it: the standard library's types do not know them yet
  const names = (folder as unknown as { keys(): AsyncIterable<string> }).keys();
  for await (const name of names) taken.add(name.toLowerCase());
  return {
    async put(stem, ending, file) {
      const name = freeName(stem, ending, taken);
      const writable = await (await folder.getFileHandle(name, { create: true })).createWritable();
      try {
        await writable.write(file);
        await writable.close();
      } catch (error) {
        await writable.abort().catch(() => undefined);
        await folder.removeEntry(name).catch(() => undefined);
        throw error;
      }
      return name;
    },
    finish: async () => undefined,
  };
}

/** A zip without zip64 ends here; what is more goes into another one, bytes. */
const LARGEST_ZIP = 3.9e9;

/** Files into one zip, which is downloaded at the end; pictures are packed already and are stored as they are. */
export function zipTarget(stem: string): ExportTarget {
  const taken = new Set<string>();
  let parts: Blob[] = [];
  let chunks: Uint8Array[] = [];
  let length = 0;
  let count = 0;
  let done = Promise.resolve();
  let failed: Error | null = null;
  const open = (): Zip =>
    new Zip((error, chunk) => {
      if (error) failed = error;
      else chunks.push(chunk);
    });
  let zip = open();
  /** What has come out leaves the script's memory: the browser may keep it on disk. */
  const settle = (): void => {
    parts = [...parts, new Blob(chunks as BlobPart[])];
    chunks = [];
  };
  const close = (last: boolean): void => {
    zip.end();
    settle();
    count += 1;
    saveFile(new Blob(parts, { type: 'application/zip' }), count === 1 && last ? `${stem}.zip` : `${stem}-${count}.zip`);
    parts = [];
    length = 0;
  };
  return {
    put(stemOfFile, ending, file) {
      const name = freeName(stemOfFile, ending, taken);
      done = done.then(async () => {
        if (length > 0 && length + file.size > LARGEST_ZIP) {
          close(false);
          zip = open();
        }
        const entry = new ZipPassThrough(name);
        zip.add(entry);
        entry.push(new Uint8Array(await file.arrayBuffer()), true);
        if (failed) throw failed;
        length += file.size;
        settle();
      });
      return done.then(() => name);
    },
    async finish() {
      await done;
      if (length > 0) close(true);
    },
  };
}

/** Whether the browser can write into a folder. */
export const canWriteFolders = (): boolean => 'showDirectoryPicker' in window;

/** Asks for a folder; null when the user changes their mind. */
export async function askForFolder(): Promise<FileSystemDirectoryHandle | null> {
  const ask = (window as unknown as { showDirectoryPicker(options: object): Promise<FileSystemDirectoryHandle> }).showDirectoryPicker;
  try {
    return await ask.call(window, { mode: 'readwrite' });
  } catch (error) {
    if ((error as Error).name === 'AbortError') return null;
    throw error;
  }
}
