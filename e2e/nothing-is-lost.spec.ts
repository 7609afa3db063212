import { createHash } from 'node:crypto';
import type { Page } from '@playwright/test';
import { demoPicture, expect, onBench, slippingHorizon, test } from './support';

/** Ends of the renderer; more on demand. */
const KILLS = Number(process.env['KILLS'] ?? 8);
/** What was committed longer ago than this when the renderer ends must be there again, ms. */
const PROMISED_MS = 200;

interface Seen {
  /** When it was committed, and how many changes there were then. */
  readonly commits: readonly (readonly [at: number, version: number])[];
  /** The last version that was shown as saved. */
  readonly saved: number;
}

function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/** What lies on the shelf of one picture. */
const stored = (page: Page, id: string): Promise<{ version: number; sha256: string }> =>
  page.evaluate(async (pictureId) => {
    const open = indexedDB.open('able-plumb');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const transaction = open.result.transaction(['histories', 'presents', 'originals']);
    const [history, newest, original] = [
      transaction.objectStore('histories').get(pictureId),
      transaction.objectStore('presents').get(pictureId),
      transaction.objectStore('originals').get(pictureId),
    ];
    await new Promise((resolve) => (transaction.oncomplete = resolve));
    const digest = await crypto.subtle.digest('SHA-256', await (original.result as Blob).arrayBuffer());
    open.result.close();
    const sha256 = Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('');
    const versions = [history.result, newest.result].map((record) => (record as { version: number } | undefined)?.version ?? 0);
    return { version: Math.max(...versions), sha256 };
  }, id);

test('the renderer ends at random moments of random work: what was saved, and what was done before, is there again', async ({
  browser,
}) => {
  test.setTimeout(60_000 + KILLS * 30_000);
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const picture = await slippingHorizon(1200, 800, 2);
  const originals = [picture, demoPicture('name-plate.jpg')].map((file) => createHash('sha256').update(file).digest('hex'));
  const random = seeded(Number(process.env['SEED'] ?? 5));

  let page = await context.newPage();
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([
      { name: 'horizon.png', mimeType: 'image/png', buffer: picture },
      { name: 'plate.jpg', mimeType: 'image/jpeg', buffer: demoPicture('name-plate.jpg') },
    ]);
  await onBench(page);
  const ids = await page.evaluate(async () => {
    const open = indexedDB.open('able-plumb');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const jobs = open.result.transaction('jobs').objectStore('jobs').getAll();
    await new Promise((resolve) => (jobs.onsuccess = resolve));
    open.result.close();
    return (jobs.result as { pictureIds: string[] }[])[0]!.pictureIds;
  });
  const before = new Map<string, number>();
  for (const id of ids) before.set(id, (await stored(page, id)).version);

  for (let kill = 0; kill < KILLS; kill += 1) {
    // each change is told to this side at the moment it is made, and each time that the bench shows "saved"
    const seen = new Map<string, { commits: [number, number][]; saved: number }>(
      ids.map((id) => [id, { commits: [], saved: before.get(id)! }]),
    );
    await page.exposeFunction('told', (id: string, kind: 'commit' | 'saved', version: number) => {
      const of = seen.get(id);
      if (kind === 'commit') of?.commits.push([Date.now(), version]);
      else if (of) of.saved = Math.max(of.saved, version);
    });
    await page.evaluate(() => {
      const told = (window as unknown as { told: (id: string, kind: string, version: number) => void }).told;
      let [last, text] = ['', ''];
      // the bench is made anew for each picture: looked at in every frame
      const look = (): void => {
        const status = document.querySelector<HTMLElement>('.saved');
        const { picture = '', version = '0' } = status?.dataset ?? {};
        if (`${picture} ${version}` !== last && picture) told(picture, 'commit', Number(version));
        if ((`${picture} ${version}` !== last || text !== status?.textContent) && status?.textContent === 'saved')
          told(picture, 'saved', Number(version));
        [last, text] = [`${picture} ${version}`, status?.textContent ?? ''];
        requestAnimationFrame(look);
      };
      look();
    });
    const ends = Date.now() + 300 + random() * 2500;
    const area = (await page.locator('ap-stage .area').boundingBox())!;
    const at = (): [number, number] => [area.x + area.width * (0.25 + 0.5 * random()), area.y + area.height * (0.35 + 0.3 * random())];
    while (Date.now() < ends) {
      const what = random();
      if (what < 0.3) {
        // a line, or a drag of what is there
        await page.mouse.move(...at());
        await page.mouse.down();
        await page.mouse.move(...at(), { steps: 3 });
        await page.mouse.up();
      } else if (what < 0.6) {
        // a key that is held
        for (let i = 0; i < 12; i += 1) await page.keyboard.down('ArrowUp');
        await page.keyboard.up('ArrowUp');
      } else if (what < 0.7) await page.keyboard.press('Control+z');
      else if (what < 0.8) await page.keyboard.press('.');
      else if (what < 0.9) await page.keyboard.press(random() < 0.5 ? 'PageDown' : 'PageUp');
      else await page.keyboard.press('k');
      await page.waitForTimeout(random() * 60);
    }
    const ended = Date.now();
    const session = await context.newCDPSession(page);
    const crashed = new Promise((resolve) => page.once('crash', resolve));
    void session.send('Page.crash').catch(() => undefined);
    await crashed;
    // its tab stays as browsers leave it; what follows is a new one

    page = await context.newPage();
    await page.goto('/');
    await page.locator('.thumbs').first().click();
    await onBench(page);
    for (const [i, id] of ids.entries()) {
      const there = await stored(page, id);
      const { commits, saved } = seen.get(id)! as Seen;
      const promised = Math.max(
        before.get(id)!,
        saved,
        ...commits.filter(([when]) => when < ended - PROMISED_MS).map(([, version]) => version),
      );
      expect(there.version, `end ${kill}, picture ${i}`).toBeGreaterThanOrEqual(promised);
      expect(there.sha256).toBe(originals[i]);
      before.set(id, there.version);
    }
  }
  await context.close();
});

