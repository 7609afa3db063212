import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { LensProfile } from '@able-plumb/core';
import type { Job, Picture, Settings } from '../state/model';
import type { StoredHistory, StoredPresent } from './records';

export interface ShelfSchema extends DBSchema {
  jobs: { key: string; value: Job };
  pictures: { key: string; value: Picture; indexes: { byJob: string } };
  /** The untouched files. */
  originals: { key: string; value: Blob };
  /** Small JPEGs of the originals, for lists. */
  thumbnails: { key: string; value: Blob };
  histories: { key: string; value: StoredHistory };
  /** Newest documents, small enough to be written with every change; their histories follow. */
  presents: { key: string; value: StoredPresent };
  settings: { key: string; value: Partial<Settings> };
  /** Lens profiles, by id. */
  profiles: { key: string; value: LensProfile };
}

export type Database = IDBPDatabase<ShelfSchema>;

const NAME = 'able-plumb';
const VERSION = 3;

/** The database, and what a person has to know of it; null when there is nothing. */
export interface Opened {
  readonly database: Database;
  readonly notice: string | null;
}

const NOTHING_IS_KEPT =
  'What you do here lasts until this page is closed: save jobs as files before that. Everything else works as it always does.';

/**
 * Opens the browser's database. Where the browser has none, or a newer Able Plumb has one that this one cannot read, one in memory takes
 * its place, so that there is still something to work with.
 *
 * @param say told once the database is lost: another tab needs it in a newer version, or the browser closed it
 */
export async function openDatabase(say: (sentence: string) => void): Promise<Opened> {
  try {
    if (typeof indexedDB === 'undefined') throw new Error('this browser has none for pages, or it is switched off');
    return { database: await open(say), notice: null };
  } catch (error) {
    const why =
      (error as Error).name === 'VersionError'
        ? 'The jobs in this browser were kept by a newer Able Plumb than this page is: they are safe, and are not touched. Load the page again to get the newer one.'
        : `The browser's storage cannot be used (${(error as Error).message}). Jobs that lie in it are not touched.`;
    // puts itself in the place of the browser's own
    await import('fake-indexeddb/auto');
    return { database: await open(say), notice: `${why} ${NOTHING_IS_KEPT}` };
  }
}

const open = (say: (sentence: string) => void): Promise<Database> =>
  openDB<ShelfSchema>(NAME, VERSION, {
    upgrade(db, before) {
      if (before < 3) db.createObjectStore('presents');
      if (before < 2) db.createObjectStore('profiles', { keyPath: 'id' });
      if (before >= 1) return;
      db.createObjectStore('jobs', { keyPath: 'id' });
      db.createObjectStore('pictures', { keyPath: 'id' }).createIndex('byJob', 'jobId');
      db.createObjectStore('originals');
      db.createObjectStore('thumbnails');
      db.createObjectStore('histories');
      db.createObjectStore('settings');
    },
    blocked: () =>
      say('Another tab holds the jobs with an older Able Plumb. Close that tab, or load it again: this one then goes on by itself.'),
    blocking: (_now, _wanted, event) => {
      // a newer one is never kept waiting
      (event.target as IDBDatabase).close();
      say('A newer Able Plumb was opened in another tab. What was saved here is safe; load this page again to go on.');
    },
    terminated: () => say('The browser closed its storage. What was saved is safe; load this page again to go on.'),
  });
