// services are compiled when a test loads them
import '@angular/compiler';
import 'fake-indexeddb/auto';
import {
  createEnvironmentInjector,
  DOCUMENT,
  ErrorHandler,
  ɵINJECTOR_SCOPE as INJECTOR_SCOPE,
  Injector,
  type EnvironmentInjector,
  type EnvironmentProviders,
  type Provider,
} from '@angular/core';
import { provideEffects } from '@ngrx/effects';
import { provideState, provideStore, Store } from '@ngrx/store';
import { newCorrection, type Correction, type Size } from '@able-plumb/core';
import { KeeperEffects } from '../app/keeper/keeper.effects';
import { LinkEffects } from '../app/keeper/link.effects';
import { SheetEffects } from '../app/keeper/sheet.effects';
import { SHELF_SAYS } from '../app/shelf/shelf';
import { benchFeature } from '../app/state/bench.reducer';
import { contactFeature } from '../app/state/contact.reducer';
import { findingFeature } from '../app/state/finding.reducer';
import { correctionsFeature } from '../app/state/corrections.reducer';
import { jobsFeature } from '../app/state/jobs.reducer';
import { profilesFeature } from '../app/state/profiles.reducer';
import { savingFeature } from '../app/state/saving.reducer';
import { shelfActions } from '../app/state/shelf.actions';
import { FilesClient } from '../app/work/files-client';
import { FindClient } from '../app/work/find-client';
import { StageClient } from '../app/work/stage-client';
import { FakeLocks } from './fake-locks';

/** Answers of a worker, in a test's own way; a question that is not here is never answered. */
export type Answers = Readonly<Record<string, (...asked: never[]) => unknown>>;

const fakeWorker = (answers: Answers): object =>
  new Proxy(
    {},
    { get: (_, kind) => (kind === 'preview' ? async () => null : (answers[String(kind)] ?? (() => new Promise(() => undefined)))) },
  );

/** One tab of the application without its screens: its own store and services, on the shelf that all tabs of a test share. */
export function openTab(answers: Answers = {}, more: readonly (Provider | EnvironmentProviders)[] = []): EnvironmentInjector {
  const parent = Injector.create({ providers: [] }) as EnvironmentInjector;
  const document = {
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
    defaultView: { navigator: { locks: new FakeLocks() } },
  };
  const tab = createEnvironmentInjector(
    [
      // the place of an application, without a page
      { provide: INJECTOR_SCOPE, useValue: 'root' },
      { provide: DOCUMENT, useValue: document },
      { provide: ErrorHandler, useValue: { handleError: (error: unknown) => Promise.reject(error) } },
      { provide: FilesClient, useValue: { inspect } },
      { provide: StageClient, useValue: fakeWorker(answers) },
      // pictures say nothing by themselves
      {
        provide: FindClient,
        useValue: { ask: async () => ({ suggestions: [], silent: [], witnesses: [] }), hurry: () => undefined, forget: () => undefined },
      },
      provideStore(),
      ...[jobsFeature, correctionsFeature, savingFeature, benchFeature, contactFeature, findingFeature, profilesFeature].map((f) =>
        provideState(f as never),
      ),
      provideEffects(KeeperEffects, LinkEffects, SheetEffects),
      {
        provide: SHELF_SAYS,
        useFactory: (store: Store) => (sentence: string) => store.dispatch(shelfActions.noticed({ sentence })),
        deps: [Store],
      },
      ...more,
    ],
    parent,
  );
  return tab;
}

/** What a worker finds in a file that says its own size: "600 x 400". */
async function inspect(_name: string, file: Blob): Promise<unknown> {
  const [width = 0, height = 0] = (await file.text()).split(' x ').map(Number);
  const info = {
    width,
    height,
    format: 'png',
    bits: 8,
    camera: null,
    lens: null,
    focal35: 28,
    focalMm: null,
    orientation: 1,
    takenAt: null,
  };
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', await file.arrayBuffer()));
  const sha256 = Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join('');
  return { info: { ...info, croppedFrom: null }, sha256, thumbnail: null };
}

export const fileOf = ({ width, height }: Size): Blob => new Blob([`${width} x ${height}`]);

export const blank = (name = 'tower.png'): Correction => newCorrection({ name, width: 600, height: 400, focal35: 28 });

/** Waits until something holds; a test that waits in vain says for what. */
export async function until(holds: () => boolean, what: string): Promise<void> {
  for (let i = 0; i < 400; i += 1) {
    if (holds()) return;
    await new Promise((next) => setTimeout(next, 5));
  }
  throw new Error(`Waited in vain: ${what}`);
}

export const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** Numbers from 0 to below 1 that are the same for the same seed. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}
