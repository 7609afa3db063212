// Worker threads do not inherit the loader of the command line: register it, then run the worker proper.
import { register } from 'tsx/esm/api';

register();
await import('./render-worker.ts');
