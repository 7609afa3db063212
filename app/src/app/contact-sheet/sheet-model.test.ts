import { fileOf, openTab } from '../../testing/ground';
import { createEnvironmentInjector, EnvironmentInjector } from '@angular/core';
import { Store } from '@ngrx/store';
import { describe, expect, it } from 'vitest';
import { newCorrection, withReferences, withStrength, type Correction, type Point, type Reference } from '@able-plumb/core';
import { DocumentKeeper } from '../keeper/document-keeper';
import { JobKeeper } from '../keeper/job-keeper';
import { contactActions } from '../state/contact.reducer';
import { correctionActions } from '../state/correction.actions';
import { judge } from '../work/judge';
import { ThumbnailClient } from '../work/thumbnail-client';
import { SheetModel } from './sheet-model';

const bare = newCorrection({ name: 'tower', width: 3000, height: 2000, focal35: 28 });
let next = 0;
const line = (kind: Reference['kind'], a: Point, b: Point, change: Partial<Reference> = {}): Reference => {
  next += 1;
  return { id: `r${next}`, kind, a: [a[0], a[1]], b: [b[0], b[1]], statedAngle: 0, used: true, ...change };
};
/** Verticals that meet far above, as when the camera looked up. */
const upright = (x: number, off = 0): Reference => line('plumb', [1500 + (x - 1500) * 0.9 + off, 300], [x, 1700]);
const plumbs = [600, 1000, 1400, 2000, 2500].map((x) => upright(x));
const drawn = (...references: readonly Reference[]): Correction => withReferences(bare, references);

describe('a cell of the contact sheet', () => {
  it('says of each picture what is known of how true it is, as the bench does, and which need a look', () => {
    expect(judge(bare)).toMatchObject({ line: 'untouched', state: 'untouched' });
    const waiting = line('return', [400, 400], [1400, 1300], { waits: true });
    expect(judge(drawn(waiting))).toMatchObject({ line: 'a line waits to be told', state: 'attention' });
    expect(judge(drawn(upright(600)))).toMatchObject({ state: 'set', line: expect.stringMatching(/^as drawn ± \d.*°, was \d/) as string });
    expect(judge(drawn(...plumbs))).toMatchObject({ state: 'set', line: expect.stringMatching(/^true within 0\.\d+°, was \d/) as string });
    const held = withStrength(drawn(...plumbs), 'tilt', 0.5, true);
    expect(judge(held)).toMatchObject({ state: 'set', line: expect.stringMatching(/^held back \d/) as string });
    const off = judge(drawn(...plumbs, upright(1700, 90)));
    expect(off).toMatchObject({ state: 'attention', line: expect.stringMatching(/^off by \d/) as string });
    expect(off.afterDeg!).toBeGreaterThan(1);
  });
});

describe('the contact sheet in the order of lean', () => {
  it('has readings worked out beside the page, a few pictures at a time, and is in that order when they are there', async () => {
    const questions: number[] = [];
    const client = {
      judge: async (corrections: readonly Correction[]) => {
        questions.push(corrections.length);
        // what another thread says comes as a copy
        return corrections.map((c) => judge(structuredClone(c)));
      },
    };
    const tab = openTab({}, [{ provide: ThumbnailClient, useValue: client }]);
    const store = tab.get(Store);
    await tab.get(DocumentKeeper).load();
    const job = await tab.get(JobKeeper).newJob('Tower');
    const files = Array.from({ length: 30 }, (_, i) => ({ name: `${i}.png`, file: fileOf({ width: 3000, height: 2000 }) }));
    const { added } = await tab.get(JobKeeper).addFiles(job.id, files);
    // the later, the more it leans
    for (const [i, { id }] of added.entries())
      store.dispatch(
        correctionActions.committed({
          pictureId: id,
          correction: withReferences(bare, [line('plumb', [1500, 300], [1520 + 10 * i, 1700]), line('level', [300, 900], [2700, 900])]),
        }),
      );
    const model = createEnvironmentInjector([SheetModel], tab.get(EnvironmentInjector)).get(SheetModel);
    await model.open(job.id);
    const names = (): string =>
      model
        .shown()
        .map(({ picture }) => picture.name.slice(0, -4))
        .join(' ');
    const inTurn = Array.from({ length: 30 }, (_, i) => i).join(' ');
    expect(names()).toBe(inTurn);
    expect(model.unjudged()).toEqual([]);
    store.dispatch(contactActions.ordered({ order: 'lean' }));
    await model.judgeThem();
    expect(names().split(' ')).toEqual(inTurn.split(' ').reverse());
    expect(questions).toEqual([25, 5]);
  });
});
