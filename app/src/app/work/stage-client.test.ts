// services are compiled when a test loads them
import '@angular/compiler';
import { createEnvironmentInjector, Injector, type EnvironmentInjector } from '@angular/core';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Decoded } from './protocol';
import { StageClient } from './stage-client';

type Asked = readonly [pictureId: string, name: string, file: Blob, space: string, decoded: Decoded | null];

const held = vi.hoisted(() => ({ asked: [] as unknown[], again: null as ((work: object) => Promise<unknown>) | null }));

/** A worker that only notes what it is to open. */
const work = { open: async (...asked: unknown[]) => void held.asked.push(asked) };
vi.mock('./line', () => ({
  Line: class {
    constructor(_start: unknown, again: (work: object) => Promise<unknown>) {
      held.again = again;
    }
    call = (use: (work: object) => Promise<unknown>): Promise<unknown> => use(work);
  },
}));

describe('opening a picture whose file was just looked into', () => {
  beforeEach(() => (held.asked.length = 0));

  const picture = { raster: { width: 2, height: 1, channels: 3, data: new Uint8Array(6) } } as Decoded;
  const decodedOf = (): readonly (Decoded | null)[] => (held.asked as Asked[]).map((asked) => asked[4]);
  const client = (): StageClient =>
    createEnvironmentInjector([StageClient], Injector.create({ providers: [] }) as EnvironmentInjector).get(StageClient);

  it('takes the pixels that are there, once; whoever starts again decodes the file', async () => {
    const stage = client();
    stage.keepDecoded('scan', picture);
    await stage.open('scan', 'scan.tif', new Blob());
    await held.again?.(work);
    await stage.open('scan', 'scan.tif', new Blob());
    expect(decodedOf()).toEqual([picture, null, null]);
  });

  it('never shows the pixels of one picture as those of another, and does not keep them once something is opened', async () => {
    const stage = client();
    stage.keepDecoded('scan', picture);
    await stage.open('tower', 'tower.jpg', new Blob());
    await stage.open('scan', 'scan.tif', new Blob());
    expect(decodedOf()).toEqual([null, null]);
  });

  it('lets them go where the person has gone on to something else, and keeps those that came since', async () => {
    vi.useFakeTimers();
    const stage = client();
    const later = { ...picture };
    stage.keepDecoded('scan', picture);
    vi.advanceTimersByTime(6000);
    stage.keepDecoded('print', later);
    vi.advanceTimersByTime(6000);
    await stage.open('print', 'print.tif', new Blob());
    stage.keepDecoded('scan', picture);
    vi.advanceTimersByTime(11_000);
    await stage.open('scan', 'scan.tif', new Blob());
    vi.useRealTimers();
    expect(decodedOf()).toEqual([later, null]);
  });
});
