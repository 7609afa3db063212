import { inject, isDevMode } from '@angular/core';
import { bootstrapApplication } from '@angular/platform-browser';
import { provideServiceWorker } from '@angular/service-worker';
import { provideRouter, withComponentInputBinding, withPreloading } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState, provideStore, Store } from '@ngrx/store';
import { App } from './app/app';
import { KeeperEffects } from './app/keeper/keeper.effects';
import { LinkEffects } from './app/keeper/link.effects';
import { SheetEffects } from './app/keeper/sheet.effects';
import { Preload } from './app/preload';
import { SHELF_SAYS } from './app/shelf/shelf';
import { benchFeature } from './app/state/bench.reducer';
import { contactFeature } from './app/state/contact.reducer';
import { findingFeature } from './app/state/finding.reducer';
import { correctionsFeature } from './app/state/corrections.reducer';
import { jobsFeature } from './app/state/jobs.reducer';
import { profilesFeature } from './app/state/profiles.reducer';
import { savingFeature } from './app/state/saving.reducer';
import { shelfActions } from './app/state/shelf.actions';
import { provideLook } from './app/theme/provide-look';

bootstrapApplication(App, {
  providers: [
    provideRouter(
      [
        { path: '', loadComponent: () => import('./app/start/start').then((m) => m.Start), title: 'Able Plumb' },
        { path: 'bench/:pictureId', loadComponent: () => import('./app/bench/bench').then((m) => m.Bench), title: 'Bench - Able Plumb' },
        {
          path: 'sheet/:pictureId',
          loadComponent: () => import('./app/bench/bench').then((m) => m.Bench),
          data: { sheet: true },
          title: 'Sheet - Able Plumb',
        },
        {
          path: 'job/:jobId',
          loadComponent: () => import('./app/contact-sheet/contact-sheet').then((m) => m.ContactSheet),
          // many files go there at once
          data: { soon: true },
          title: 'Contact sheet - Able Plumb',
        },
        {
          path: 'lenses',
          loadComponent: () => import('./app/lens-cabinet/lens-cabinet').then((m) => m.LensCabinet),
          title: 'Lens cabinet - Able Plumb',
        },
        { path: '**', redirectTo: '' },
      ],
      withComponentInputBinding(),
      withPreloading(Preload),
    ),
    // the whole application works without its server, once it was seen
    provideServiceWorker('ngsw-worker.js', { enabled: !isDevMode() }),
    provideLook(),
    provideStore(),
    provideState(jobsFeature),
    provideState(correctionsFeature),
    provideState(benchFeature),
    provideState(contactFeature),
    provideState(findingFeature),
    provideState(profilesFeature),
    provideState(savingFeature),
    provideEffects(KeeperEffects, LinkEffects, SheetEffects),
    {
      provide: SHELF_SAYS,
      useFactory: () => {
        const store = inject(Store);
        return (sentence: string) => store.dispatch(shelfActions.noticed({ sentence }));
      },
    },
  ],
}).catch((error: unknown) => console.error(error));
