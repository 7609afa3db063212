import { parentPort } from 'node:worker_threads';
import { drawnBands, type RenderWork } from '@able-plumb/core';

parentPort?.on('message', (work: RenderWork) => {
  for (const band of drawnBands(work)) void band;
  parentPort?.postMessage('done');
});
