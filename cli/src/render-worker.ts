import { parentPort } from 'node:worker_threads';
import { helpExport } from '@able-plumb/codecs';
import { useNodeCodecs } from '@able-plumb/codecs/node';

useNodeCodecs();
parentPort?.once('message', (port: MessagePort) =>
  helpExport(port, (error) => {
    // outside of any promise: the thread that leads hears of it
    process.nextTick(() => {
      throw error;
    });
  }),
);
