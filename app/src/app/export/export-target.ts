import { freeName, safeName } from '@able-plumb/core';
import { newZip } from '@able-plumb/codecs';
import { saveFile } from '../ui/save-file';

/** Where exported files go. Nothing that is there is ever overwritten: a name that is taken gets a number. */
export interface ExportTarget {
  /** Keeps a file and returns the name that it got. */
  put(stem: string, ending: string, file: Blob): Promise<string>;
  /** After the last file. */
  finish(): Promise<void>;
}

/** Each file as a download of its own. */
function downloadTarget(): ExportTarget {
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
async function folderTarget(folder: FileSystemDirectoryHandle): Promise<ExportTarget> {
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

/** Files into one zip, which is downloaded at the end. */
async function zipTarget(stem: string): Promise<ExportTarget> {
  const taken = new Set<string>();
  const zip = await newZip();
  return {
    async put(stemOfFile, ending, file) {
      const name = freeName(stemOfFile, ending, taken);
      await zip.add(name, file);
      return name;
    },
    async finish() {
      const whole = await zip.close();
      if (taken.size > 0) saveFile(whole, `${safeName(stem) || 'pictures'}.zip`);
    },
  };
}

/** Whether the browser can write into a folder. */
export const canWriteFolders = (): boolean => 'showDirectoryPicker' in window;

/** Asks for a folder; null when the user changes their mind. */
async function askForFolder(): Promise<FileSystemDirectoryHandle | null> {
  const ask = (window as unknown as { showDirectoryPicker(options: object): Promise<FileSystemDirectoryHandle> }).showDirectoryPicker;
  try {
    return await ask.call(window, { mode: 'readwrite' });
  } catch (error) {
    if ((error as Error).name === 'AbortError') return null;
    throw error;
  }
}

/** Where files of an export go, asked for at the press that begins it: browsers forget a press after a few seconds. */
export type ChosenTarget = (count: number) => Promise<ExportTarget>;

/**
 * Asks at once for what has to be asked; one file is downloaded, several go into a zip or the folder. Null when the user takes it back.
 * @param several whether there may be more than one file: only then a folder is asked for
 */
export async function chooseTarget(several: boolean, to: 'zip' | 'folder', stem: string): Promise<ChosenTarget | null> {
  if (to === 'zip' || !canWriteFolders() || !several) return async (count) => (count === 1 ? downloadTarget() : zipTarget(stem));
  const folder = await askForFolder();
  return folder && ((): Promise<ExportTarget> => folderTarget(folder));
}
