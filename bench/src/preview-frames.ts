import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import sharp from 'sharp';
import { listen } from '@able-plumb/server';

/** What dragging one slider costs on the bench, in the browser. */
export interface PreviewFigures {
  /** From the slider's input to the stage's pixels, median and 95th percentile, ms. */
  readonly medianMs: number;
  readonly p95Ms: number;
  /** Longest task of the page's own thread meanwhile, ms; 0 when none was over 50 ms. */
  readonly longestTaskMs: number;
}

const STEPS = 120;

/**
 * Opens the pump hall at two sizes in Chromium (1280 x 800, software rendering) and drags the Tilt slider through 120 steps, each waiting
 * for the picture of the one before. The application must be built.
 *
 * @returns one entry a size, by megapixels
 */
export async function previewFrames(root: string): Promise<Readonly<Record<number, PreviewFigures>>> {
  const { server, address } = await listen({ app: join(root, 'dist/app/browser'), demo: join(root, 'demo/job') }, 0);
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM_PATH'] ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const large = readFileSync(join(root, 'demo/job/pump-hall-front.jpg'));
  const small = await sharp(large).keepExif().resize(3000, 2000).jpeg({ quality: 92 }).toBuffer();
  const figures: Record<number, PreviewFigures> = {};
  try {
    for (const [megapixels, buffer] of [
      [6, small],
      [24, large],
    ] as const) {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      figures[megapixels] = await drag(page, address, buffer);
      await page.close();
    }
  } finally {
    await browser.close();
    server.close();
  }
  return figures;
}

async function drag(page: Page, address: string, buffer: Buffer): Promise<PreviewFigures> {
  await page.goto(address);
  await page.locator('input[type=file]').first().setInputFiles({ name: 'hall.jpg', mimeType: 'image/jpeg', buffer });
  await page.waitForURL('**/bench/**');
  await page.locator('ap-stage .area > canvas[data-drawn]').waitFor({ timeout: 60_000 });
  await page.locator('ap-string').getByText('Stance', { exact: true }).click();
  await page.getByLabel('Tilt slider', { exact: true }).waitFor();
  await page.waitForTimeout(1500);
  return page.evaluate(async (steps) => {
    const canvas = document.querySelector('ap-stage .area > canvas') as HTMLCanvasElement;
    const slider = document.querySelector('[aria-label="Tilt slider"]') as HTMLInputElement;
    let longestTaskMs = 0;
    new PerformanceObserver((list) => {
      for (const task of list.getEntries()) longestTaskMs = Math.max(longestTaskMs, task.duration);
    }).observe({ type: 'longtask' });
    const times: number[] = [];
    for (let i = 0; i < steps; i += 1) {
      const started = performance.now();
      times.push(
        await new Promise<number>((resolve) => {
          const observer = new MutationObserver(() => {
            observer.disconnect();
            resolve(performance.now() - started);
          });
          observer.observe(canvas, { attributes: true });
          slider.value = String(6 + 4 * Math.sin(i / 9));
          slider.dispatchEvent(new Event('input', { bubbles: true }));
        }),
      );
      await new Promise((resolve) => requestAnimationFrame(resolve));
    }
    slider.dispatchEvent(new Event('change', { bubbles: true }));
    await new Promise((resolve) => setTimeout(resolve, 300));
    // the first frames warm up
    const sorted = times.slice(10).sort((a, b) => a - b);
    return { medianMs: sorted[sorted.length >> 1] as number, p95Ms: sorted[Math.floor(sorted.length * 0.95)] as number, longestTaskMs };
  }, STEPS);
}
