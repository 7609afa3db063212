import { randomUUID } from 'node:crypto';
import type { Server } from 'node:http';
import express, { type Express, type Response } from 'express';
import { readXml, textAt, wholeAt } from '../xml';
import { Bed, type ScannedPage } from './bed';
import { capabilities, imageInfo, status, UNIT_MM, type Abilities, type ListedJob } from './documents';

/** What the stand-in is made of, and how it behaves. */
export interface ScannerSettings {
  /** The folder of the demo job's pictures. */
  readonly pictures: string;
  /** How long a page takes, seconds; a slow scanner's by default. */
  readonly seconds?: number;
  /** The first heap's seed; every page is another heap. */
  readonly seed?: number;
  /** How many prints are laid on the glass. */
  readonly prints?: number;
  /** How long a page is kept for whoever asked for it and does not come, seconds. */
  readonly patience?: number;
}

/** What can be asked to go wrong with the next page. */
export const FAULTS = ['none', 'lid-open', 'busy', 'jam', 'breaks', 'rubbish', 'endless', 'silent', 'elsewhere', 'redirects'] as const;
export type Fault = (typeof FAULTS)[number];

const ABILITIES: Omit<Abilities, 'uuid'> = {
  name: 'Tarnbeck flatbed (stand-in)',
  widthMm: 297,
  heightMm: 216,
  resolutions: [75, 150, 200, 300, 600],
};
const DEFAULT_SECONDS = 7;
/** A page is kept for so many times as long as one takes, and for some seconds at least, unless something else is said. */
const PATIENCE_PAGES = 9;
const LEAST_PATIENCE = 12;
/** Parts in which a page comes. */
const PARTS = 40;
/** Jobs that are remembered after they ended. */
const REMEMBERED = 20;

interface Job {
  readonly uuid: string;
  readonly path: string;
  readonly began: number;
  readonly page: Promise<ScannedPage>;
  readonly channels: 1 | 3;
  readonly fault: Fault;
  state: ListedJob['state'];
  reason: string;
  sent: boolean;
}

/**
 * A small network scanner that answers as real ones do (eSCL 2.9, from memory): it scans heaps of the demo job's prints. Beside the
 * protocol's own paths it has three for whoever tries it: what is to go wrong next, the last page again, and where its prints truly lie.
 */
export class StandInScanner {
  private readonly jobs = new Map<string, Job>();
  private readonly bed: Bed;
  private readonly abilities: Abilities = { ...ABILITIES, uuid: randomUUID() };
  private readonly milliseconds: number;
  private seed: number;
  private fault: Fault = 'none';

  constructor(private readonly settings: ScannerSettings) {
    this.bed = new Bed(settings.pictures);
    this.milliseconds = 1000 * (settings.seconds ?? DEFAULT_SECONDS);
    this.seed = settings.seed ?? 1;
  }

  app(): Express {
    const app = express();
    app.disable('x-powered-by');
    app.use(express.text({ type: ['text/xml', 'application/xml'], limit: '100kb' }));
    app.get('/eSCL/ScannerCapabilities', (_request, response) => xml(response, 200, capabilities(this.abilities)));
    app.get('/eSCL/ScannerStatus', (_request, response) => xml(response, 200, this.status()));
    app.post('/eSCL/ScanJobs', (request, response) =>
      this.begin(typeof request.body === 'string' ? request.body : '', request.headers.host ?? '', response),
    );
    app.get('/eSCL/ScanJobs/:uuid/NextDocument', (request, response) => void this.next(this.jobs.get(request.params.uuid), response));
    app.get('/eSCL/ScanJobs/:uuid/ScanImageInfo', (request, response) => void this.info(this.jobs.get(request.params.uuid), response));
    app.delete('/eSCL/ScanJobs/:uuid', (request, response) => this.cancel(this.jobs.get(request.params.uuid), response));
    app.post('/stand-in/fault/:fault', (request, response) => {
      const fault = FAULTS.find((f) => f === request.params.fault);
      if (!fault) return response.status(404).end();
      this.fault = fault;
      return response.status(204).end();
    });
    app.get('/stand-in/page', (_request, response) => {
      const last = [...this.jobs.values()].at(-1);
      if (!last) return response.status(404).end();
      return last.page.then(({ jpeg }) => response.type('image/jpeg').send(Buffer.from(jpeg)));
    });
    app.get('/stand-in/truth', (_request, response) => {
      const last = [...this.jobs.values()].at(-1);
      if (!last) return response.status(404).end();
      return last.page.then(({ width, height, truth }) => response.json({ width, height, prints: truth }));
    });
    return app;
  }

  private get busy(): boolean {
    return [...this.jobs.values()].some((job) => job.state === 'Processing');
  }

  private status(): string {
    const now = Date.now();
    const jobs = [...this.jobs.values()].reverse().map((job) => ({
      path: job.path,
      uuid: job.uuid,
      state: job.state,
      reason: job.reason,
      ageSeconds: (now - job.began) / 1000,
      completed: job.state === 'Completed' ? 1 : 0,
    }));
    if (this.fault === 'lid-open') return status('Stopped', 'CoverOpen', jobs);
    if (this.fault === 'jam') return status('Stopped', 'MediaJam', jobs);
    return status(this.busy || this.fault === 'busy' ? 'Processing' : 'Idle', null, jobs);
  }

