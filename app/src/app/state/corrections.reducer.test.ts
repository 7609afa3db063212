// NgRx's injectables are compiled when a test loads them
import '@angular/compiler';
import { describe, expect, it } from 'vitest';
import { newCorrection, withRollAdjust } from '@able-plumb/core';
import { correctionActions } from './correction.actions';
import { correctionsFeature, newHistory } from './corrections.reducer';
import { shelfActions } from './shelf.actions';

const blank = newCorrection({ name: 'x', width: 600, height: 400, focal35: 28 });
const rolled = (deg: number) => withRollAdjust(blank, deg);
const { reducer } = correctionsFeature;
const opened = reducer(undefined, shelfActions.historiesLoaded({ histories: { p: newHistory(blank) } }));
const commit = (state: typeof opened, deg: number, step?: string, at = 0) =>
  reducer(state, correctionActions.committed({ pictureId: 'p', correction: rolled(deg), step, at }));
const of = (state: typeof opened) => state.histories['p']!;

describe('undo', () => {
  it('goes back and forth, a new change drops what was undone, a change that changes nothing is no step', () => {
    let state = [1, 2, 2].reduce((s, deg) => commit(s, deg), opened);
    expect(of(state).past).toEqual([blank, rolled(1)]);
    expect(of(state).version).toBe(2);
    state = reducer(state, correctionActions.undone({ pictureId: 'p' }));
    expect(of(state).present).toEqual(rolled(1));
    const redone = reducer(state, correctionActions.redone({ pictureId: 'p' }));
    expect(of(redone).present).toEqual(rolled(2));
    state = commit(state, 9);
    expect(of(state).future).toEqual([]);
    expect(reducer(opened, correctionActions.undone({ pictureId: 'p' }))).toEqual(opened);
  });

  it('takes a key that is held for one step, and another key, a pause, or an undo between for another', () => {
    let state = Array.from({ length: 235 }, (_, i) => i).reduce((s, i) => commit(s, (i + 1) / 2, 'left r1', i * 40), opened);
    expect(of(state).past).toEqual([blank]);
    expect(of(state).version).toBe(235);
    state = commit(state, 150, 'up r1', 9400);
    state = commit(state, 151, 'left r1', 9440);
    state = commit(state, 152, 'left r1', 9440 + 1001);
    expect(of(state).past.length).toBe(4);
    state = reducer(state, correctionActions.undone({ pictureId: 'p' }));
    expect(of(commit(state, 153, 'left r1', 10_500)).past.length).toBe(4);
  });

  it('keeps what is newer when an older reading comes late', () => {
    const state = commit(opened, 5);
    const late = reducer(state, shelfActions.historiesLoaded({ histories: { p: newHistory(blank) } }));
    expect(of(late).present).toEqual(rolled(5));
    const newer = { ...newHistory(rolled(7)), version: 2 };
    expect(of(reducer(state, shelfActions.historiesLoaded({ histories: { p: newer } }))).present).toEqual(rolled(7));
  });
});
