import { inject, Injectable, InjectionToken } from '@angular/core';
import type { LensProfile } from '@able-plumb/core';
import type { Job, Picture, Settings } from '../state/model';
import { openDatabase, type Opened } from './open-database';
import { readHistory, readJobs, readPictures, readProfiles, readSettings, type StoredHistory, type StoredPresent } from './records';

/** Where everything of a picture alone lies, by its id; and what several can share, by the id of the one that brought it. */
const OWN_STORES = ['pictures', 'histories', 'presents'] as const;
const SHARED_STORES = ['originals', 'thumbnails'] as const;
const STORES_OF_PICTURE = [...OWN_STORES, ...SHARED_STORES] as const;

/** The id under which a picture's original and thumbnail lie. */
const keyOf = ({ id, original }: Picture): string => original ?? id;

/** Everything in sight when the application starts. */
export interface ShelfContents {
  readonly jobs: readonly Job[];
  readonly pictures: readonly Picture[];
  readonly profiles: readonly LensProfile[];
  readonly settings: Partial<Settings>;
  /** Sentences that a person has to know of it. */
  readonly notices: readonly string[];
}

/** What a history was read as; damaged where part of it, or all, could not be read. */
export interface ReadHistory {
  readonly history: StoredHistory | null;
  readonly damaged: boolean;
}

/** What became of a history that was to be kept: another tab's, which is newer, is never written over. */
export type HistoryKept =
  { readonly kind: 'kept' } | { readonly kind: 'gone' } | { readonly kind: 'newer'; readonly history: StoredHistory };

/** Told when the shelf has something to say by itself. */
export const SHELF_SAYS = new InjectionToken<(sentence: string) => void>('says of the shelf', { factory: () => () => undefined });

/** Jobs, original files and corrections in the browser. Every method is one transaction: all of it or nothing. */
@Injectable({ providedIn: 'root' })
export class Shelf {
  private readonly opened: Promise<Opened> = openDatabase(inject(SHELF_SAYS));

  /** Lets go of the database. */
  async close(): Promise<void> {
    (await this.database()).close();
  }

  private async database(): Promise<Opened['database']> {
    return (await this.opened).database;
  }

  /** Jobs, pictures, profiles and settings. Records that cannot be read are left where they are, and counted in a notice. */
  async load(): Promise<ShelfContents> {
    const { database, notice } = await this.opened;
    const [jobs, pictures, profiles, settings] = await Promise.all([
      database.getAll('jobs').then(readJobs),
      database.getAll('pictures').then(readPictures),
      database.getAll('profiles').then(readProfiles),
      database.get('settings', 'all').then(readSettings),
    ]);
    const damaged = jobs.damaged + pictures.damaged + profiles.damaged;
    const notices = [
      ...(notice === null ? [] : [notice]),
      ...(damaged === 0
        ? []
        : [
            `${damaged === 1 ? 'One record' : `${damaged} records`} in this browser cannot be read, and what belongs to ${damaged === 1 ? 'it' : 'them'} is not shown. Everything else is safe; nothing was removed.`,
          ]),
    ];
    return { jobs: jobs.records, pictures: pictures.records, profiles: profiles.records, settings, notices };
  }

  /** A job with its pictures as they are now; null when it is gone. */
  async job(jobId: string): Promise<{ readonly job: Job; readonly pictures: readonly Picture[] } | null> {
    const transaction = (await this.database()).transaction(['jobs', 'pictures']);
    const [job, pictures] = await Promise.all([
      transaction.objectStore('jobs').get(jobId),
      transaction.objectStore('pictures').index('byJob').getAll(jobId),
    ]);
    const found = readJobs(job ? [job] : []).records[0];
    return found ? { job: found, pictures: readPictures(pictures).records } : null;
  }

  async profiles(): Promise<readonly LensProfile[]> {
    return readProfiles(await (await this.database()).getAll('profiles')).records;
  }

  async settings(): Promise<Partial<Settings>> {
    return readSettings(await (await this.database()).get('settings', 'all'));
  }

  async saveJob(job: Job): Promise<void> {
    await (await this.database()).put('jobs', job);
  }

