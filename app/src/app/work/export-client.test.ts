import '@angular/compiler';
import { Injector, runInInjectionContext } from '@angular/core';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { newCorrection } from '@able-plumb/core';
import { ExportCancelled, ExportClient } from './export-client';
import { StageClient } from './stage-client';
import type { RenderRequest } from './protocol';

/** A render worker that does what a test lets it do. */
class FakeWorker {
  static all: FakeWorker[] = [];
  readonly asked: RenderRequest[] = [];
  ended = false;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: ((event: { message: string }) => void) | null = null;
  constructor() {
    FakeWorker.all.push(this);
  }
  postMessage(request: RenderRequest): void {
    this.asked.push(request);
  }
  terminate(): void {
    this.ended = true;
  }
  say(data: unknown): void {
    this.onmessage?.({ data });
  }
}

const format = { kind: 'jpeg', quality: 90, chroma: '4:4:4' } as const;
const pictureOf = (width: number) => newCorrection({ name: 'a.jpg', width, height: 2000, focal35: null });
const source = { pictureId: 'a', name: 'a.jpg', file: async () => new Blob(['x']) };

beforeEach(() => {
  FakeWorker.all = [];
  vi.useFakeTimers();
  vi.stubGlobal('Worker', FakeWorker);
  vi.stubGlobal('crossOriginIsolated', true);
  vi.stubGlobal('navigator', { hardwareConcurrency: 2 });
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

function client(): ExportClient {
  const injector = Injector.create({ providers: [{ provide: StageClient, useValue: { source: async () => null } }] });
  return runInInjectionContext(injector, () => new ExportClient());
}

/** Asks for an export, and waits until its leader has been asked. */
async function begun(exporter: ExportClient, { signal = new AbortController().signal, width = 3000, threads = 2 } = {}) {
  const before = FakeWorker.all.flatMap((worker) => worker.asked.filter(({ kind }) => kind === 'make')).length;
  const file = exporter.export(source, pictureOf(width), format, 'all', signal, () => undefined, threads);
  file.catch(() => undefined);
  const asked = () => FakeWorker.all.filter((worker) => worker.asked.some(({ kind }) => kind === 'make'));
  await vi.waitUntil(() => asked().flatMap((worker) => worker.asked.filter(({ kind }) => kind === 'make')).length > before);
  return { file, leader: FakeWorker.all.find((worker) => worker.asked.at(-1)?.kind === 'make' && !worker.ended) as FakeWorker };
}

describe('crews of render workers', () => {
  it('are there before they are asked, and go on from picture to picture until much has gone through them', async () => {
    const exporter = client();
    exporter.warm();
    exporter.warm();
    expect(FakeWorker.all.map((worker) => worker.asked.map(({ kind }) => kind))).toEqual([['lead'], ['help']]);
    for (let pictures = 0; pictures < 5; pictures += 1) {
      const { file, leader } = await begun(exporter, { width: 10_000 });
      leader.say({ kind: 'made', file: new Blob(['done']) });
      expect(await (await file).text()).toBe('done');
      leader.asked.push({ kind: 'help' } as RenderRequest);
    }
    // 20 megapixels each: the fifth is the last of a crew
    expect(FakeWorker.all.map(({ ended }) => ended)).toEqual([true, true]);
    await begun(exporter);
    expect(FakeWorker.all).toHaveLength(4);
  });

  it('that wait are ended after a while; one that broke is not asked; one for another number of threads is another', async () => {
    const exporter = client();
    exporter.warm();
    FakeWorker.all[1]?.onerror?.({ message: '' });
    exporter.warm();
    expect(FakeWorker.all).toHaveLength(4);
    await begun(exporter, { threads: 1 });
    expect(FakeWorker.all).toHaveLength(5);
    const { leader } = await begun(exporter);
    expect(FakeWorker.all.indexOf(leader)).toBe(2);
    vi.advanceTimersByTime(60_000);
    expect(FakeWorker.all.slice(0, 2).every(({ ended }) => ended)).toBe(true);
    expect(leader.ended).toBe(false);
  });

  it('are ended at once when an export is taken back, before it or meanwhile, when it fails, and when one of them does', async () => {
    const exporter = client();
    const abort = new AbortController();
    const { file } = await begun(exporter, { signal: abort.signal });
    abort.abort();
    await expect(file).rejects.toThrow(ExportCancelled);
    await expect(exporter.export(source, pictureOf(3000), format, 'all', abort.signal, () => undefined)).rejects.toThrow(ExportCancelled);
    const failing = await begun(exporter);
    failing.leader.say({ kind: 'failed', error: { name: 'PlumbError', code: 'x', message: 'It cannot be.' } });
    await expect(failing.file).rejects.toThrow('It cannot be.');
    const dying = await begun(exporter);
    FakeWorker.all.at(-1)?.onerror?.({ message: 'no memory' });
    await expect(dying.file).rejects.toThrow('The export stopped: no memory.');
    expect(FakeWorker.all.every(({ ended }) => ended)).toBe(true);
  });
});