  private begin(text: string, host: string, response: Response): void {
    if (this.fault === 'busy' || this.busy) return void response.status(409).end();
    if (this.fault === 'lid-open' || this.fault === 'jam') return void response.status(503).set('Retry-After', '5').end();
    const asked = settingsOf(text, this.abilities);
    if (!asked) return void response.status(400).end();
    const uuid = randomUUID();
    const path = `/eSCL/ScanJobs/${uuid}`;
    const page = this.bed.scan({ ...asked, seed: this.seed, prints: this.settings.prints ?? 5 });
    page.catch(() => undefined);
    this.seed += 1;
    const job: Job = {
      uuid,
      path,
      began: Date.now(),
      page,
      channels: asked.grey ? 1 : 3,
      fault: this.fault,
      state: 'Processing',
      reason: 'JobScanning',
      sent: false,
    };
    this.fault = 'none';
    this.jobs.set(uuid, job);
    setTimeout(
      () => {
        if (job.state !== 'Processing' || job.sent) return;
        job.state = 'Aborted';
        job.reason = 'JobTimedOut';
      },
      1000 * (this.settings.patience ?? Math.max(LEAST_PATIENCE, (PATIENCE_PAGES * this.milliseconds) / 1000)),
    ).unref();
    for (const [old, { state }] of this.jobs) if (this.jobs.size > REMEMBERED && state !== 'Processing') this.jobs.delete(old);
    const at = job.fault === 'elsewhere' ? 'http://192.0.2.7:8080' : `http://${host}`;
    response.status(201).set('Location', `${at}${path}`).end();
  }

  private async next(job: Job | undefined, response: Response): Promise<void> {
    if (!job || job.state !== 'Processing' || job.sent) return void response.status(404).end();
    if (job.fault === 'silent') return;
    if (job.fault === 'redirects') return void response.redirect(302, 'http://192.0.2.7:8080/eSCL/elsewhere.jpg');
    job.sent = true;
    const ended = (state: Job['state'], reason: string): void => {
      if (job.state !== 'Processing') return;
      job.state = state;
      job.reason = reason;
    };
    response.on('close', () => ended('Aborted', 'JobCanceledAtDevice'));
    try {
      const { jpeg } = await job.page;
      response.status(200).set('Content-Type', 'image/jpeg');
      const parts = job.fault === 'breaks' ? PARTS / 2 : PARTS;
      for (let i = 0; i < parts && job.state === 'Processing'; i += 1) {
        await this.wait(this.milliseconds / PARTS);
        const part = jpeg.subarray((i * jpeg.length) / PARTS, ((i + 1) * jpeg.length) / PARTS);
        await written(response, job.fault === 'rubbish' ? part.map((b) => (b * 31 + 7) & 255) : part);
      }
      // a device that does not stop: far more than any page has
      const much = new Uint8Array(4e6);
      while (job.fault === 'endless' && job.state === 'Processing' && !response.destroyed) await written(response, much);
      if (job.fault === 'breaks' || job.state !== 'Processing') {
        response.destroy();
        return ended('Aborted', 'AbortedBySystem');
      }
      ended('Completed', 'JobCompletedSuccessfully');
      response.end();
    } catch {
      ended('Aborted', 'AbortedBySystem');
      response.destroy();
    }
  }

  private wait(ms: number): Promise<void> {
    return new Promise((resolve) => setTimeout(resolve, ms));
  }

  private async info(job: Job | undefined, response: Response): Promise<void> {
    if (!job) return void response.status(404).end();
    const { width, height } = await job.page;
    xml(response, 200, imageInfo(job.path, job.uuid, width, height, job.channels));
  }

  private cancel(job: Job | undefined, response: Response): void {
    if (!job) return void response.status(404).end();
    if (job.state === 'Processing') {
      job.state = 'Canceled';
      job.reason = 'JobCanceledByUser';
    }
    response.status(200).end();
  }
}

const xml = (response: Response, code: number, text: string): void => void response.status(code).type('text/xml').send(text);

/** Writes a part, and waits where the other side does not keep up; at its end where it is gone. */
const written = (response: Response, part: Uint8Array): Promise<void> =>
  new Promise((resolve) => {
    if (response.destroyed || response.write(part)) return resolve();
    const go = (): void => {
      response.off('drain', go).off('close', go);
      resolve();
    };
    response.once('drain', go).once('close', go);
  });

/** What a job asks for; null where the device cannot do it. */
function settingsOf(
  text: string,
  { widthMm, heightMm, resolutions }: Abilities,
): { ppi: number; grey: boolean; widthMm: number; heightMm: number } | null {
  try {
    const asked = readXml(text)['ScanSettings'];
    const ppi = wholeAt(asked, 'XResolution');
    const colour = textAt(asked, 'ColorMode');
    const region = ['ScanRegions', 'ScanRegion'] as const;
    const [width, height] = [wholeAt(asked, ...region, 'Width'), wholeAt(asked, ...region, 'Height')];
    if (ppi === null || !resolutions.includes(ppi) || ppi !== wholeAt(asked, 'YResolution')) return null;
    if (colour !== 'RGB24' && colour !== 'Grayscale8') return null;
    if (textAt(asked, ...region, 'ContentRegionUnits') !== 'escl:ThreeHundredthsOfInches') return null;
    const [w, h] = [(width ?? 0) * UNIT_MM, (height ?? 0) * UNIT_MM];
    if (w < 20 || h < 20 || w > widthMm + 0.1 || h > heightMm + 0.1) return null;
    return { ppi, grey: colour === 'Grayscale8', widthMm: w, heightMm: h };
  } catch {
    return null;
  }
}

/** Starts a stand-in on loopback; port 0 takes a free one. */
export function startScanner(settings: ScannerSettings, port = 0): Promise<{ readonly server: Server; readonly address: string }> {
  return new Promise((resolve, reject) => {
    const server = new StandInScanner(settings).app().listen(port, '127.0.0.1');
    server.once('error', reject);
    server.once('listening', () => {
      const at = server.address();
      resolve({ server, address: `http://127.0.0.1:${typeof at === 'object' && at ? at.port : port}` });
    });
  });
}
