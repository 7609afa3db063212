import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { WriteQueue, type Told } from './write-queue';

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
});
afterEach(() => {
  vi.useRealTimers();
});

/** A document whose writes take a while, and what was told of it. */
function written(ms = 10) {
  const told: [string, Told['saved']][] = [];
  const shelf: [string, number][] = [];
  let fails = 0;
  const queue = new WriteQueue((document, { saved }) => told.push([document, saved]));
  const put = (document: string, value: number): void =>
    queue.put(document, 40, async () => {
      await new Promise((done) => setTimeout(done, ms));
      if (fails > 0) {
        fails -= 1;
        throw new DOMException('full', 'QuotaExceededError');
      }
      shelf.push([document, value]);
    });
  return { queue, put, told, shelf, failNext: (n: number) => (fails = n) };
}

describe('the queue of writes', () => {
  it('writes while changes go on: what is older than 150 ms is on the shelf, however long a key is held', async () => {
    const { put, shelf, told } = written();
    for (let i = 0; i < 1000; i += 1) {
      put('a', i);
      await vi.advanceTimersByTimeAsync(10);
      const last = shelf.at(-1)?.[1] ?? -1;
      expect(i - last).toBeLessThanOrEqual(15);
    }
    await vi.advanceTimersByTimeAsync(200);
    expect(shelf.at(-1)).toEqual(['a', 999]);
    expect(shelf.length).toBeLessThan(300);
    expect(told.at(-1)).toEqual(['a', true]);
  });

  it('tells a document saved only when its newest state is', async () => {
    const { put, told } = written(50);
    put('a', 1);
    await vi.advanceTimersByTimeAsync(20);
    put('a', 2);
    await vi.advanceTimersByTimeAsync(35);
    expect(told).toEqual([]);
    await vi.advanceTimersByTimeAsync(200);
    expect(told).toEqual([['a', true]]);
  });

  it('tries again what failed, with the newest state, and one document that is written clears no other', async () => {
    const { put, told, shelf, failNext } = written();
    failNext(2);
    put('a', 1);
    await vi.advanceTimersByTimeAsync(20);
    put('b', 1);
    await vi.advanceTimersByTimeAsync(20);
    expect(told).toEqual([
      ['a', false],
      ['b', false],
    ]);
    put('b', 2);
    await vi.advanceTimersByTimeAsync(60);
    expect(told.at(-1)).toEqual(['b', true]);
    expect(shelf).toEqual([['b', 2]]);
    await vi.advanceTimersByTimeAsync(1100);
    expect(shelf.at(-1)).toEqual(['a', 1]);
  });

  it('begins in the turn of the change, so that a page that ends in the next has it on its way', () => {
    const { queue } = written();
    let begun = 0;
    queue.put('a', 40, async () => {
      begun += 1;
    });
    expect(begun).toBe(1);
  });

  it('writes at once what waits when the page goes', async () => {
    const { queue, put, shelf } = written(0);
    put('a', 1);
    await vi.advanceTimersByTimeAsync(1);
    put('a', 2);
    const flushed = queue.flush(true);
    await vi.advanceTimersByTimeAsync(1);
    await flushed;
    expect(shelf.at(-1)).toEqual(['a', 2]);
  });
});
