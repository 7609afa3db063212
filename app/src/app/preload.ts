import { Injectable } from '@angular/core';
import type { PreloadingStrategy, Route } from '@angular/router';
import { EMPTY, from, mergeMap, type Observable } from 'rxjs';
import { whenQuiet } from './ui/when-quiet';

/** Fetches the routes marked `soon` while the page is quiet; the others when they are opened. */
@Injectable({ providedIn: 'root' })
export class Preload implements PreloadingStrategy {
  preload({ data }: Route, load: () => Observable<unknown>): Observable<unknown> {
    if (!data?.['soon']) return EMPTY;
    return from(new Promise<void>((resolve) => whenQuiet(resolve))).pipe(mergeMap(load));
  }
}
