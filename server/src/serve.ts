import { fork } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { listen } from './index';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const demo = join(root, 'demo/job');
const FORM = 'Use: [--scanner http://ADDRESS] ... [--no-stand-in] [--stand-in-port N] [--scan-seconds N]';

/** Ends with a sentence. */
function end(code: number, sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(code);
}

function wishes(): {
  readonly scanners: readonly string[];
  readonly standIn: boolean;
  readonly seconds: number | undefined;
  readonly standInPort: number;
} {
  try {
    const { values } = parseArgs({
      options: {
        scanner: { type: 'string', multiple: true },
        'no-stand-in': { type: 'boolean' },
        'stand-in-port': { type: 'string' },
        'scan-seconds': { type: 'string' },
      },
    });
    const scanners = values.scanner ?? [];
    for (const address of scanners)
      if (!/^https?:$/.test(new URL(address).protocol)) throw new Error(`${address} is no address of a scanner`);
    const seconds = values['scan-seconds'] === undefined ? undefined : Number(values['scan-seconds']);
    if (seconds !== undefined && !(seconds >= 0 && seconds <= 600)) throw new Error('--scan-seconds is a number from 0 to 600');
    const standInPort = Number(values['stand-in-port'] ?? 0);
    if (!Number.isInteger(standInPort) || standInPort < 0 || standInPort > 65535)
      throw new Error('--stand-in-port is a number from 0 to 65535');
    return { scanners, standIn: values['no-stand-in'] !== true, seconds, standInPort };
  } catch (error) {
    return end(2, `${(error as Error).message}.\n${FORM}`);
  }
}

/** The stand-in beside the server; it ends with it. */
function startStandIn(): Promise<string> {
  const device = fork(join(root, 'server/src/scanner/run.ts'), [demo, String(seconds ?? ''), String(standInPort)]);
  return new Promise((resolve, reject) => {
    device.once('message', (address) => {
      device.unref();
      device.channel?.unref();
      resolve(String(address));
    });
    device.once('exit', () => reject(new Error('its stand-in scanner did not start')));
  });
}

const port = Number(process.env['PORT'] ?? 4310);
if (!Number.isInteger(port) || port < 0 || port > 65535)
  end(2, `PORT must be a whole number from 0 to 65535, not "${process.env['PORT']}".`);
const { scanners, standIn, seconds, standInPort } = wishes();

try {
  const device = standIn ? await startStandIn() : null;
  const all = [...(device === null ? [] : [device]), ...scanners];
  const { address } = await listen({ app: join(root, 'dist/app/browser'), demo, scanners: all }, port);
  if (device !== null) process.stdout.write(`A stand-in scanner is at ${device}/eSCL\n`);
  process.stdout.write(`Able Plumb is ready: ${address}\n`);
} catch (error) {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  end(
    1,
    taken ? `Port ${port} is taken. Choose another: PORT=4311 npm run demo` : `The server could not start: ${(error as Error).message}`,
  );
}
