import * as z from 'zod';
import { elementsAt, readXml, textAt, wholeAt } from '../xml';

/** A scanner did not do what it was asked; the message says what happened and what to do. */
export class ScannerError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
    this.name = 'ScannerError';
  }
}

/** How long a short answer may take, and a document may pause, ms; how large they may be, bytes. */
export interface Limits {
  readonly answerMs: number;
  readonly pauseMs: number;
  readonly documentBytes: number;
}
export const LIMITS: Limits = { answerMs: 10_000, pauseMs: 60_000, documentBytes: 800e6 };
const LONGEST_ANSWER = 1e6;

const UNIT_MM = 25.4 / 300;
const length = z.number().min(10).max(2000);

/** What a scanner says that it can do, as far as it is used here. */
export const abilitiesSchema = z.object({
  name: z.string().min(1).max(120),
  widthMm: length,
  heightMm: length,
  resolutions: z.array(z.number().int().min(25).max(9600)).min(1).max(60),
  colours: z.array(z.enum(['colour', 'grey'])).min(1),
});
export type Abilities = z.output<typeof abilitiesSchema>;

/** What is asked of a scan. */
export const wishSchema = z.object({
  ppi: z.number().int().min(25).max(9600),
  colour: z.enum(['colour', 'grey']),
  widthMm: length,
  heightMm: length,
});
export type Wish = z.output<typeof wishSchema>;

const MODES = { colour: 'RGB24', grey: 'Grayscale8' } as const;

/** Speaks to one scanner, at the address that was named when the server was started and at no other. */
export class EsclScanner {
  readonly base: URL;

  /** @param address such as http://127.0.0.1:8080; a path before /eSCL is kept */
  constructor(
    address: string,
    private readonly limits: Limits = LIMITS,
  ) {
    const url = new URL(address);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Error(`A scanner's address begins with http, not ${url.protocol}`);
    this.base = new URL(`${url.pathname.replace(/\/+$/, '')}/eSCL/`, url);
  }

  async abilities(): Promise<Abilities> {
    const said = await this.xml('ScannerCapabilities');
    const caps = elementsAt(said, 'ScannerCapabilities', 'Platen', 'PlatenInputCaps')[0];
    const profile = elementsAt(caps, 'SettingProfiles', 'SettingProfile')[0];
    const modes = elementsAt(profile, 'ColorModes', 'ColorMode');
    const resolutions = elementsAt(profile, 'SupportedResolutions', 'DiscreteResolutions', 'DiscreteResolution').flatMap((r) => {
      const [x, y] = [wholeAt(r, 'XResolution'), wholeAt(r, 'YResolution')];
      return x !== null && x === y ? [x] : [];
    });
    const read = abilitiesSchema.safeParse({
      name: textAt(said, 'ScannerCapabilities', 'MakeAndModel') ?? '',
      widthMm: (wholeAt(caps, 'MaxWidth') ?? 0) * UNIT_MM,
      heightMm: (wholeAt(caps, 'MaxHeight') ?? 0) * UNIT_MM,
      resolutions: [...new Set(resolutions)].sort((a, b) => a - b),
      colours: (['colour', 'grey'] as const).filter((c) => modes.includes(MODES[c])),
    });
    if (read.success) return read.data;
    throw new ScannerError(
      'strange',
      'The scanner says of itself what cannot be understood. Is it one that scans over eSCL, from its glass, to JPEG?',
    );
  }

  /** Why it does not scan now, in a sentence; null where it would. */
  async trouble(): Promise<string | null> {
    const said = await this.xml('ScannerStatus');
    const state = textAt(said, 'ScannerStatus', 'State');
    const reasons = elementsAt(said, 'ScannerStatus', 'StateReasons', 'StateReason').map(String);
    if (reasons.some((r) => /cover|lid/i.test(r))) return 'The scanner’s lid is open. Close it, and scan again.';
    if (reasons.some((r) => /jam/i.test(r))) return 'Paper is jammed in the scanner. Clear it, and scan again.';
    if (state === 'Stopped') return 'The scanner has stopped. Look at its display, and scan again.';
    return state === 'Processing' ? BUSY : null;
  }

  /** Begins a job. @returns its address */
  async begin({ ppi, colour, widthMm, heightMm }: Wish): Promise<URL> {
    const body = `<?xml version="1.0" encoding="UTF-8"?>
<scan:ScanSettings xmlns:pwg="http://www.pwg.org/schemas/2010/12/sm" xmlns:scan="http://schemas.hp.com/imaging/escl/2011/05/03">
<pwg:Version>2.9</pwg:Version><scan:Intent>Photo</scan:Intent>
<pwg:ScanRegions><pwg:ScanRegion><pwg:ContentRegionUnits>escl:ThreeHundredthsOfInches</pwg:ContentRegionUnits><pwg:XOffset>0</pwg:XOffset><pwg:YOffset>0</pwg:YOffset><pwg:Width>${Math.floor(widthMm / UNIT_MM)}</pwg:Width><pwg:Height>${Math.floor(heightMm / UNIT_MM)}</pwg:Height></pwg:ScanRegion></pwg:ScanRegions>
<pwg:InputSource>Platen</pwg:InputSource><scan:ColorMode>${MODES[colour]}</scan:ColorMode>
<pwg:DocumentFormat>image/jpeg</pwg:DocumentFormat><scan:DocumentFormatExt>image/jpeg</scan:DocumentFormatExt>
<scan:XResolution>${ppi}</scan:XResolution><scan:YResolution>${ppi}</scan:YResolution>
</scan:ScanSettings>`;
    const response = await this.ask('ScanJobs', { method: 'POST', headers: { 'Content-Type': 'text/xml' }, body }, this.limits.answerMs);
    await response.body?.cancel();
    if (response.status === 409) throw new ScannerError('busy', BUSY);
    if (response.status === 503)
      throw new ScannerError('not-ready', (await this.trouble()) ?? 'The scanner is warming up. Wait a moment, and scan again.');
    if (response.status !== 201)
      throw new ScannerError(
        'refused',
        `The scanner refused this scan (${response.status}). Choose another resolution or size, and scan again.`,
      );
    return this.jobAt(response.headers.get('Location'));
  }