  /**
   * Adds a picture with its file and first history to a job.
   * @param original its file; null where it shares one that is there
   * @param after the picture behind which it comes; the last one where that is missing or gone
   */
  async addPicture(
    jobId: string,
    picture: Picture,
    original: Blob | null,
    thumbnail: Blob | null,
    history: StoredHistory,
    after?: string,
  ): Promise<Job | null> {
    const transaction = (await this.database()).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const job = await transaction.objectStore('jobs').get(jobId);
    if (!job) return null;
    const at = after === undefined ? -1 : job.pictureIds.indexOf(after);
    const pictureIds = at < 0 ? [...job.pictureIds, picture.id] : job.pictureIds.toSpliced(at + 1, 0, picture.id);
    const next: Job = { ...job, changedAt: Date.now(), pictureIds };
    await Promise.all([
      transaction.objectStore('jobs').put(next),
      transaction.objectStore('pictures').put(picture),
      ...(original ? [transaction.objectStore('originals').put(original, picture.id)] : []),
      ...(thumbnail ? [transaction.objectStore('thumbnails').put(thumbnail, picture.id)] : []),
      transaction.objectStore('histories').put(stored(history), picture.id),
      transaction.done,
    ]);
    return next;
  }

  /** Removes a job with everything in it. */
  async removeJob(jobId: string): Promise<void> {
    const transaction = (await this.database()).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const ids = await transaction.objectStore('pictures').index('byJob').getAllKeys(jobId);
    // an original is shared within its job alone; it may lie under the id of a picture that is gone already
    const pictures = readPictures(await transaction.objectStore('pictures').index('byJob').getAll(jobId)).records;
    const keys = new Set([...ids, ...pictures.map(keyOf)]);
    await Promise.all([
      transaction.objectStore('jobs').delete(jobId),
      ...ids.flatMap((id) => OWN_STORES.map((store) => transaction.objectStore(store).delete(id))),
      ...[...keys].flatMap((key) => SHARED_STORES.map((store) => transaction.objectStore(store).delete(key))),
      transaction.done,
    ]);
  }

  async savePictures(pictures: readonly Picture[]): Promise<void> {
    const transaction = (await this.database()).transaction('pictures', 'readwrite');
    await Promise.all([...pictures.map((picture) => transaction.store.put(picture)), transaction.done]);
  }

  /** Removes pictures of a job with everything that belongs to them; an original goes with the last picture that is made of it. */
  async removePictures(jobId: string, ids: readonly string[]): Promise<Job | null> {
    const transaction = (await this.database()).transaction(['jobs', ...STORES_OF_PICTURE], 'readwrite');
    const job = await transaction.objectStore('jobs').get(jobId);
    const pictureIds = (job?.pictureIds ?? []).filter((id) => !ids.includes(id));
    const next: Job | null = job ? { ...job, changedAt: Date.now(), pictureIds } : null;
    const pictures = readPictures(await transaction.objectStore('pictures').index('byJob').getAll(jobId)).records;
    const needed = new Set(pictures.filter(({ id }) => !ids.includes(id)).map(keyOf));
    const keys = new Set([...ids, ...pictures.filter(({ id }) => ids.includes(id)).map(keyOf)].filter((key) => !needed.has(key)));
    await Promise.all([
      next ? transaction.objectStore('jobs').put(next) : null,
      ...ids.flatMap((id) => OWN_STORES.map((store) => transaction.objectStore(store).delete(id))),
      ...[...keys].flatMap((key) => SHARED_STORES.map((store) => transaction.objectStore(store).delete(key))),
      transaction.done,
    ]);
    return next;
  }

  original(pictureId: string): Promise<Blob | null> {
    return this.shared('originals', pictureId);
  }

  thumbnail(pictureId: string): Promise<Blob | null> {
    return this.shared('thumbnails', pictureId);
  }

  private async shared(store: (typeof SHARED_STORES)[number], pictureId: string): Promise<Blob | null> {
    const transaction = (await this.database()).transaction(['pictures', store]);
    const [picture] = readPictures([await transaction.objectStore('pictures').get(pictureId)]).records;
    return (await transaction.objectStore(store).get(picture ? keyOf(picture) : pictureId)) ?? null;
  }

