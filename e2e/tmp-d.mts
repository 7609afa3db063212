import { chromium } from '@playwright/test';
import { writeFileSync } from 'node:fs';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto('http://127.0.0.1:4310/');
await page.getByRole('button', { name: 'Open the demo job' }).click();
await page.locator('.card', { hasText: '8 pictures' }).waitFor({ timeout: 60000 });
await page.waitForTimeout(500);
await page.locator('.thumbs').first().click();
await page.waitForURL('**/bench/**');
await page.locator('ap-stage .area > canvas[data-drawn]').waitFor();
await page.getByTitle('Pictures of this job').click();
await page.getByRole('menuitem', { name: 'engine-hall.jpg' }).click();
await page.waitForTimeout(3000);
await page.locator('ap-string').getByText('Stance', { exact: true }).click();
await page.getByLabel('Tilt slider', { exact: true }).waitFor();
await page.waitForTimeout(1000);
const go = () =>
  page.evaluate(async () => {
    const canvas = document.querySelector('ap-stage .area > canvas') as HTMLCanvasElement;
    const slider = document.querySelector('[aria-label="Tilt slider"]') as HTMLInputElement;
    const t: number[] = [];
    const long: number[] = [];
    new PerformanceObserver((l) => {
      for (const e of l.getEntries()) long.push(e.duration);
    }).observe({ type: 'longtask' });
    for (let i = 0; i < 80; i++) {
      const t0 = performance.now();
      performance.mark('go' + i);
      await new Promise<void>((res) => {
        const o = new MutationObserver(() => {
          o.disconnect();
          res();
        });
        o.observe(canvas, { attributes: true });
        slider.value = String(2 + 3 * Math.sin(i / 9));
        slider.dispatchEvent(new Event('input', { bubbles: true }));
      });
      performance.mark('drawn' + i);
      t.push(performance.now() - t0);
      await new Promise((r) => requestAnimationFrame(r));
    }
    t.sort((a, b) => a - b);
    return [t[40], t[76], long.length, Math.max(0, ...long)];
  });
console.log(await go());
const cdp = await browser.newBrowserCDPSession();
const ev: any[] = [];
cdp.on('Tracing.dataCollected', (d: any) => ev.push(...d.value));
await cdp.send('Tracing.start', {
  traceConfig: {
    includedCategories: [
      'devtools.timeline',
      'blink.user_timing',
      'toplevel',
      'disabled-by-default-devtools.timeline',
      'disabled-by-default-v8.cpu_profiler',
    ],
  },
} as any);
console.log(await go());
await Promise.all([new Promise((r) => cdp.once('Tracing.tracingComplete', r)), cdp.send('Tracing.end')]);
writeFileSync('/tmp/trace.json', JSON.stringify(ev));
await browser.close();
