import { useNativeJpeg, useNodeCodecs } from '@able-plumb/codecs/node';
import { startScanner } from './scanner';

/* The stand-in as a process of its own, as a device is one: says its address to whoever started it, and ends with it. */

useNodeCodecs();
useNativeJpeg();
const [pictures, seconds, port] = process.argv.slice(2);
const { address } = await startScanner(
  { pictures: pictures as string, ...(seconds === undefined || seconds === '' ? {} : { seconds: Number(seconds) }) },
  Number(port ?? 0),
);
process.send?.(address);
process.on('disconnect', () => process.exit(0));
