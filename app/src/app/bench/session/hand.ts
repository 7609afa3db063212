import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  withEdges,
  withoutEdgeEase,
  withoutRing,
  withoutShim,
  type DraftLine,
  type Point,
  type Rect,
  type RingHandle,
  type ShimHandle,
} from '@able-plumb/core';
import { benchActions } from '../../state/bench.actions';
import { benchFeature } from '../../state/bench.reducer';
import type { Tool } from '../../state/model';
import { PictureSession } from './picture-session';

/** A handle in the hand of the keyboard. */
export type HeldHandle =
  | { readonly kind: 'end'; readonly id: string; readonly which: 'a' | 'b' }
  | { readonly kind: 'corner' | 'bead'; readonly id: string; readonly index: number }
  | { readonly kind: 'ring'; readonly id: string; readonly handle: RingHandle }
  | { readonly kind: 'boundary'; readonly id: string }
  | { readonly kind: 'shim'; readonly id: string; readonly handle: ShimHandle };

/** What the hand holds: a tool, what is being drawn with it, what is selected, and what is said about it. */
@Injectable()
export class Hand {
  private readonly store = inject(Store);
  private readonly session = inject(PictureSession);

  readonly tool = this.store.selectSignal(benchFeature.selectTool);
  readonly selectedId = this.store.selectSignal(benchFeature.selectSelectedReference);

  readonly draft = signal<DraftLine | null>(null);
  /** The keep box, ring or shim being drawn, plane px. */
  readonly boxDraft = signal<Rect | null>(null);
  /** Corners of the panel being marked, picture px. */
  readonly corners = signal<readonly Point[]>([]);
  /** Edges of the panel being marked, picture px. */
  readonly edges = signal<readonly (readonly [Point, Point])[]>([]);
  /** Beads of the edge being traced, in their order along it, picture px. */
  readonly beads = signal<readonly Point[]>([]);
  /** The handle that arrow keys nudge: an end of a line, or a corner or edge end of a panel. */
  readonly held = signal<HeldHandle | null>(null);
  /** Whether what may be copied is painted with a brush; boxes else. */
  readonly brush = signal(false);
  /** The brush stroke being painted, plane px. */
  readonly stroke = signal<readonly Point[]>([]);
  readonly pointer = signal<Point | null>(null);
  readonly hint = signal('');
  /** Plane point under the loupe while something is placed. */
  readonly loupe = signal<{ readonly at: Point; readonly screen: Point } | null>(null);

  /** What is said beside the pointer while the picture is turned by eye, and where, screen px. */
  readonly turning = signal<{ readonly words: string; readonly at: Point } | null>(null);

  /** The reference that is selected. */
  readonly selected = computed(() => this.session.correction()?.references.find((r) => r.id === this.selectedId()) ?? null);
  /** The traced edge that is selected. */
  readonly selectedEdge = computed(() => this.session.correction()?.lens.edges.find((e) => e.id === this.selectedId()) ?? null);
  /** The ring, edge easing or shim that is selected. */
  readonly selectedEase = computed(() => {
    const ease = this.session.correction()?.ease;
    return [...(ease?.rings ?? []), ...(ease?.edges ?? []), ...(ease?.shims ?? [])].find(({ id }) => id === this.selectedId()) ?? null;
  });

  /** The shim that is worked on. */
  readonly shim = computed(() => this.session.correction()?.ease.shims.find(({ id }) => id === this.selectedId()) ?? null);

  /** The piece of a sheet that is worked on: one of its corners is held, or it is selected. */
  readonly piece = computed(() => {
    const [held, id] = [this.held(), this.selectedId()];
    const panels = this.session.correction()?.panels ?? [];
    const wanted = held?.kind === 'corner' ? held.id : id;
    return this.session.sheet && panels.some((p) => p.id === wanted) ? wanted : null;
  });

  takeTool(tool: Tool): void {
    this.corners.set([]);
    this.edges.set([]);
    this.beads.set([]);
    // the tool and the selection are the bench's: another picture's by now
    if (!this.session.closed) this.store.dispatch(benchActions.toolTaken({ tool }));
  }

  select(id: string | null): void {
    if (this.held()?.id !== id) this.held.set(null);
    if (!this.session.closed) this.store.dispatch(benchActions.referenceSelected({ id }));
  }

  /** Removes a traced edge. */
  removeEdge(id: string): void {
    this.session.commit((c) =>
      withEdges(
        c,
        c.lens.edges.filter((e) => e.id !== id),
      ),
    );
    if (this.selectedId() === id) this.select(null);
  }

  /** Removes a ring, an edge easing or a shim. */
  removeEase(id: string): void {
    this.session.commit((c) => withoutShim(withoutEdgeEase(withoutRing(c, id), id), id));
    if (this.selectedId() === id) this.select(null);
  }
}
