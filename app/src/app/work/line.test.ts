import { expose as exposeOverComlink } from 'comlink';
import { describe, expect, it } from 'vitest';
import type { PlumbError } from '@able-plumb/core';
import { PictureFileError } from '@able-plumb/codecs';
import { Line, WorkerEnded } from './line';

/** A worker on the other end of a channel; ends when the test says so. */
class FakeWorker {
  onerror: ((event: { message: string; preventDefault(): void }) => void) | null = null;
  readonly ends: MessageChannel = new MessageChannel();

  constructor(work: object) {
    exposeOverComlink(work, this.ends.port2 as never);
    this.ends.port2.start();
    this.ends.port1.start();
  }

  posted = 0;

  postMessage = (message: unknown, transfer: Transferable[]): void => {
    this.posted += 1;
    this.ends.port1.postMessage(message, transfer as never);
  };
  addEventListener = (type: string, listener: never): void => this.ends.port1.addEventListener(type as 'message', listener);
  removeEventListener = (type: string, listener: never): void => this.ends.port1.removeEventListener(type as 'message', listener);
  terminated = false;
  terminate = (): void => {
    this.terminated = true;
    this.ends.port1.close();
    this.ends.port2.close();
  };
  die = (): void => this.onerror?.({ message: 'out of memory', preventDefault: () => undefined });
}

interface Work {
  draw(what: string): Promise<string>;
  fail(): Promise<void>;
}

function line(deaths: number) {
  const started: FakeWorker[] = [];
  const opened: string[] = [];
  const work = (n: number): Work & { open(name: string): Promise<void> } => ({
    draw: async (what) => {
      if (n < deaths) {
        started[n]?.die();
        return new Promise(() => undefined);
      }
      return `${what} by ${n}`;
    },
    fail: async () => {
      throw new PictureFileError('jpeg-damaged', 'tower.jpg is damaged.', 'Copy it again.');
    },
    open: async (name) => void opened.push(`${name} in ${n}`),
  });
  const calls = new Line<ReturnType<typeof work>>(
    () => {
      started.push(new FakeWorker(work(started.length)));
      return started.at(-1) as unknown as Worker;
    },
    (again) => again.open('tower.jpg'),
  );
  return { calls, started, opened };
}

describe('a worker', () => {
  it('that is ended gives back what it holds on to; whatever is asked of it then, or was not answered yet, the next one does', async () => {
    const { calls, started } = line(0);
    expect(await calls.call((work) => work.draw('tower'))).toBe('tower by 0');
    const waiting = calls.call((work) => work.draw('hall'));
    calls.end();
    expect(started[0]?.terminated).toBe(true);
    expect(await waiting).toBe('hall by 1');
    calls.end();
    calls.end();
    expect(await calls.call((work) => work.draw('stair'))).toBe('stair by 2');
  });

  it('that dies is started again, brought to where it was, and asked again; nobody has to know', async () => {
    const { calls, opened } = line(1);
    expect(await calls.call((work) => work.draw('tower'))).toBe('tower by 1');
    expect(opened).toEqual(['tower.jpg in 1']);
    expect(await calls.call((work) => work.draw('hall'))).toBe('hall by 1');
  });

  it('is asked at once, in the same turn of the page; one that was started again as soon as it has what it needs', async () => {
    const { calls, started } = line(1);
    const asked = calls.call((work) => work.draw('tower'));
    expect(started[0]!.posted).toBe(1);
    await asked;
    const before = started[1]!.posted;
    const hall = calls.call((work) => work.draw('hall'));
    expect(started[1]!.posted).toBe(before + 1);
    expect(await hall).toBe('hall by 1');
  });

  it('that dies of the same thing again is told in a sentence, and the next call has a new one', async () => {
    const { calls } = line(2);
    await expect(calls.call((work) => work.draw('tower'))).rejects.toThrow(WorkerEnded);
    expect(await calls.call((work) => work.draw('hall'))).toBe('hall by 2');
  });

  it('hands its errors on with their class and code', async () => {
    const { calls } = line(0);
    const error: unknown = await calls.call((work) => work.fail()).catch((e: unknown) => e);
    expect(error).toBeInstanceOf(PictureFileError);
    expect((error as PlumbError).code).toBe('jpeg-damaged');
    expect((error as Error).message).toBe('tower.jpg is damaged. Copy it again.');
  });
});
