import { createServer, type Server } from 'node:http';
import { mkdtempSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findPieces, type Point } from '@able-plumb/core';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { listen } from '../index';
import { startScanner, type Fault } from '../scanner/scanner';
import { EsclScanner } from './escl';

const pictures = fileURLToPath(new URL('../../../demo/job', import.meta.url));
const nowhere = mkdtempSync(`${tmpdir()}/plumb-scans-`);
const LIMITS = { answerMs: 1500, pauseMs: 1500, documentBytes: 20e6 };
const WISH = { ppi: 75, colour: 'colour', widthMm: 200, heightMm: 140 };
let device: { server: Server; address: string };
let server: { server: Server; address: string };
const servers: Server[] = [];

beforeAll(async () => {
  useNodeCodecs();
  useNativeJpeg();
  device = await startScanner({ pictures, seconds: 0.4, prints: 2, patience: 2.5 });
  server = await listen({ app: nowhere, demo: nowhere, scanners: [device.address], scanLimits: LIMITS }, 0);
  servers.push(device.server, server.server);
  // a search keeps this process from its connections for longer than servers hold them open by default, 5 s
  for (const one of servers) one.keepAliveTimeout = 60_000;
});
afterAll(() => {
  for (const one of servers) {
    one.closeAllConnections();
    one.close();
  }
});

const fault = (what: Fault): Promise<Response> => fetch(`${device.address}/stand-in/fault/${what}`, { method: 'POST' });
const status = async (): Promise<string> => (await fetch(`${device.address}/eSCL/ScannerStatus`)).text();
const begin = (wish: object = WISH, headers: Record<string, string> = {}): Promise<Response> =>
  fetch(`${server.address}scans/scanners/0/scans`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', ...headers },
    body: JSON.stringify(wish),
  });
const idOf = async (response: Response): Promise<string> => ((await response.json()) as { scan: string }).scan;
const sentence = async (response: Response): Promise<string> => ((await response.json()) as { sentence: string }).sentence;

/** Begins a scan and takes its page; the sentence where there is none. */
async function page(): Promise<Buffer | string> {
  const begun = await begin();
  if (!begun.ok) return sentence(begun);
  const at = `${server.address}scans/scans/${await idOf(begun)}`;
  try {
    const response = await fetch(`${at}/document`);
    return response.ok ? Buffer.from(await response.arrayBuffer()) : await sentence(response);
  } catch {
    return sentence(await fetch(at));
  }
}

async function idle(): Promise<void> {
  for (let i = 0; i < 100 && !(await status()).includes('<pwg:State>Idle'); i += 1) await new Promise((r) => setTimeout(r, 50));
  expect(await status()).toContain('<pwg:State>Idle');
}

describe('the stand-in scanner', () => {
  it('answers another client that knows the protocol alone: what it can do, a job, its page, its end', async () => {
    const text = async (path: string): Promise<string> => (await fetch(`${device.address}/eSCL/${path}`)).text();
    const between = (all: string, name: string): string[] =>
      [...all.matchAll(new RegExp(`<[a-z]+:${name}>([^<]*)<`, 'g'))].map((m) => m[1] as string);
    const caps = await text('ScannerCapabilities');
    expect(between(caps, 'ColorMode')).toEqual(['RGB24', 'Grayscale8']);
    expect(between(caps, 'XResolution')).toContain('300');
    const [width] = between(caps, 'MaxWidth');
    expect(Number(width)).toBe(Math.floor((297 / 25.4) * 300));
    const settings = (extra: string): string =>
      `<?xml version="1.0"?><s:ScanSettings xmlns:s="http://schemas.hp.com/imaging/escl/2011/05/03" xmlns:p="http://www.pwg.org/schemas/2010/12/sm"><p:Version>2.0</p:Version><p:ScanRegions><p:ScanRegion><p:Height>1200</p:Height><p:Width>1800</p:Width><p:XOffset>0</p:XOffset><p:YOffset>0</p:YOffset><p:ContentRegionUnits>escl:ThreeHundredthsOfInches</p:ContentRegionUnits></p:ScanRegion></p:ScanRegions>${extra}</s:ScanSettings>`;
    const post = (body: string): Promise<Response> =>
      fetch(`${device.address}/eSCL/ScanJobs`, { method: 'POST', headers: { 'Content-Type': 'text/xml' }, body });
    expect(
      (await post(settings('<s:ColorMode>RGB24</s:ColorMode><s:XResolution>77</s:XResolution><s:YResolution>77</s:YResolution>'))).status,
    ).toBe(400);
    const good = settings('<s:ColorMode>Grayscale8</s:ColorMode><s:XResolution>75</s:XResolution><s:YResolution>75</s:YResolution>');
    const made = await post(good);
    expect(made.status).toBe(201);
    const at = made.headers.get('Location') as string;
    expect((await post(good)).status).toBe(409);
    const scanned = await fetch(`${at}/NextDocument`);
    const { width: w, height: h, density } = await sharp(Buffer.from(await scanned.arrayBuffer())).metadata();
    expect([w, h, density]).toEqual([450, 300, 75]);
    const info = await (await fetch(`${at}/ScanImageInfo`)).text();
    expect([between(info, 'ActualWidth')[0], between(info, 'ActualBytesPerLine')[0]]).toEqual(['450', '450']);
    expect((await fetch(`${at}/NextDocument`)).status).toBe(404);
    expect(between(await text('ScannerStatus'), 'JobState')[0]).toBe('Completed');
    const cancelled = (await post(good)).headers.get('Location') as string;
    expect((await fetch(cancelled, { method: 'DELETE' })).status).toBe(200);
    await idle();
  });
});

