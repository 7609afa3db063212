import { parentPort, workerData } from 'node:worker_threads';
import { renderBands, type RenderWork } from '@able-plumb/core';

renderBands(workerData as RenderWork);
parentPort?.postMessage('done');
