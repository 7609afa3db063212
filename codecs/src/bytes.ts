import { PlumbError } from '@able-plumb/core';

/** A picture file that cannot be read; the message says what happened, the remedy what to do. */
export class PictureFileError extends PlumbError {
  constructor(code: string, message: string, remedy = '') {
    super(code, message, remedy);
    this.name = 'PictureFileError';
  }
}

/** Joins byte arrays. */
export function joinBytes(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

export const asciiBytes = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0));

/** Whether `bytes` hold `text` (ASCII) at `at`. */
export const hasAscii = (bytes: Uint8Array, at: number, text: string): boolean =>
  bytes.length >= at + text.length && [...text].every((c, i) => bytes[at + i] === c.charCodeAt(0));

export const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/**
 * Runs bytes through a platform stream (zlib compression or its reverse).
 * @param most bytes that may come out
 * @param more what becomes of more than these: they are an error, or nobody wants them
 */
export async function throughStream(
  bytes: Uint8Array,
  stream: CompressionStream | DecompressionStream,
  most = Infinity,
  more: 'throws' | 'is left' = 'throws',
): Promise<Uint8Array<ArrayBuffer>> {
  const writer = stream.writable.getWriter();
  const written = writer.write(bytes as Uint8Array<ArrayBuffer>).then(() => writer.close());
  written.catch(() => undefined);
  const reader = (stream.readable as ReadableStream<Uint8Array<ArrayBuffer>>).getReader();
  const parts: Uint8Array[] = [];
  for (let length = 0; ;) {
    const { done, value } = await reader.read();
    if (done) break;
    length += value.length;
    if (length > most) {
      await reader.cancel().catch(() => undefined);
      if (more === 'is left') return joinBytes([...parts, value]).slice(0, most);
      throw new RangeError(`more than ${most} bytes come out`);
    }
    parts.push(value);
  }
  await written;
  return joinBytes(parts);
}
