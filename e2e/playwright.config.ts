import { defineConfig } from '@playwright/test';
import { testBrowser } from '../scripts/setup.mjs';

const PORT = 4391;

export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  fullyParallel: false,
  // stories do not share anything but the server: two at a time take 60 % of the time
  workers: 2,
  retries: 0,
  // large pictures on a busy machine take their time; nothing here judges speed
  timeout: 240_000,
  expect: { timeout: 30_000 },
  reporter: [['list'], ['json']],
  use: {
    baseURL: `http://127.0.0.1:${PORT}/`,
    viewport: { width: 1280, height: 800 },
    // each test begins with nothing kept; the story without a server has its own
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: testBrowser() ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: `npx tsx server/src/serve.ts --scan-seconds 1 --stand-in-port ${PORT + 1}`,
    cwd: '..',
    port: PORT,
    env: { PORT: String(PORT) },
    reuseExistingServer: false,
  },
});
