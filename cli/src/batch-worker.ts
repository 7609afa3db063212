import { parentPort } from 'node:worker_threads';
import type { Correction } from '@able-plumb/core';
import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { exportPicture, type Exported, type ExportOptions } from './export-picture';

/** One picture to export. */
export interface BatchTask {
  readonly correction: Correction;
  readonly picture: string;
  readonly out: string;
  readonly ending: string;
  readonly options: ExportOptions;
}

/** What became of it. */
export type BatchReply = { readonly exported: Exported } | { readonly error: string };

useNodeCodecs();
useNativeJpeg();
parentPort?.on('message', ({ correction, picture, out, ending, options }: BatchTask) => {
  const say = (reply: BatchReply): void => parentPort?.postMessage(reply);
  exportPicture(correction, picture, out, ending, options, { threads: 1, fit: 'scale' }).then(
    (exported) => say({ exported }),
    (error: Error) => say({ error: error.message }),
  );
});
