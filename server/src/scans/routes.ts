import { randomUUID } from 'node:crypto';
import express, { type Request, type Response, type Router } from 'express';
import { EsclScanner, LIMITS, ScannerError, wishSchema, type Limits } from './escl';

/** A scan that a page asked for. */
interface Begun {
  readonly scanner: EsclScanner;
  readonly job: URL;
  readonly ended: AbortController;
  state: 'begun' | 'coming' | 'done' | 'failed';
  sentence: string | null;
}

/** Scans that are remembered after they ended. */
const REMEMBERED = 50;
/** A page that asked for a scan and does not come for it, ms. */
const FORGOTTEN_MS = 30_000;

/**
 * What a page may ask of scanners: which there are, what they can do, a scan, its page as it comes, an end. Pages name scanners by their
 * place in the list; addresses are known to the server alone, from its start.
 */
export function scanRoutes(addresses: readonly string[], limits: Limits = LIMITS): Router {
  const scanners = addresses.map((address) => new EsclScanner(address, limits));
  const scans = new Map<string, Begun>();
  const router = express.Router();
  // pages of other sites have nothing to scan here
  router.use((request, response, next) => {
    const { origin, host } = request.headers;
    if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
      return void response.status(403).json({ sentence: 'Only this application’s own page may scan.' });
    next();
  });
  const at = (request: Request): EsclScanner => {
    const scanner = /^\d{1,3}$/.test(String(request.params['scanner'])) ? scanners[Number(request.params['scanner'])] : undefined;
    if (!scanner) throw new ScannerError('unknown', 'There is no such scanner. Scanners are named when the server is started.');
    return scanner;
  };

  router.get('/scanners', (_request, response) =>
    answered(response, async () =>
      Promise.all(
        scanners.map(async (scanner, id) => {
          try {
            return { id, abilities: await scanner.abilities(), trouble: null };
          } catch (error) {
            return { id, abilities: null, trouble: sentenceOf(error) };
          }
        }),
      ),
    ),
  );

  router.post('/scanners/:scanner/scans', express.json({ limit: '4kb' }), (request, response) =>
    answered(response, async () => {
      const scanner = at(request);
      const wish = wishSchema.safeParse(request.body);
      if (!wish.success) throw new ScannerError('wish', 'This scan is asked for in a way that is not understood. Load the page again.');
      const { resolutions, colours, widthMm, heightMm } = await scanner.abilities();
      const { ppi, colour, widthMm: w, heightMm: h } = wish.data;
      if (!resolutions.includes(ppi) || !colours.includes(colour) || w > widthMm + 0.5 || h > heightMm + 0.5)
        throw new ScannerError('wish', 'The scanner cannot scan that. Choose another resolution, colour or size.');
      const trouble = await scanner.trouble();
      if (trouble !== null) throw new ScannerError('not-ready', trouble);
      const begun: Begun = { scanner, job: await scanner.begin(wish.data), ended: new AbortController(), state: 'begun', sentence: null };
      const scan = randomUUID();
      scans.set(scan, begun);
      for (const [id, { state }] of scans) if (scans.size > REMEMBERED && state !== 'begun' && state !== 'coming') scans.delete(id);
      // a page that was reloaded in between comes no more: the scanner is for others again
      setTimeout(() => begun.state === 'begun' && void fail(begun, 'Nobody came for this scan.'), FORGOTTEN_MS).unref();
      return { scan };
    }),
  );

  router.get('/scans/:scan', (request, response) => {
    const begun = scans.get(request.params.scan);
    if (!begun) return void response.status(404).json({ sentence: 'This scan is not known any more.' });
    response.json({ state: begun.state, sentence: begun.sentence });
  });

  router.get('/scans/:scan/document', (request, response) => {
    const begun = scans.get(request.params.scan);
    if (begun?.state !== 'begun') return void response.status(404).json({ sentence: 'This scan is not known any more.' });
    void bring(begun, response);
  });

  router.delete('/scans/:scan', (request, response) => {
    const begun = scans.get(request.params.scan);
    if (begun && (begun.state === 'begun' || begun.state === 'coming')) void fail(begun, 'The scan was cancelled.');
    response.status(204).end();
  });
  return router;
}

/** Hands a page on as it comes; the scanner waits where the page does not keep up. */
async function bring(begun: Begun, response: Response): Promise<void> {
  begun.state = 'coming';
  response.on('close', () => {
    if (begun.state === 'coming') void fail(begun, 'The page was left before its scan had come.');
  });
  try {
    for await (const part of begun.scanner.document(begun.job, begun.ended.signal)) {
      if (response.destroyed) return;
      if (!response.headersSent) response.status(200).set({ 'Content-Type': 'image/jpeg', 'Cache-Control': 'no-store' });
      if (!response.write(part))
        await new Promise<void>((resolve) => {
          const go = (): void => {
            response.off('drain', go).off('close', go);
            resolve();
          };
          response.once('drain', go).once('close', go);
        });
    }
    begun.state = 'done';
    response.end();
  } catch (error) {
    if (begun.state === 'coming') await fail(begun, sentenceOf(error));
    // what has begun cannot become an answer: it breaks, and the page asks why
    if (response.headersSent) response.destroy();
    else response.status(502).json({ sentence: begun.sentence });
  }
}

async function fail(begun: Begun, sentence: string): Promise<void> {
  begun.state = 'failed';
  begun.sentence = sentence;
  begun.ended.abort();
  await begun.scanner.end(begun.job);
}

const sentenceOf = (error: unknown): string =>
  error instanceof ScannerError ? error.message : 'The scanner cannot be used: something unexpected happened. Scan again.';

async function answered(response: Response, answer: () => Promise<unknown>): Promise<void> {
  try {
    response.set('Cache-Control', 'no-store').json(await answer());
  } catch (error) {
    response.status(error instanceof ScannerError ? 409 : 500).json({ sentence: sentenceOf(error) });
  }
}