  /** The address of a job, where it is this scanner's own. */
  private jobAt(location: string | null): URL {
    try {
      const at = new URL(location ?? '', this.base);
      // some scanners call themselves by another name; only the path is theirs to say
      if (at.origin === this.base.origin && at.pathname.startsWith(`${this.base.pathname}ScanJobs/`))
        return new URL(at.pathname.replace(/\/+$/, ''), this.base);
    } catch {
      // said below
    }
    throw new ScannerError(
      'elsewhere',
      'The scanner answered with an address that is not its own. It was not followed; nothing was scanned.',
    );
  }

  /**
   * The page of a job, as it comes; waits while the device gets ready.
   * @throws ScannerError before the first bytes, or from the parts
   */
  async *document(job: URL, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const until = Date.now() + this.limits.pauseMs;
    let response = await this.ask(`${job.href}/NextDocument`, { signal }, this.limits.pauseMs);
    while (response.status === 503 && Date.now() < until) {
      await response.body?.cancel();
      await new Promise((resolve) => setTimeout(resolve, 1000));
      response = await this.ask(`${job.href}/NextDocument`, { signal }, this.limits.pauseMs);
    }
    if (response.status !== 200 || !response.body)
      throw new ScannerError('no-page', `The scanner gave no page (${response.status}). Lay the prints on its glass, and scan again.`);
    const reader = response.body.getReader();
    let received = 0;
    let head: number[] = [];
    let tail: number[] = [];
    try {
      for (;;) {
        const { done, value } = await within(reader.read(), this.limits.pauseMs);
        if (done) break;
        received += value.length;
        if (received > this.limits.documentBytes)
          throw new ScannerError(
            'too-large',
            `The scanner sent more than ${Math.round(this.limits.documentBytes / 1e6)} MB for one page; it was stopped. Choose a lower resolution, and scan again.`,
          );
        if (head.length < 3) head = [...head, ...value.subarray(0, 3)].slice(0, 3);
        if (head.length === 3 && !(head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff))
          throw new ScannerError('rubbish', 'The scanner sent something that is no JPEG. Nothing of it was kept; scan again.');
        tail = [...tail, ...value.subarray(-2)].slice(-2);
        yield value;
      }
    } catch (error) {
      if (error instanceof ScannerError || signal.aborted) throw error;
      throw new ScannerError('broken', 'The line to the scanner broke in the middle of the page. Scan it again.');
    } finally {
      await reader.cancel().catch(() => undefined);
    }
    if (!(tail[0] === 0xff && tail[1] === 0xd9))
      throw new ScannerError('broken', 'The scanner stopped in the middle of the page. Scan it again.');
  }

  /** Ends a job, whatever became of it. */
  async end(job: URL): Promise<void> {
    const response = await this.ask(job.href, { method: 'DELETE' }, this.limits.answerMs).catch(() => null);
    await response?.body?.cancel();
  }

  private async xml(name: string): Promise<Record<string, unknown>> {
    const response = await this.ask(name, {}, this.limits.answerMs);
    if (response.status !== 200) throw new ScannerError('silent', `The scanner does not say what it is (${response.status}).`);
    const parts: Uint8Array[] = [];
    let size = 0;
    for await (const part of (response.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
      size += part.length;
      if (size > LONGEST_ANSWER) throw new ScannerError('strange', 'The scanner’s answer has no end. Switch it off and on again.');
      parts.push(part);
    }
    try {
      return readXml(Buffer.concat(parts).toString('utf8'));
    } catch (error) {
      throw new ScannerError('strange', `The scanner’s answer is not understood: ${(error as Error).message}. Switch it off and on again.`);
    }
  }

  /** Asks the scanner; never follows it anywhere else. The time is for its answer to begin: what comes then has its own. */
  private async ask(path: string, init: RequestInit, ms: number): Promise<globalThis.Response> {
    const [outer, own] = [init.signal ?? null, new AbortController()];
    const late = new DOMException('no answer', 'TimeoutError');
    const timer = setTimeout(() => own.abort(late), ms);
    outer?.addEventListener('abort', () => own.abort(outer.reason));
    try {
      // a connection of its own: one kept open may be closed by the scanner just as the next request goes out on it
      const headers = new Headers(init.headers);
      headers.set('connection', 'close');
      return await fetch(new URL(path, this.base), { ...init, headers, redirect: 'manual', signal: own.signal });
    } catch (error) {
      if (outer?.aborted) throw error;
      if (own.signal.reason === late) throw new ScannerError('silent', 'The scanner does not answer. Is it switched on?');
      throw new ScannerError('unreachable', 'The scanner cannot be reached. Is it switched on, and in the same network?');
    } finally {
      clearTimeout(timer);
    }
  }
}

const BUSY = 'The scanner is busy with another page. Wait until it has finished, and scan again.';

/** What a promise gives, unless it takes longer. */
function within<T>(promise: Promise<T>, ms: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new ScannerError('silent', 'The scanner fell silent in the middle of the page. Scan it again.')), ms);
  });
  return Promise.race([promise, late]).finally(() => clearTimeout(timer));
}
