// NgRx's injectables are compiled when a test loads them
import '@angular/compiler';
import { describe, expect, it } from 'vitest';
import { newCorrection, withRollAdjust } from '@able-plumb/core';
import { correctionActions } from './correction.actions';
import { correctionsFeature } from './corrections.reducer';
import { shelfActions } from './shelf.actions';

const blank = newCorrection({ name: 'x', width: 600, height: 400, focal35: 28 });
const rolled = (deg: number) => withRollAdjust(blank, deg);
const { reducer } = correctionsFeature;
const opened = reducer(undefined, shelfActions.historiesLoaded({ histories: { p: { past: [], present: blank, future: [], live: null } } }));

describe('undo', () => {
  it('is one step for one gesture, however many previews it had; a cancelled one leaves none', () => {
    let state = opened;
    for (const deg of [1, 2, 3]) state = reducer(state, correctionActions.previewed({ pictureId: 'p', correction: rolled(deg) }));
    expect(state.histories['p']?.live).toEqual(rolled(3));
    expect(state.histories['p']?.past).toEqual([]);
    const cancelled = reducer(state, correctionActions.cancelled({ pictureId: 'p' }));
    expect(cancelled.histories['p']).toEqual(opened.histories['p']);
    state = reducer(state, correctionActions.committed({ pictureId: 'p', correction: rolled(3) }));
    expect(state.histories['p']).toEqual({ past: [blank], present: rolled(3), future: [], live: null });
  });

  it('goes back and forth, a new change drops what was undone, a change that changes nothing is no step', () => {
    let state = opened;
    for (const deg of [1, 2, 2]) state = reducer(state, correctionActions.committed({ pictureId: 'p', correction: rolled(deg) }));
    expect(state.histories['p']?.past.length).toBe(2);
    state = reducer(state, correctionActions.undone({ pictureId: 'p' }));
    expect(state.histories['p']?.present).toEqual(rolled(1));
    const redone = reducer(state, correctionActions.redone({ pictureId: 'p' }));
    expect(redone.histories['p']?.present).toEqual(rolled(2));
    state = reducer(state, correctionActions.committed({ pictureId: 'p', correction: rolled(9) }));
    expect(state.histories['p']?.future).toEqual([]);
    expect(reducer(opened, correctionActions.undone({ pictureId: 'p' }))).toEqual(opened);
  });
});
