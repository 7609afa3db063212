import { Injectable } from '@angular/core';
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { LensProfile } from '@able-plumb/core';
import type { History, Job, Picture, Settings } from '../state/model';

type StoredHistory = Pick<History, 'past' | 'present' | 'future'>;

interface ShelfSchema extends DBSchema {
  jobs: { key: string; value: Job };
  pictures: { key: string; value: Picture; indexes: { byJob: string } };
  /** The untouched files. */
  originals: { key: string; value: Blob };
  /** Small JPEGs of the originals, for lists. */
  thumbnails: { key: string; value: Blob };
  histories: { key: string; value: StoredHistory };
  settings: { key: string; value: Settings };
  /** Lens profiles, by id. */
  profiles: { key: string; value: LensProfile };
}

/** Where everything of a picture lies, by its id. */
const STORES_OF_PICTURE = ['pictures', 'originals', 'thumbnails', 'histories'] as const;

/** Jobs, original files and corrections in the browser. Every method is one transaction: all of it or nothing. */
@Injectable({ providedIn: 'root' })
export class Shelf {
  private readonly database: Promise<IDBPDatabase<ShelfSchema>> = openDB<ShelfSchema>('able-plumb', 2, {
    upgrade(db, before) {
      if (before < 2) db.createObjectStore('profiles', { keyPath: 'id' });
      if (before >= 1) return;
      db.createObjectStore('jobs', { keyPath: 'id' });
      db.createObjectStore('pictures', { keyPath: 'id' }).createIndex('byJob', 'jobId');
      db.createObjectStore('originals');
      db.createObjectStore('thumbnails');
      db.createObjectStore('histories');
      db.createObjectStore('settings');
    },
  });

  async load(): Promise<{ jobs: Job[]; pictures: Picture[]; profiles: LensProfile[]; settings: Settings | null }> {
    const db = await this.database;
    const [jobs, pictures, profiles, settings] = await Promise.all([
      db.getAll('jobs'),
      db.getAll('pictures'),
      db.getAll('profiles'),
      db.get('settings', 'all'),
    ]);
    return { jobs, pictures, profiles, settings: settings ?? null };
  }

  async saveJob(job: Job): Promise<void> {
    await (await this.database).put('jobs', job);
  }

  /** Adds a picture with its file and first history to a job. */
  async addPicture(jobId: string, picture: Picture, original: Blob, thumbnail: Blob | null, history: StoredHistory): Promise<Job | null> {
    const transaction = (await this.database).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const job = await transaction.objectStore('jobs').get(jobId);
    if (!job) return null;
    const next: Job = { ...job, changedAt: Date.now(), pictureIds: [...job.pictureIds, picture.id] };
    await Promise.all([
      transaction.objectStore('jobs').put(next),
      transaction.objectStore('pictures').put(picture),
      transaction.objectStore('originals').put(original, picture.id),
      ...(thumbnail ? [transaction.objectStore('thumbnails').put(thumbnail, picture.id)] : []),
      transaction.objectStore('histories').put(history, picture.id),
      transaction.done,
    ]);
    return next;
  }

  /** Removes a job with everything in it. */
  async removeJob(jobId: string): Promise<void> {
    const transaction = (await this.database).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const ids = await transaction.objectStore('pictures').index('byJob').getAllKeys(jobId);
    await Promise.all([
      transaction.objectStore('jobs').delete(jobId),
      ...ids.flatMap((id) => STORES_OF_PICTURE.map((store) => transaction.objectStore(store).delete(id))),
      transaction.done,
    ]);
  }

  async savePictures(pictures: readonly Picture[]): Promise<void> {
    const transaction = (await this.database).transaction('pictures', 'readwrite');
    await Promise.all([...pictures.map((picture) => transaction.store.put(picture)), transaction.done]);
  }

  /** Removes pictures of a job with everything that belongs to them. */
  async removePictures(jobId: string, ids: readonly string[]): Promise<Job | null> {
    const transaction = (await this.database).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const job = await transaction.objectStore('jobs').get(jobId);
    const pictureIds = (job?.pictureIds ?? []).filter((id) => !ids.includes(id));
    const next: Job | null = job ? { ...job, changedAt: Date.now(), pictureIds } : null;
    await Promise.all([
      next ? transaction.objectStore('jobs').put(next) : null,
      ...ids.flatMap((id) => STORES_OF_PICTURE.map((store) => transaction.objectStore(store).delete(id))),
      transaction.done,
    ]);
    return next;
  }

  async original(pictureId: string): Promise<Blob | null> {
    return (await (await this.database).get('originals', pictureId)) ?? null;
  }

  async thumbnail(pictureId: string): Promise<Blob | null> {
    return (await (await this.database).get('thumbnails', pictureId)) ?? null;
  }

  /** Changes a job in one transaction; null when it is gone. */
  async changeJob(jobId: string, change: (job: Job) => Job): Promise<Job | null> {
    const transaction = (await this.database).transaction('jobs', 'readwrite');
    const job = await transaction.store.get(jobId);
    const next = job ? change(job) : null;
    await Promise.all([next ? transaction.store.put(next) : null, transaction.done]);
    return next;
  }

  /** Notes which picture of a job was opened last. */
  pictureOpened(jobId: string, pictureId: string): Promise<Job | null> {
    return this.changeJob(jobId, (job) => ({ ...job, lastPictureId: pictureId }));
  }

  async histories(pictureIds: readonly string[]): Promise<Record<string, StoredHistory>> {
    const transaction = (await this.database).transaction('histories');
    const found = await Promise.all(pictureIds.map(async (id) => [id, await transaction.store.get(id)] as const));
    return Object.fromEntries(found.filter((entry): entry is readonly [string, StoredHistory] => entry[1] !== undefined));
  }

  async saveHistory(pictureId: string, { past, present, future }: StoredHistory): Promise<void> {
    await (await this.database).put('histories', { past, present, future }, pictureId);
  }

  async saveProfile(profile: LensProfile): Promise<void> {
    await (await this.database).put('profiles', profile);
  }

  async removeProfile(id: string): Promise<void> {
    await (await this.database).delete('profiles', id);
  }

  async saveSettings(settings: Settings): Promise<void> {
    await (await this.database).put('settings', settings, 'all');
  }
}

/** What to tell the user when the shelf refuses to take something. */
export function shelfSentence(error: unknown): string {
  const name = error instanceof Error ? error.name : '';
  if (name === 'QuotaExceededError') {
    return 'The browser has no room left: the last change is not kept. Everything before it is safe. Remove a job you no longer need, or free disk space, then change something again.';
  }
  return `The browser could not keep the last change (${error instanceof Error ? error.message : String(error)}). What was kept before is safe. Load the page again; if it happens again, export what you need.`;
}
