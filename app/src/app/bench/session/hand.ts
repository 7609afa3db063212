import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { DraftLine, Point, Rect } from '@able-plumb/core';
import { benchActions } from '../../state/bench.actions';
import { benchFeature } from '../../state/bench.reducer';
import type { Step, ToolId } from '../../state/model';
import type { Drawing, Held, Selection } from '../tools/tool-context';
import { PictureSession } from './picture-session';

/** What the hand holds: a tool, what is being drawn with it, what is selected, and what is said about it. */
@Injectable()
export class Hand implements Selection {
  private readonly store = inject(Store);
  private readonly session = inject(PictureSession);

  readonly tool = this.store.selectSignal(benchFeature.selectTool);
  readonly id = this.store.selectSignal(benchFeature.selectSelected);
  readonly held = signal<Held | null>(null);

  readonly drawing: Drawing = {
    line: signal<DraftLine | null>(null),
    box: signal<Rect | null>(null),
    points: signal<readonly Point[]>([]),
    lines: signal<readonly (readonly [Point, Point])[]>([]),
    stroke: signal<readonly Point[]>([]),
    brush: signal(false),
  };

  /** Where the pointer is, picture px. */
  readonly pointer = signal<Point | null>(null);
  /** What the pointer would do, or what came of it. */
  readonly hint = signal('');
  /** Plane point under the loupe while something is placed. */
  readonly loupe = signal<{ readonly at: Point; readonly screen: Point } | null>(null);
  /** Words beside the pointer while something is dragged, screen px. */
  readonly tag = signal<{ readonly words: string; readonly at: Point } | null>(null);

  /** The piece of a sheet that is worked on: one of its corners is held, or it is selected. */
  readonly piece = computed(() => {
    const wanted = this.held()?.id ?? this.id();
    return this.session.sheet && this.session.correction()?.panels.some((p) => p.id === wanted) ? wanted : null;
  });

  /** Takes a tool, and opens its step. */
  take(tool: ToolId, step: Step): void {
    this.empty();
    if (!this.session.closed) this.store.dispatch(benchActions.toolTaken({ tool, step }));
  }

  layDown(): void {
    this.empty();
    if (!this.session.closed) this.store.dispatch(benchActions.toolLaidDown());
  }

  /** Nothing of what was begun with the tool before is left. */
  private empty(): void {
    this.drawing.points.set([]);
    this.drawing.lines.set([]);
  }

  select(id: string | null): void {
    if (this.held()?.id !== id) this.held.set(null);
    // the selection is the bench's: another picture's by now
    if (!this.session.closed) this.store.dispatch(benchActions.selected({ id }));
  }

  /** Selects nothing, where this was selected. */
  deselect(id: string): void {
    if (this.id() === id) this.select(null);
  }

  hold(held: Held | null): void {
    this.held.set(held);
  }
}
