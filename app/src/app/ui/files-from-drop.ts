/** Files of a drop, with those of dropped folders, in name order. */
export async function filesFromDrop(transfer: DataTransfer): Promise<{ name: string; file: File }[]> {
  const entries = Array.from(transfer.items).flatMap((item) => item.webkitGetAsEntry?.() ?? []);
  if (entries.length === 0) return Array.from(transfer.files).map((file) => ({ name: file.name, file }));
  const files = (await Promise.all(entries.map(filesOf))).flat();
  return files.map((file) => ({ name: file.name, file })).sort((a, b) => a.name.localeCompare(b.name));
}

async function filesOf(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const all: FileSystemEntry[] = [];
  // a reader gives its entries in batches, and an empty one at the end
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (batch.length === 0) break;
    all.push(...batch);
  }
  const visible = all.filter((child) => !child.name.startsWith('.'));
  return (await Promise.all(visible.map(filesOf))).flat();
}
