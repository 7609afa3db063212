import { movedReference, withReferences, type Reference } from '@able-plumb/core';
import { onEdge, type BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** Moves one end of a reference, or the whole line. The picture holds still until the release, then it is solved anew. */
export function dragReference(model: BenchModel, reference: Reference, which: 'a' | 'b' | 'both', start: PointerFacts): Gesture | null {
  model.select(reference.id);
  model.held.set(which === 'both' ? null : { kind: 'end', id: reference.id, which });
  return moveHandle(model, start, {
    moved: (warp, by) => movedReference(warp, reference, which, by),
    put: (c, next) => ({ ...c, references: c.references.map((r) => (r.id === reference.id ? next : r)) }),
    under: (next) => (which === 'both' ? null : next[which]),
    placed: ({ a, b }) =>
      void model.edgesNear(a, b).then((fits) => {
        const fit = fits[0];
        model.commitShown((shown) =>
          withReferences(
            shown,
            shown.references.map((r) => (fit && r.id === reference.id ? { ...r, ...onEdge(fit) } : r)),
          ),
        );
        model.noteSnapped(reference.id, fits);
      }),
  });
}
