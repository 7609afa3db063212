import type { Server } from 'node:http';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Limits } from './scans/escl';
import { scanRoutes } from './scans/routes';
import express, { type Express, type NextFunction, type Request, type Response } from 'express';

/** Where the server finds what it serves. */
export interface ServerFolders {
  /** The built application. */
  readonly app: string;
  /** The demo job's pictures. */
  readonly demo: string;
  /** Addresses of the scanners that pages may use; none where it is missing. */
  readonly scanners?: readonly string[];
  /** How long a scanner may take, and how much it may send. */
  readonly scanLimits?: Limits;
}

const CSP = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' blob: data:",
  "worker-src 'self' blob:",
  "object-src 'none'",
  "base-uri 'self'",
  "frame-ancestors 'none'",
].join('; ');

/** Headers of every response: isolation for shared memory, nothing from outside. */
function secure(_request: Request, response: Response, next: NextFunction): void {
  response.set({
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'Content-Security-Policy': CSP,
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'no-referrer',
  });
  next();
}

const page = (title: string, text: string): string =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><title>${title} - Able Plumb</title>
<body style="font: 16px/1.5 sans-serif; background: #efede8; color: #1f2326; display: grid; place-content: center; min-height: 90vh">
<h1 style="font-size: 22px">${title}</h1><p>${text}</p><p><a href="/" style="color: inherit">To the jobs</a></p></body></html>`;

/** The express application: the built app with its headers, scanners, the demo job, plain error pages. */
export function createApp({ app, demo, scanners = [], scanLimits }: ServerFolders): Express {
  const server = express();
  server.disable('x-powered-by');
  server.use(secure);
  server.use('/scans', scanRoutes(scanners, scanLimits));
  server.use('/demo-job', express.static(demo, { index: false }));
  server.use(
    express.static(app, {
      index: false,
      setHeaders: (response, path) =>
        response.set('Cache-Control', /-[A-Z0-9]{8}\.\w+$/.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache'),
    }),
  );
  server.get('/{*path}', (request, response, next) => {
    // the application's own routes have no ending; a missing file is a missing file
    if (/\.[a-z0-9]+$/i.test(request.path) || !request.accepts('html')) return next();
    const index = join(app, 'index.html');
    if (!existsSync(index)) {
      response
        .status(503)
        .send(
          page('Not built yet', 'The application has not been built. Run <code>npm run demo</code>, or <code>npm run build</code> first.'),
        );
      return;
    }
    response.set('Cache-Control', 'no-cache').sendFile(index);
  });
  server.use((request, response) => {
    response.status(404).send(page('Nothing here', `There is nothing under ${request.path.replace(/[<>&"]/g, '')}.`));
  });
  server.use((error: Error & { status?: number }, _request: Request, response: Response, _next: NextFunction) => {
    const status = error.status !== undefined && error.status >= 400 && error.status < 500 ? error.status : 500;
    response
      .status(status)
      .send(
        page(
          status === 500 ? 'The server failed' : 'That cannot be served',
          'Your pictures are safe: they are kept in the browser, not here. Load the page again.',
        ),
      );
  });
  return server;
}

/** Connections wait so long for another request, ms: the usual 5 s pass on a busy machine while that is on its way. */
const KEEP_ALIVE_MS = 60_000;

/** Starts listening on loopback only; port 0 takes a free one. */
export function listen(folders: ServerFolders, port: number): Promise<{ server: Server; address: string }> {
  return new Promise((resolve, reject) => {
    const server = createApp(folders).listen(port, '127.0.0.1');
    server.keepAliveTimeout = KEEP_ALIVE_MS;
    server.once('error', reject);
    server.once('listening', () => {
      const address = server.address();
      const actual = typeof address === 'object' && address ? address.port : port;
      resolve({ server, address: `http://127.0.0.1:${actual}/` });
    });
  });
}
