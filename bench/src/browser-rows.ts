import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { chromium, type Browser, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { Size } from '@able-plumb/core';
import { listen } from '@able-plumb/server';
import { median, type Rows } from './timing';

/** What dragging one slider costs on the bench, in the browser. */
interface PreviewFigures {
  /** From the slider's input to the stage's pixels, median and 95th percentile, ms. */
  readonly medianMs: number;
  readonly p95Ms: number;
  /** Longest task of the page's own thread meanwhile, ms; 0 when none was over 50 ms. */
  readonly longestTaskMs: number;
}

const STEPS = 120;
/** Exports with each way of writing. */
const TURNS = 3;
const STARTS = 7;
const SMALL: Size = { width: 3000, height: 2000 };
const LARGE: Size = { width: 12240, height: 8160 };

/** A barrel lens and one edge eased, over the pump hall. */
const WITH_LENS = {
  format: 'able-plumb/correction',
  version: 1,
  picture: { name: 'pump-hall-front.jpg', width: 6000, height: 4000 },
  lens: { model: { kind: 'brown-conrady', fx: 3333, fy: 3333, cx: 3000, cy: 2000, k1: -0.08, k2: 0.01 } },
  ease: { edges: [{ id: 'e1', side: 'left', at: [700, 2000], amount: 0.15, reach: 1200 }] },
};

/**
 * In Chromium, 1280 x 800, software rendering; the application must be built. The pump hall at 6 and at 24 megapixels, whose Tilt slider
 * is dragged through 120 steps, each waiting for the picture of the one before. Then exports of 24 and of 100 megapixels: how long they
 * take, the renderer's greatest memory, and how soon one that is cancelled has ended.
 */
export async function browserRows(rows: Rows, root: string): Promise<void> {
  const pictures = await hallBySize(root);
  await inBrowsers(root, async (withPage) => {
    await withPage(null, (page) => startRows(rows, page, pictures[24]));
    for (const megapixels of [6, 24] as const) {
      await withPage(pictures[megapixels], async (page) => {
        const { medianMs, p95Ms, longestTaskMs } = await drag(page);
        rows[`slider to picture at 1280 x 800, ${megapixels} megapixels, median ms`] = medianMs;
        rows[`slider to picture at 1280 x 800, ${megapixels} megapixels, 95th percentile ms`] = p95Ms;
        rows[`longest task of the page meanwhile, ${megapixels} megapixels, ms (0: none over 50)`] = longestTaskMs;
      });
    }
    await withPage(pictures[24], async (page) => {
      await page.locator('ap-string').getByText('Export', { exact: true }).click();
      const file = join(root, '.cache/bench/with-lens.json');
      writeFileSync(file, JSON.stringify(WITH_LENS));
      await page.locator('ap-export-files input[type=file]').setInputFiles(file);
      await page.waitForTimeout(1000);
      const { medianMs, p95Ms, longestTaskMs } = await drag(page);
      rows['slider to picture with a lens and an edge eased, 24 megapixels, median ms'] = medianMs;
      rows['slider to picture with a lens and an edge eased, 24 megapixels, 95th percentile ms'] = p95Ms;
      rows['longest task of the page meanwhile, with a lens and an edge eased, ms (0: none over 50)'] = longestTaskMs;
    });
    for (const megapixels of [24, 100] as const) {
      await withPage(pictures[megapixels], async (page) => {
        const { full, halved, cancelledMs, longestTaskMs, peakMB } = await exports(page);
        const what = `export of ${megapixels} megapixels in the browser, JPEG`;
        rows[`${what} with full colour, s`] = median(full);
        rows[`${what} with halved colour, s`] = median(halved);
        rows[`${what}, peak memory of the renderer, MB`] = peakMB;
        rows[`${what}, longest task of the page meanwhile, ms (0: none over 50)`] = longestTaskMs;
        rows[`${what}, from Cancel to its end, ms`] = cancelledMs;
      });
    }
  });
}

/** How soon Start answers, what it fetches for that, and how soon a first visit has its first picture while the service worker is at work. */
async function startRows(rows: Rows, page: Page, picture: string): Promise<void> {
  const [seconds, kilobytes]: [number[], number[]] = [[], []];
  for (let turn = 0; turn < STARTS; turn += 1) {
    await page.reload({ waitUntil: 'commit' });
    const answers = await page.evaluate(async () => {
      while (!document.querySelector('ap-start input[type=file]')) await new Promise((resolve) => setTimeout(resolve, 4));
      await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
      const scripts = performance.getEntriesByType('resource').filter(({ name }) => name.endsWith('.js')) as PerformanceResourceTiming[];
      return { ms: performance.now(), bytes: scripts.reduce((sum, { decodedBodySize }) => sum + decodedBodySize, 0) };
    });
    seconds.push(answers.ms / 1000);
    kilobytes.push(answers.bytes / 1000);
  }
  rows['Start to interactive on a warm cache, s'] = median(seconds);
  rows['script until Start is interactive, kB'] = median(kilobytes);
  const first = await (page.context().browser() as Browser).newContext({ viewport: { width: 1280, height: 800 } });
  const visit = await first.newPage();
  await visit.goto(page.url());
  const started = performance.now();
  await choose(visit, picture);
  rows['first visit: from a file to its picture while the service worker takes everything in, s'] = (performance.now() - started) / 1000;
  await first.close();
}

/** Opens a picture's file, or nothing yet, in a browser of its own, so that what pages before it left behind is not counted. */
export type WithPage = (file: string | null, work: (page: Page) => Promise<void>) => Promise<void>;

/** The server and Chromium; the application must be built. */
export async function inBrowsers(root: string, measure: (withPage: WithPage) => Promise<void>): Promise<void> {
  const { server, address } = await listen({ app: join(root, 'dist/app/browser'), demo: join(root, 'demo/job') }, 0);
  try {
    await measure(async (file, work) => {
      const browser = await chromium.launch({
        executablePath: process.env['CHROMIUM_PATH'] ?? '/usr/bin/chromium',
        args: ['--no-sandbox', '--disable-gpu'],
      });
      try {
        await work(await openedIn(browser, address, file));
      } finally {
        await browser.close();
      }
    });
  } finally {
    server.close();
  }
}

async function openedIn(browser: Browser, address: string, file: string | null): Promise<Page> {
  const page = await browser.newPage({ serviceWorkers: 'block', viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  await page.goto(address);
  if (file !== null) await choose(page, file);
  return page;
}

/** Gives Start a file and waits for its picture. */
async function choose(page: Page, file: string): Promise<void> {
  await page.locator('input[type=file]').first().setInputFiles(file);
  await page.waitForURL('**/bench/**');
  await page.locator('ap-stage .area > canvas[data-drawn]').waitFor({ timeout: 120_000 });
}

/** Files of the pump hall by megapixels; those of other sizes are made once. */
async function hallBySize(root: string): Promise<Readonly<Record<6 | 24 | 100, string>>> {
  const hall = join(root, 'demo/job/pump-hall-front.jpg');
  const resized = async (megapixels: number, { width, height }: Size): Promise<string> => {
    const file = join(root, `.cache/bench/hall-${megapixels}.jpg`);
    if (existsSync(file)) return file;
    mkdirSync(dirname(file), { recursive: true });
    await sharp(hall).keepExif().resize(width, height).jpeg({ quality: 92 }).toFile(file);
    return file;
  };
  return { 6: await resized(6, SMALL), 24: hall, 100: await resized(100, LARGE) };
}

/** What exports of the open picture take. */
interface ExportFigures {
  /** From the press of Export to the file, one after the other in turns, s. */
  readonly full: readonly number[];
  readonly halved: readonly number[];
  readonly cancelledMs: number;
  readonly longestTaskMs: number;
  readonly peakMB: number;
}

/** Tilts the open picture and exports it, once cancelled while it is drawn and then to the end, with full and halved colour in turns. */
async function exports(page: Page): Promise<ExportFigures> {
  await page.locator('ap-string').getByText('Stance', { exact: true }).click();
  await page.getByLabel('Tilt', { exact: true }).fill('6');
  await page.getByLabel('Tilt', { exact: true }).press('Enter');
  await page.locator('ap-string').getByText('Export', { exact: true }).click();
  await page.getByRole('radio', { name: 'JPEG' }).click();
  const start = page.getByRole('button', { name: 'Export', exact: true });
  await start.click();
  await page.getByText(/Resampling/).waitFor();
  const cancelledMs = await page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const cancel = Array.from(document.querySelectorAll('button')).find((b) => b.textContent?.trim() === 'Cancel') as HTMLButtonElement;
        const started = performance.now();
        const observer = new MutationObserver(() => {
          if (!document.querySelector('.done.trouble')) return;
          observer.disconnect();
          resolve(performance.now() - started);
        });
        observer.observe(document.body, { childList: true, subtree: true });
        cancel.click();
      }),
  );
  await watchTasks(page);
  let peakMB = 0;
  // asking more often takes time from what is measured
  const looking = setInterval(() => (peakMB = Math.max(peakMB, largestRendererMB())), 200);
  const taken: Record<'full' | 'halved', number[]> = { full: [], halved: [] };
  for (let turn = 0; turn < TURNS; turn += 1)
    for (const colour of ['full', 'halved'] as const) {
      await page.getByRole('radio', { name: colour }).click();
      const started = performance.now();
      const [download] = await Promise.all([page.waitForEvent('download', { timeout: 300_000 }), start.click()]);
      await download.path();
      taken[colour].push((performance.now() - started) / 1000);
    }
  clearInterval(looking);
  return {
    ...taken,
    cancelledMs,
    longestTaskMs: await longestTaskMs(page),
    peakMB,
  };
}

