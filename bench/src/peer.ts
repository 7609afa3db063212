import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import type { PositionMap, Raster } from '@able-plumb/core';
import type { TwoStepTask } from './two-steps';

export type PeerFilter = 'linear' | 'cubic' | 'lanczos4';

/** OpenCV's `remap` (Debian's python3-opencv) in a process of its own that waits for its turn. */
export interface Peer {
  readonly pid: number;
  /** The picture it draws from: RGB. */
  source(source: Raster): Promise<void>;
  /** The output it draws; the making of this map is never counted. */
  positions(map: PositionMap, width: number, fromRow: number, rows: number): Promise<void>;
  /** One run; nanoseconds a pixel. */
  remap(way: PeerFilter, threads: number): Promise<number>;
  /** The lens and the perspective of {@link Peer.twoSteps}; the making of the lens's map is never counted. */
  steps(task: TwoStepTask): Promise<void>;
  /** One run over the whole source, lens and then perspective; nanoseconds a pixel of the output. */
  twoSteps(way: PeerFilter, threads: number): Promise<number>;
  stop(): void;
}

/** Python with OpenCV, as Debian installs it. */
export const PYTHON = '/usr/bin/python3';

/** Whether OpenCV is there. */
export function hasPeer(): boolean {
  try {
    execFileSync(PYTHON, ['-c', 'import cv2'], { stdio: 'ignore' });
    return true;
  } catch {
    return false;
  }
}

/** Starts the peer. */
export function startPeer(): Peer {
  const folder = mkdtempSync(join(tmpdir(), 'plumb-bench-'));
  const child = spawn(PYTHON, [fileURLToPath(new URL('./peer.py', import.meta.url))], { stdio: ['pipe', 'pipe', 'inherit'] });
  const answers = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const ask = async (task: object): Promise<number> => {
    child.stdin.write(`${JSON.stringify(task)}\n`);
    const { value, done } = await answers.next();
    if (done) throw new Error('OpenCV has gone away.');
    return JSON.parse(value as string) as number;
  };
  const give = async (what: 'source' | 'positions', samples: Raster['data'] | Float32Array, more: object): Promise<void> => {
    const file = join(folder, what);
    writeFileSync(file, samples);
    await ask({ do: what, file, ...more });
    rmSync(file);
  };
  return {
    pid: child.pid ?? 0,
    source: ({ width, height, data }) => give('source', data, { width, height, bits: data instanceof Uint16Array ? 16 : 8 }),
    positions: (map, width, fromRow, rows) => give('positions', positionsOf(map, width, fromRow, rows), { width, height: rows }),
    remap: (way, threads) => ask({ do: 'remap', way, threads }),
    steps: async (task) => void (await ask({ do: 'steps', ...task })),
    twoSteps: (way, threads) => ask({ do: 'two steps', way, threads }),
    stop: () => {
      child.stdin.end();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

function positionsOf(map: PositionMap, width: number, fromRow: number, rows: number): Float32Array {
  const positions = new Float32Array(width * rows * 2);
  const p = new Float64Array(2);
  for (let j = 0, k = 0; j < rows; j += 1) {
    for (let i = 0; i < width; i += 1, k += 2) {
      const there = map(i + 0.5, fromRow + j + 0.5, p);
      positions[k] = there ? (p[0] as number) - 0.5 : -1e4;
      positions[k + 1] = there ? (p[1] as number) - 0.5 : -1e4;
    }
  }
  return positions;
}
