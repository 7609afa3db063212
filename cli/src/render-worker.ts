import { parentPort, workerData } from 'node:worker_threads';
import { renderBands, type RenderWork } from '@able-plumb/core';

renderBands((workerData as { readonly work: RenderWork }).work);
parentPort?.postMessage('done');
