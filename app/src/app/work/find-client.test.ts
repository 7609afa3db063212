import { createEnvironmentInjector, Injector, type EnvironmentInjector } from '@angular/core';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Said } from '@able-plumb/core';
import { blank } from '../../testing/ground';
import { FindClient, type Asking } from './find-client';
import { StageClient } from './stage-client';

const held = vi.hoisted(() => ({ asked: [] as { name: string; answer: (said: unknown) => void }[] }));

/** One thread that answers when the test says so. */
vi.mock('./line', () => ({
  Line: class {
    call(use: (work: object) => Promise<unknown>): Promise<unknown> {
      const hold = (name: string): Promise<unknown> => new Promise((answer) => held.asked.push({ name, answer }));
      return use({ inFile: (name: string) => hold(name), inPixels: () => hold('pixels') });
    }
  },
}));

const nothing: Said = { suggestions: [], silent: [], witnesses: [] };
const settled = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

describe('asking many pictures what they say', () => {
  afterEach(() => {
    held.asked.length = 0;
    vi.unstubAllGlobals();
  });

  function open(searched: (id: string) => object | null = () => null): FindClient {
    vi.stubGlobal('navigator', { hardwareConcurrency: 1 });
    const injector = createEnvironmentInjector(
      [FindClient, { provide: StageClient, useValue: { searched: async (id: string) => searched(id) } }],
      Injector.create({ providers: [] }) as EnvironmentInjector,
    );
    return injector.get(FindClient);
  }
  const asking = (pictureId: string): Asking => ({ pictureId, name: pictureId, correction: blank(), file: async () => new Blob([]) });
  const next = async (): Promise<string> => {
    await settled();
    const { name, answer } = held.asked.at(-1)!;
    answer(nothing);
    await settled();
    return name;
  };

  it('takes them in turn, the one that is opened before those that wait, and leaves those that are given up', async () => {
    const client = open();
    const answers = ['a', 'b', 'c', 'd'].map((id) => client.ask(asking(id), false));
    expect(await next()).toBe('a');
    // b is being asked; d is opened on the bench, e comes new and first, c is given up
    client.hurry('d');
    const e = client.ask(asking('e'), true);
    client.forget('c');
    expect(await answers[2]).toBeNull();
    expect(await next()).toBe('b');
    expect(await next()).toBe('e');
    expect(await next()).toBe('d');
    expect(await Promise.all([answers[0], answers[1], answers[3], e])).toEqual([nothing, nothing, nothing, nothing]);
    expect(held.asked.map(({ name }) => name)).toEqual(['a', 'b', 'e', 'd']);
  });

  it('does not decode again what lies open on the stage, and says when a file is lost', async () => {
    const client = open((id) => (id === 'open' ? { width: 1 } : null));
    const answer = client.ask(asking('open'), true);
    expect(await next()).toBe('pixels');
    expect(await answer).toBe(nothing);
    await expect(client.ask({ ...asking('lost'), file: async () => null }, true)).rejects.toThrow('lost is no longer in this browser');
  });
});
