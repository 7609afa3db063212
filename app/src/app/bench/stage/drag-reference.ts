import { movedReference, planeToScreen, screenVectorToPlane, toPlane, withReferences, type Reference } from '@able-plumb/core';
import { onEdge, type BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** Moves one end of a reference, or the whole line. The picture holds still until the release, then it is solved anew. */
export function dragReference(model: BenchModel, reference: Reference, which: 'a' | 'b' | 'both', start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  if (!warp || !view) return null;
  model.select(reference.id);
  model.held.set(which === 'both' ? null : { kind: 'end', id: reference.id, which });
  let moved = false;
  return {
    move({ at }) {
      const by = screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]]);
      if (!moved && Math.hypot(at[0] - start.at[0], at[1] - start.at[1]) < 2) return;
      const next = movedReference(warp, reference, which, by);
      if (!next) return;
      moved = true;
      model.preview((c) => ({ ...c, references: c.references.map((r) => (r.id === reference.id ? next : r)) }));
      const end = which === 'b' ? next.b : next.a;
      const plane = toPlane(warp, end);
      if (plane && which !== 'both') model.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      model.loupe.set(null);
      const placed = model.correction()?.references.find((r) => r.id === reference.id);
      if (!moved || !placed) return false;
      void model.edgesNear(placed.a, placed.b).then((fits) => {
        const fit = fits[0];
        model.commitShown((shown) =>
          withReferences(
            shown,
            shown.references.map((r) => (fit && r.id === reference.id ? { ...r, ...onEdge(fit) } : r)),
          ),
        );
        model.noteSnapped(reference.id, fits);
      });
      return false;
    },
    cancel() {
      model.loupe.set(null);
      model.cancel();
    },
  };
}
