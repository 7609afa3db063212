import type * as Zip from '@zip.js/zip.js';

/** The package for zips, fetched by the first who needs it. */
export async function zipPackage(): Promise<typeof Zip> {
  const zip = await import('@zip.js/zip.js');
  // its own workers would be made of text, which the application's rules forbid; what goes in is packed already
  zip.configure({ useWebWorkers: false });
  return zip;
}

/** A zip that is being filled. */
export interface NewZip {
  /** Adds a file as it is. */
  add(path: string, file: Blob): Promise<void>;
  close(): Promise<Blob>;
}

/** An empty zip whose files are stored as they are; of any size. */
export async function newZip(): Promise<NewZip> {
  const { BlobReader, BlobWriter, ZipWriter } = await zipPackage();
  const zip = new ZipWriter(new BlobWriter('application/zip'));
  return {
    add: async (path, file) => void (await zip.add(path, new BlobReader(file), { level: 0 })),
    close: () => zip.close(),
  };
}
