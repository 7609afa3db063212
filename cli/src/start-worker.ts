import { Worker } from 'node:worker_threads';

/** Starts one of the workers that are bundled beside the command line. */
export const startWorker = (name: 'batch-worker' | 'render-worker'): Worker => new Worker(new URL(`./${name}.mjs`, import.meta.url));
