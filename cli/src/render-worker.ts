import { parentPort } from 'node:worker_threads';
import { composeWarp, kernelName, renderBands, type Correction, type RenderWork, type Warp } from '@able-plumb/core';

/** What a render worker is asked: to get ready while the picture is being decoded, then to draw. */
export type RenderTask = { readonly prepare: Correction } | { readonly work: RenderWork };

let warp: Warp | undefined;

parentPort?.on('message', (task: RenderTask) => {
  if ('prepare' in task) {
    kernelName();
    // what cannot be composed says so when it is to be drawn
    try {
      warp = composeWarp(task.prepare, task.prepare.picture);
    } catch {
      warp = undefined;
    }
    return;
  }
  renderBands(task.work, undefined, warp);
  parentPort?.postMessage('done');
});
