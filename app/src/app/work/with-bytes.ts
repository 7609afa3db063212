/**
 * Does something with a file's bytes and gives their memory back at once, as a collector does in its own time only: beside a large picture's
 * pixels there is no room for them. Nothing may hold on to them.
 */
export async function withBytes<T>(file: Blob, work: (bytes: Uint8Array<ArrayBuffer>) => Promise<T>): Promise<T> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  try {
    return await work(bytes);
  } finally {
    // not every browser can
    (bytes.buffer as { transfer?: (length: number) => ArrayBuffer }).transfer?.(0);
  }
}
