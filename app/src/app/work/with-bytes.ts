/**
 * Does something with a file's bytes and gives their memory back at once, as a collector does in its own time only: beside a large picture's
 * pixels there is no room for them. Nothing may hold on to them.
 */
export async function withBytes<T>(file: Blob, work: (bytes: Uint8Array<ArrayBuffer>) => Promise<T>): Promise<T> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  try {
    return await work(bytes);
  } finally {
    giveBack(bytes.buffer);
  }
}

/** Memory that goes to nobody is free; `transfer(0)` and a clone leave it to the collector all the same (Chromium, measured). */
function giveBack(memory: ArrayBuffer): void {
  const { port1, port2 } = new MessageChannel();
  port1.postMessage(null, [memory]);
  port1.close();
  port2.close();
}