/** From now on the page's own tasks over 50 ms are looked for. */
export const watchTasks = (page: Page): Promise<void> =>
  page.evaluate(() => {
    const scope = window as unknown as { longest: number };
    scope.longest = 0;
    new PerformanceObserver((list) => {
      for (const task of list.getEntries()) scope.longest = Math.max(scope.longest, task.duration);
    }).observe({ type: 'longtask' });
  });

/** The longest since then, ms; 0 where none was over 50. */
export const longestTaskMs = (page: Page): Promise<number> => page.evaluate(() => (window as unknown as { longest: number }).longest);

/** Resident memory of the largest of Chromium's renderers, shared parts counted once; 0 where there is no /proc. */
export function largestRendererMB(): number {
  let largest = 0;
  const entries = existsSync('/proc') ? readdirSync('/proc').filter((name) => /^\d+$/.test(name)) : [];
  for (const id of entries) {
    try {
      if (!readFileSync(`/proc/${id}/cmdline`, 'utf8').includes('--type=renderer')) continue;
      const rss = /VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${id}/status`, 'utf8'));
      largest = Math.max(largest, Number(rss?.[1] ?? 0) / 1024);
    } catch {
      // it has just ended
    }
  }
  return largest;
}

async function drag(page: Page): Promise<PreviewFigures> {
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
