import { setImmediate } from 'node:timers/promises';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

/**
 * Gives memory that is no longer used back at once. The engine tidies up when its own heap has grown; of pixels that lie outside, as those of
 * native decoders do, it hardly knows. They are let go of in the next turn of the event loop, hence the wait.
 */
export async function giveBack(): Promise<void> {
  setFlagsFromString('--expose-gc');
  (runInNewContext('gc') as () => void)();
  await setImmediate();
}
