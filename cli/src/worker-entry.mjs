// Worker threads do not inherit the loader of the command line: register it, then run the worker proper.
import { workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
await import(workerData.entry);
