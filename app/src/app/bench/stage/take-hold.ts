import type { Correction } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { dragBoundary, dragRing } from './drag-ease';
import { dragGuide } from './drag-guide';
import { dragMargin } from './drag-margin';
import { dragMeasure } from './drag-measure';
import { dragReference } from './drag-reference';
import { dragShim } from './drag-shim';
import type { Gesture, PointerFacts } from './gesture';
import { dragPanelPoint, dragPanelSide } from './mark-panel';
import type { Target } from './target-at';
import { dragBead } from './trace-edge';

/** The gesture that a press on a thing begins; null where a click is all that it takes, or the thing is gone. */
export function takeHold(model: BenchModel, correction: Correction, target: Target, pointer: PointerFacts): Gesture | null {
  switch (target.kind) {
    case 'guide':
      return dragGuide(model, target.axis, target.id);
    case 'margin':
      return dragMargin(model, target.side, pointer);
    case 'corner': {
      const panel = correction.panels.find((p) => p.id === target.id);
      return panel ? dragPanelPoint(model, panel, target.index, pointer) : null;
    }
    case 'side': {
      const panel = correction.panels.find((p) => p.id === target.id);
      return panel ? dragPanelSide(model, panel, target.index, pointer) : null;
    }
    case 'bead': {
      const edge = correction.lens.edges.find((e) => e.id === target.id);
      return edge ? dragBead(model, edge, target.index, pointer) : null;
    }
    case 'ring': {
      const ring = correction.ease.rings.find((r) => r.id === target.id);
      return ring ? dragRing(model, ring, target.which, pointer) : null;
    }
    case 'boundary': {
      const edge = correction.ease.edges.find((e) => e.id === target.id);
      return edge ? dragBoundary(model, edge, pointer) : null;
    }
    case 'shim':
      return dragShim(model, target.id, target.which, pointer);
    case 'shim-box':
    case 'trace':
      model.hand.select(target.id);
      return null;
    case 'measure': {
      const measure = correction.measures.find((m) => m.id === target.id);
      return measure ? dragMeasure(model, measure, target.which, pointer) : null;
    }
    case 'end':
    case 'line': {
      const reference = correction.references.find((r) => r.id === target.id);
      return reference ? dragReference(model, reference, target.kind === 'end' ? target.which : 'both', pointer) : null;
    }
  }
}
