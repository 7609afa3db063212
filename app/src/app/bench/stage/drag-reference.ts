import { movedReference, withReference, type Correction, type Reference } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { settledOn } from '../session/magnet';
import type { Gesture, PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** Moves one end of a reference, or the whole line. The picture holds still until the release, then it is solved anew. */
export function dragReference(model: BenchModel, reference: Reference, which: 'a' | 'b' | 'both', start: PointerFacts): Gesture | null {
  model.hand.select(reference.id);
  model.hand.held.set(which === 'both' ? null : { kind: 'end', id: reference.id, which });
  const put = (c: Correction, next: Reference): Correction => ({
    ...c,
    references: c.references.map((r) => (r.id === reference.id ? { ...r, a: next.a, b: next.b } : r)),
  });
  return moveHandle(model, start, {
    moved: (warp, by) => movedReference(warp, reference, which, by),
    put,
    under: (next) => (which === 'both' ? null : next[which]),
    placed: (next) => {
      const hand = model.magnet.byHand();
      model.session.place({
        ask: () => model.magnet.edgesNear(next.a, next.b),
        meanwhile: (c) => put(c, next),
        // what a hand moves is that hand's, whoever found it
        land: (c, fits) => withReference(c, reference.id, { ...settledOn(next, fits, hand), by: undefined }),
        then: (fits) => model.magnet.noteSnapped(reference.id, fits ?? []),
      });
    },
  });
}