  /** Puts a larger small picture in the place of one. */
  async saveThumbnail(key: string, thumbnail: Blob): Promise<void> {
    await (await this.database()).put('thumbnails', thumbnail, key);
  }

  /** Changes a job in one transaction; null when it is gone. */
  async changeJob(jobId: string, change: (job: Job) => Job): Promise<Job | null> {
    const transaction = (await this.database()).transaction('jobs', 'readwrite');
    const job = await transaction.store.get(jobId);
    const next = job ? change(job) : null;
    await Promise.all([next ? transaction.store.put(next) : null, transaction.done]);
    return next;
  }

  async histories(pictureIds: readonly string[]): Promise<Readonly<Record<string, ReadHistory>>> {
    const transaction = (await this.database()).transaction(['histories', 'presents']);
    const all = (store: 'histories' | 'presents'): Promise<unknown[]> =>
      Promise.all(pictureIds.map((id) => transaction.objectStore(store).get(id) as Promise<unknown>));
    const [raw, newest] = await Promise.all([all('histories'), all('presents')]);
    return Object.fromEntries(
      pictureIds.map((id, i): [string, ReadHistory] => {
        const read = readHistory(raw[i], newest[i]);
        return [id, { history: read?.history ?? null, damaged: raw[i] !== undefined && !(read?.whole ?? false) }];
      }),
    );
  }

  /**
   * Keeps a history.
   *
   * @param known the version that this tab last read or wrote: a newer one on the shelf is another tab's, and stays. Null for a job that
   *   only this tab writes: then all is on its way to the shelf before this turn ends, whatever becomes of the page
   */
  async saveHistory(jobId: string, pictureId: string, history: StoredHistory, known: number | null): Promise<HistoryKept> {
    if (known === null) {
      await this.putNow('histories', pictureId, stored(history));
      return { kind: 'kept' };
    }
    const transaction = (await this.database()).transaction(['jobs', 'histories', 'presents'], 'readwrite', { durability: 'relaxed' });
    const histories = transaction.objectStore('histories');
    const [job, before, newest] = await Promise.all([
      transaction.objectStore('jobs').get(jobId),
      histories.get(pictureId),
      transaction.objectStore('presents').get(pictureId),
    ]);
    if (!job?.pictureIds.includes(pictureId)) {
      await transaction.done;
      return { kind: 'gone' };
    }
    const there = Math.max(readVersion(before), readVersion(newest));
    const newer = there > known ? readHistory(before, newest) : null;
    if (newer) {
      await transaction.done;
      return { kind: 'newer', history: newer.history };
    }
    await Promise.all([histories.put(stored(history), pictureId), transaction.done]);
    return { kind: 'kept' };
  }

  /** Keeps the newest document of a picture that only this tab writes: all is on its way before this turn ends. */
  savePresent(pictureId: string, { present, version }: StoredPresent): Promise<void> {
    return this.putNow('presents', pictureId, { present, version });
  }

  private async putNow(store: 'histories' | 'presents', pictureId: string, value: StoredHistory | StoredPresent): Promise<void> {
    const transaction = (await this.database()).transaction(store, 'readwrite', { durability: 'relaxed' });
    const put = transaction.store.put(value as never, pictureId);
    transaction.commit();
    await Promise.all([put, transaction.done]);
  }

  async saveProfile(profile: LensProfile): Promise<void> {
    await (await this.database()).put('profiles', profile);
  }

  async removeProfile(id: string): Promise<void> {
    await (await this.database()).delete('profiles', id);
  }

  /** Changes some of the settings; what another tab set of the others stays. */
  async changeSettings(change: Partial<Settings>): Promise<void> {
    const transaction = (await this.database()).transaction('settings', 'readwrite', { durability: 'relaxed' });
    const before = readSettings(await transaction.store.get('all'));
    await Promise.all([transaction.store.put({ ...before, ...change }, 'all'), transaction.done]);
  }
}

const stored = ({ past, present, future, version }: StoredHistory): StoredHistory => ({ past, present, future, version });

const readVersion = (record: unknown): number => {
  const version = (record as { version?: unknown } | undefined)?.version;
  return typeof version === 'number' ? version : 0;
};
