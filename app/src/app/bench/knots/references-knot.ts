import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { Store } from '@ngrx/store';
import { degreesText, lineAngleInWords, withReference, withReferences, type ReferenceKind, type ReferenceReading } from '@able-plumb/core';
import { benchActions } from '../../state/bench.actions';
import { Icon } from '../../ui/icon';
import { Segments, type Segment } from '../../ui/segments';
import { BenchModel } from '../bench-model';

interface Row {
  readonly id: string;
  readonly kind: ReferenceKind;
  readonly name: string;
  readonly used: boolean;
  readonly before: string;
  readonly after: string;
  readonly off: string;
  readonly bad: boolean;
}

const KINDS: readonly { readonly kind: ReferenceKind; readonly name: string; readonly means: string }[] = [
  { kind: 'plumb', name: 'Plumb', means: 'vertical in reality' },
  { kind: 'level', name: 'Level', means: 'horizontal, along the front' },
  { kind: 'return', name: 'Return', means: 'horizontal, going back from the front' },
  { kind: 'eye', name: 'Eye line', means: 'the horizon, at the camera’s height' },
];

/** References: the pen, what the lines may do, and the list of lines. */
@Component({
  selector: 'ap-references-knot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, Segments, MatMenu, MatMenuItem, MatMenuTrigger],
  templateUrl: './references-knot.html',
  styleUrl: './knot.scss',
})
export class ReferencesKnot {
  private readonly store = inject(Store);
  protected readonly model = inject(BenchModel);

  protected readonly kinds = KINDS;
  protected readonly sides: readonly Segment[] = [
    { value: 'result', label: 'result', hint: 'Draw on the corrected picture' },
    { value: 'original', label: 'original', hint: 'Draw on the original' },
  ];
  protected readonly mays: readonly Segment[] = [
    { value: 'turn-only', label: 'turn only', hint: 'The lines may only turn the picture; convergence stays' },
    { value: 'stand-plumb', label: 'stand plumb', hint: 'The lines may turn the picture and stand verticals plumb' },
    { value: 'square-on', label: 'square-on', hint: 'The lines may do everything they determine' },
  ];

  protected readonly rows = computed<readonly Row[]>(() => (this.model.readings()?.references ?? []).map(toRow));

  protected arm(): void {
    this.store.dispatch(benchActions.penSwitched({ armed: !this.model.penArmed() }));
  }

  protected drawOn(value: string): void {
    this.store.dispatch(benchActions.drawingOn({ on: value as 'result' | 'original' }));
  }

  protected allow(value: string): void {
    const may = value as 'turn-only' | 'stand-plumb' | 'square-on';
    this.model.commit((c) => withReferences({ ...c, stance: { ...c.stance, may } }, c.references));
  }

  protected setKind(id: string, kind: ReferenceKind): void {
    this.model.commit((c) => withReference(c, id, { kind }));
  }

  protected setUsed(id: string, used: boolean): void {
    this.model.commit((c) => withReference(c, id, { used }));
  }

  protected remove(id: string): void {
    this.model.setReferences((references) => references.filter((r) => r.id !== id));
    if (this.model.selectedId() === id) this.model.select(null);
  }

  protected clear(): void {
    this.model.setReferences(() => []);
    this.model.select(null);
  }
}

function toRow(r: ReferenceReading): Row {
  const name = KINDS.find(({ kind }) => kind === r.kind)?.name ?? r.kind;
  const off = Math.abs(r.offDeg ?? 0);
  return {
    id: r.id,
    kind: r.kind,
    name: `${name} ${r.number}`,
    used: r.used,
    before: lineAngleInWords(r.kind, r.beforeDeg),
    after: r.afterDeg === null ? '–' : degreesText(r.afterDeg),
    off: r.offPx === null ? '–' : `${r.offPx.toFixed(1)} px`,
    bad: r.used && off >= 0.5,
  };
}
