import { afterNextRender, ChangeDetectionStrategy, Component, computed, effect, ElementRef, inject, Injector } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatSlideToggle } from '@angular/material/slide-toggle';
import { MatTooltip } from '@angular/material/tooltip';
import {
  FEWEST_CROSSINGS,
  MOST_CROSSINGS,
  shimsOnPlane,
  withoutShim,
  withoutShimLine,
  withShimChanged,
  withShimLineKind,
  type Correction,
  type ShimLine,
  type ShimOnPlane,
} from '@able-plumb/core';
import { Tip } from '../../../keys/tip';
import type { ToolId } from '../../../state/model';
import { Amount } from '../../../ui/amount';
import { Icon } from '../../../ui/icon';
import { Segments, type Segment } from '../../../ui/segments';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { ToolBox } from '../../tool-box';

const KINDS: readonly Segment[] = [
  { value: 'level', label: 'level' },
  { value: 'plumb', label: 'plumb' },
  { value: 'straight', label: 'straight', hint: 'Becomes straight, or stays so whatever moves round it' },
];

/** Shims: each with its net, what holds it, the lines that come true in it, and what it does to what it moves. */
@Component({
  selector: 'ap-ease-shims',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Icon, MatButton, MatSlideToggle, MatTooltip, Segments, Tip],
  templateUrl: './ease-shims.html',
  styleUrl: './ease.scss',
  host: { class: 'part' },
})
export class EaseShims {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  protected readonly kinds = KINDS;
  protected readonly fewest = FEWEST_CROSSINGS;
  protected readonly most = MOST_CROSSINGS;

  protected readonly shims = computed(() => {
    const shown = this.picture.shown();
    return (shown ? shimsOnPlane(shown.correction, shown.warp) : []).map((on, i) => ({
      id: on.shim.id,
      number: i + 1,
      used: on.shim.used,
      crossings: on.shim.crossings,
      selected: this.hand.id() === on.shim.id,
      lines: on.lines.map(({ line, offPx }, n) => ({ ...line, number: n + 1, off: offWords(line.kind, offPx) })),
      words: shimWords(on),
    }));
  });

  /** The shim that is worked on: only when that is another one is it brought into view. */
  private readonly selectedId = computed(() => this.session.correction()?.ease.shims.find(({ id }) => id === this.hand.id())?.id ?? null);

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const injector = inject(Injector);
    effect(() => {
      if (this.selectedId()) afterNextRender(() => host.querySelector('.selected')?.scrollIntoView({ block: 'nearest' }), { injector });
    });
  }

  protected takes(tool: ToolId): boolean {
    return this.hand.tool() === tool;
  }

  protected take(tool: ToolId): void {
    this.box.toggle(tool);
  }

  protected select(id: string): void {
    this.hand.select(this.hand.id() === id ? null : id);
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutShim(c, id));
    this.hand.deselect(id);
  }

  protected use(id: string, used: boolean): void {
    this.session.commit((c) => withShimChanged(c, id, { used }));
  }

  protected setNet(id: string, crossings: number, live: boolean): void {
    const change = (c: Correction): Correction => withShimChanged(c, id, { crossings: Math.round(crossings) });
    if (live) this.picture.preview(change);
    else this.session.commit(change);
  }

  protected setKind(id: string, lineId: string, kind: string): void {
    this.picture.attempt((c) => withShimLineKind(c, id, lineId, kind as ShimLine['kind']));
  }

  protected removeLine(id: string, lineId: string): void {
    this.session.commit((c) => withoutShimLine(c, id, lineId));
  }
}

/** By how much a line is off what it should be. */
function offWords(kind: ShimLine['kind'], px: number): string {
  const what = kind === 'straight' ? 'bow' : 'off';
  return px < 0.1 ? `${what} under 0.1 px` : `${what} ${px.toFixed(1)} px`;
}

/** What a shim does to what it moves, in a sentence or two. */
function shimWords({ shim, share, largestArea, smallestArea }: ShimOnPlane): string {
  if (!shim.used) return 'Set aside: it moves nothing.';
  if (shim.holds.length + shim.lines.length === 0)
    return 'Nothing is moved yet: drag crossings, columns or rows, or draw a line that should come true.';
  const sizes = `Parts become up to ${largestArea.toFixed(2)} times as large, down to ${smallestArea.toFixed(2)}.`;
  return share < 1 ? `${sizes} Only ${(share * 100).toFixed(0)} % of what is asked is done: more would fold.` : sizes;
}
