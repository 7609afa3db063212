import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { listen } from './index';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const port = Number(process.env['PORT'] ?? 4310);

if (!Number.isInteger(port) || port < 0 || port > 65535) {
  process.stderr.write(`PORT must be a whole number from 0 to 65535, not "${process.env['PORT']}".\n`);
  process.exit(2);
}

try {
  const { address } = await listen({ app: join(root, 'dist/app/browser'), demo: join(root, 'demo/job') }, port);
  process.stdout.write(`Able Plumb is ready: ${address}\n`);
} catch (error) {
  const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  process.stderr.write(
    taken ? `Port ${port} is taken. Choose another: PORT=4311 npm run demo\n` : `The server could not start: ${(error as Error).message}\n`,
  );
  process.exit(1);
}
