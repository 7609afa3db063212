import type { MessagePort as Transferred } from 'node:worker_threads';
import { composeWarp, type Correction } from '@able-plumb/core';
import { leadExport, prepareHelpers, type ExportAsked, type ExportDone } from '@able-plumb/codecs';
import { startWorker } from './start-worker';

/** Threads that export one correction, and get ready while the picture is being decoded. */
export interface Renderer {
  /** Draws it at full size and makes the file, in bands from one shared counter. */
  export(asked: Omit<ExportAsked, 'correction' | 'crop' | 'helpers'>): Promise<ExportDone>;
  stop(): Promise<void>;
}

/** @param threads the caller's own is one of them */
export function startRenderer(correction: Correction, threads: number): Renderer {
  // what cannot be composed is told before any thread is there to keep the process going
  const { crop } = composeWarp(correction, correction.picture);
  const workers = Array.from({ length: threads - 1 }, () => startWorker('render-worker'));
  const failures = workers.map(
    (worker) =>
      new Promise<never>((_, reject) =>
        worker.once('error', reject).once('exit', () => reject(new Error('a thread ended before its work'))),
      ),
  );
  // one that cannot start says so when it is asked to draw
  for (const failure of failures) failure.catch(() => undefined);
  const helpers = workers.map((worker) => {
    const { port1, port2 } = new MessageChannel();
    worker.postMessage(port2, [port2 as unknown as Transferred]);
    return port1;
  });
  prepareHelpers(helpers, correction, crop);
  return {
    export: (asked) => Promise.race([leadExport({ ...asked, correction, crop, helpers }), ...failures]),
    stop: async () => {
      for (const helper of helpers) helper.close();
      await Promise.all(workers.map((worker) => worker.terminate()));
    },
  };
}