describe('a scan through the server', () => {
  it('comes as the scanner sent it, and its prints lie where the device says', async () => {
    const [scanner] = (await (await fetch(`${server.address}scans/scanners`)).json()) as { abilities: { resolutions: number[] } }[];
    expect(scanner?.abilities.resolutions).toEqual([75, 150, 200, 300, 600]);
    const begun = await begin({ ...WISH, ppi: 200 });
    const file = await (await fetch(`${server.address}scans/scans/${await idOf(begun)}/document`)).arrayBuffer();
    const { data, info } = await sharp(Buffer.from(file)).raw().toBuffer({ resolveWithObject: true });
    const { pieces } = findPieces({ width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }, 200);
    const { prints } = (await (await fetch(`${device.address}/stand-in/truth`)).json()) as { prints: { corners: Point[] }[] };
    expect(pieces).toHaveLength(prints.length);
    for (const { corners } of prints)
      for (const c of corners)
        expect(Math.min(...pieces.flatMap((p) => p.corners.map((q) => Math.hypot(q[0] - c[0], q[1] - c[1]))))).toBeLessThan(5);
  });

  it('that goes wrong is a sentence each, and the scanner is free again', async () => {
    const expected: readonly (readonly [Fault, RegExp])[] = [
      ['lid-open', /lid is open/],
      ['jam', /jammed/],
      ['busy', /busy/],
      ['breaks', /broke|stopped in the middle/],
      ['rubbish', /no JPEG/],
      ['endless', /more than 20 MB/],
      ['silent', /does not answer/],
      ['elsewhere', /not its own/],
      ['redirects', /gave no page/],
    ];
    for (const [what, words] of expected) {
      await fault(what);
      expect(await page(), what).toMatch(words);
      await fault('none');
      await idle();
    }
    expect(await page()).toBeInstanceOf(Buffer);
  });

  it('ends when its page is left or cancels it, and of two at once one is told to wait', async () => {
    const scan = await idOf(await begin());
    expect(await sentence(await begin())).toMatch(/busy/);
    const leaving = new AbortController();
    const response = await fetch(`${server.address}scans/scans/${scan}/document`, { signal: leaving.signal });
    await response.body?.getReader().read();
    leaving.abort();
    await idle();
    const second = await idOf(await begin());
    await fetch(`${server.address}scans/scans/${second}`, { method: 'DELETE' });
    await idle();
    expect((await fetch(`${server.address}scans/scans/${second}/document`)).status).toBe(404);
  });

  it('is asked for by this application’s page alone, of scanners that were named, as they can', async () => {
    expect((await begin(WISH, { Origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await begin({ ...WISH, ppi: 1234 })).status).toBe(409);
    expect((await begin({ ...WISH, scanner: 'http://192.0.2.7/' })).ok).toBe(true);
    await fetch(`${server.address}scans/scanners/http%3A%2F%2F192.0.2.7/scans`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: '{}',
    }).then(async (r) => expect(await sentence(r)).toMatch(/no such scanner/));
  });
});

describe('a hostile scanner', () => {
  it('leads nowhere: strange capabilities are refused, and no request goes to another address', async () => {
    const asked: string[] = [];
    const other = createServer((request, response) => {
      asked.push(`other ${request.url}`);
      response.end();
    }).listen(0, '127.0.0.1');
    let answer = (_path: string): { code: number; headers?: Record<string, string>; body?: string } => ({ code: 200, body: '' });
    const hostile = createServer((request, response) => {
      const { code, headers = {}, body = '' } = answer(request.url ?? '');
      response.writeHead(code, headers).end(body);
    }).listen(0, '127.0.0.1');
    servers.push(other, hostile);
    await new Promise((r) => setTimeout(r, 50));
    const port = (of: Server): number => (of.address() as AddressInfo).port;
    const elsewhere = `http://127.0.0.1:${port(other)}`;
    const scanner = new EsclScanner(`http://127.0.0.1:${port(hostile)}`, LIMITS);
    const wish = { ppi: 300, colour: 'colour', widthMm: 100, heightMm: 100 } as const;

    for (const body of [
      '',
      'not xml <',
      '<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><x>&a;</x>',
      `<s:ScannerCapabilities xmlns:s="s"><s:MakeAndModel>${'x'.repeat(500)}</s:MakeAndModel></s:ScannerCapabilities>`,
      '<x>'.repeat(400_000),
    ]) {
      answer = () => ({ code: 200, body });
      await expect(scanner.abilities()).rejects.toThrow(/scanner/i);
    }
    answer = () => ({ code: 302, headers: { Location: `${elsewhere}/eSCL/ScannerCapabilities` } });
    await expect(scanner.abilities()).rejects.toThrow(/does not say/);
    for (const location of [
      `${elsewhere}/eSCL/ScanJobs/1`,
      '//192.0.2.7/eSCL/ScanJobs/1',
      '/admin/format',
      'file:///etc/passwd',
      '/eSCL/ScanJobs/../../admin',
      '',
    ]) {
      answer = () => ({ code: 201, headers: location === '' ? {} : { Location: location } });
      await expect(scanner.begin(wish)).rejects.toThrow(/not its own/);
    }
    expect(asked).toEqual([]);
  });
});
