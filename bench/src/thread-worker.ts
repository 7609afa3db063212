import { parentPort } from 'node:worker_threads';
import { renderBands, type RenderWork } from '@able-plumb/core';

parentPort?.on('message', (work: RenderWork) => {
  renderBands(work);
  parentPort?.postMessage('done');
});
