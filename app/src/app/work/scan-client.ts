import { Injectable } from '@angular/core';
import * as z from 'zod';

const abilitiesSchema = z.object({
  name: z.string(),
  widthMm: z.number(),
  heightMm: z.number(),
  resolutions: z.array(z.number()),
  colours: z.array(z.enum(['colour', 'grey'])),
});
const scannersSchema = z.array(z.object({ id: z.number(), abilities: abilitiesSchema.nullable(), trouble: z.string().nullable() }));

/** A scanner that the server knows; what it can do, or why that is not known. */
export type Scanner = z.output<typeof scannersSchema>[number];

/** What is asked of a scan. */
export interface ScanWish {
  readonly ppi: number;
  readonly colour: 'colour' | 'grey';
  readonly widthMm: number;
  readonly heightMm: number;
}

const NO_SERVER = 'The server of this page does not answer. Is it still running? Everything that was scanned before is safe.';

/** Asks the server that this page came from for scans: a page speaks to no device itself. */
@Injectable({ providedIn: 'root' })
export class ScanClient {
  /** @throws Error with a sentence, where there is no server that knows scanners */
  async scanners(): Promise<readonly Scanner[]> {
    const response = await asked('/scans/scanners');
    const read = scannersSchema.safeParse(await response.json().catch(() => null));
    if (!response.ok || !read.success)
      throw new Error('This page comes from a server without scanners. Start it with npm run demo, or open scanned files instead.');
    return read.data;
  }

  /**
   * One page from a scanner.
   * @param onBytes told how much has come
   * @throws Error with a sentence; what has come is dropped. AbortError where it was cancelled: the scanner is told
   */
  async scan(scanner: number, wish: ScanWish, onBytes: (bytes: number) => void, signal: AbortSignal): Promise<Blob> {
    const begun = await asked(`/scans/scanners/${scanner}/scans`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(wish),
      signal,
    });
    const said = (await begun.json().catch(() => null)) as { scan?: unknown; sentence?: unknown } | null;
    if (typeof said?.scan !== 'string') throw new Error(typeof said?.sentence === 'string' ? said.sentence : NO_SERVER);
    const at = `/scans/scans/${said.scan}`;
    const cancel = (): void => void fetch(at, { method: 'DELETE', keepalive: true }).catch(() => undefined);
    signal.addEventListener('abort', cancel);
    try {
      const response = await asked(`${at}/document`, { signal });
      if (!response.ok || !response.body) throw await this.why(at);
      const parts: Uint8Array<ArrayBuffer>[] = [];
      let bytes = 0;
      const reader = response.body.getReader();
      for (;;) {
        const { done, value } = await reader.read().catch(async (error: unknown) => {
          throw signal.aborted ? error : await this.why(at);
        });
        if (done) break;
        parts.push(value);
        bytes += value.length;
        onBytes(bytes);
      }
      return new Blob(parts, { type: 'image/jpeg' });
    } finally {
      signal.removeEventListener('abort', cancel);
    }
  }

  /** Why a scan did not come, as the server says. */
  private async why(at: string): Promise<Error> {
    const said = (await fetch(at)
      .then((response) => response.json())
      .catch(() => null)) as { sentence?: unknown } | null;
    return new Error(typeof said?.sentence === 'string' ? said.sentence : NO_SERVER);
  }
}

async function asked(path: string, init: RequestInit = {}): Promise<Response> {
  try {
    return await fetch(path, init);
  } catch (error) {
    throw init.signal?.aborted ? error : new Error(NO_SERVER);
  }
}