test('the renderer ends while pictures are taken in: each is there whole or not at all, and the job opens', async ({ browser }) => {
  const ends = Math.max(2, Math.round(KILLS / 3));
  test.setTimeout(60_000 + ends * 30_000);
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const random = seeded(23);
  const files = await Promise.all([0, 1, 2, 3].map((i) => slippingHorizon(900, 600, i)));
  const hashes = files.map((file) => createHash('sha256').update(file).digest('hex'));
  for (let end = 0; end < ends; end += 1) {
    let page = await context.newPage();
    await page.goto('/');
    await expect(page.locator('footer')).toContainText('used in this browser');
    await page
      .locator('input[type=file]')
      .first()
      .setInputFiles(files.map((buffer, i) => ({ name: `${end}-${i}.png`, mimeType: 'image/png', buffer })));
    await page.waitForTimeout(random() * 900);
    const crashed = new Promise((resolve) => page.once('crash', resolve));
    const session = await context.newCDPSession(page);
    void session.send('Page.crash').catch(() => undefined);
    await crashed;
    page = await context.newPage();
    await page.goto('/');
    await expect(page.locator('footer')).toContainText('used in this browser');
    const jobs = await page.evaluate(async () => {
      const open = indexedDB.open('able-plumb');
      await new Promise((resolve) => (open.onsuccess = resolve));
      const transaction = open.result.transaction(['jobs', 'pictures', 'histories']);
      const [jobs, pictures, histories] = [
        transaction.objectStore('jobs').getAll(),
        transaction.objectStore('pictures').getAllKeys(),
        transaction.objectStore('histories').getAllKeys(),
      ];
      await new Promise((resolve) => (transaction.oncomplete = resolve));
      open.result.close();
      return { jobs: jobs.result as { pictureIds: string[] }[], pictures: pictures.result, histories: histories.result };
    });
    const listed = jobs.jobs.flatMap((job) => job.pictureIds).sort();
    expect([...jobs.pictures].sort()).toEqual(listed);
    expect([...jobs.histories].sort()).toEqual(listed);
    for (const id of listed.slice(-4)) expect(hashes).toContain((await stored(page, id)).sha256);
    const holding = page.locator('.card', { has: page.locator('.thumb') });
    if ((await holding.count()) > 0) {
      await holding.first().locator('.thumbs').click();
      await onBench(page);
    }
    await page.close();
  }
  await context.close();
});
