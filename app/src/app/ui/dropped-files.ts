import { PlumbError } from '@able-plumb/core';
import type { FileWithPath } from 'file-selector';

/** A file that was opened, with the folder it came from where that is known. */
export interface OpenedFile {
  readonly name: string;
  readonly file: File;
  readonly folder: string | null;
}

/** Picked files. */
export const openedFiles = (files: readonly File[]): OpenedFile[] =>
  files.map((file) => {
    const parts = ((file as FileWithPath).path ?? file.webkitRelativePath).split('/').filter((part) => part !== '' && part !== '.');
    return { name: file.name, file, folder: parts.length > 1 ? (parts[0] as string) : null };
  });

/**
 * Files of a drop, with those of dropped folders, in name order; hidden ones stay out.
 * @throws PlumbError where they cannot be read
 */
export async function droppedFiles(event: DragEvent): Promise<OpenedFile[]> {
  const held = heldDrop(event);
  const dropped = await unpacked(held).catch((error: Error) => {
    throw new PlumbError(
      'drop-unread',
      `What was dropped cannot be read: ${error.message}.`,
      'Nothing was taken in; choose the files with the button instead.',
    );
  });
  const files = dropped.filter((file) => file instanceof File && !file.name.startsWith('.')) as File[];
  return openedFiles(files).sort((a, b) => a.name.localeCompare(b.name));
}

async function unpacked(held: ReturnType<typeof heldDrop>) {
  // a table of all kinds of files comes with it
  const { fromEvent } = await import('file-selector');
  return fromEvent(held as unknown as Event);
}

/** What a drop carries, which is gone when its event is over, as the event tells it. */
function heldDrop({ type, dataTransfer }: DragEvent) {
  const items = Array.from(dataTransfer?.items ?? [], (item) => {
    const [file, entry] = [item.getAsFile(), item.webkitGetAsEntry()];
    return { kind: item.kind, getAsFile: () => file, webkitGetAsEntry: () => entry };
  });
  return { type, dataTransfer: { items } };
}
