import { ChangeDetectionStrategy, Component, computed, ElementRef, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { bendsInWords, ringWords, waysToEase, withoutRing, withRingChanged, type ShapeRing, type WayToEase } from '@able-plumb/core';
import { Icon } from '../../../ui/icon';
import { Segments, type Segment } from '../../../ui/segments';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { Tip } from '../../../keys/tip';
import { ToolBox } from '../../tool-box';

const KINDS: readonly Segment[] = [
  { value: 'head', label: 'on a head', hint: 'Should look as it does seen from its own direction' },
  { value: 'round', label: 'on something round', hint: 'Lies on the front and should be a circle' },
];

/** Below this nothing is asked. */
const ASK_FROM = 0.005;

/** Shape rings: what they read, and for the selected one what may give, with what each way comes to. */
@Component({
  selector: 'ap-ease-rings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatTooltip, Segments, Tip],
  template: `
    <h3>
      Shape rings
      <button
        type="button"
        matButton
        [attr.aria-pressed]="drawing()"
        apTip="Drag one over a head or a round thing"
        tipKey="ring"
        (click)="draw()"
      >
        {{ drawing() ? 'Done' : 'Draw one' }}
      </button>
    </h3>
    @if (rings().length === 0) {
      <p class="note">Laid over a head or a round thing, a ring reads how much too wide it has become and asks what may give.</p>
    }
    @for (ring of rings(); track ring.id) {
      <div class="ring-card" [class.selected]="ring.selected">
        <div class="row">
          <button type="button" matButton class="reads" [attr.aria-expanded]="ring.selected" (click)="select(ring.id)">
            Ring {{ ring.number }}: <b>{{ ring.words }}</b>
          </button>
          <button type="button" matButton (click)="remove(ring.id)" [attr.aria-label]="'Remove ring ' + ring.number" matTooltip="Remove">
            <ap-icon name="remove" [size]="13" />
          </button>
        </div>
        @if (ring.selected) {
          <ap-segments label="What it lies on" [options]="kinds" [value]="ring.kind" (chosen)="setKind(ring.id, $event)" />
        }
        @if (ring.selected && ways().length > 0) {
          <p class="note">What may give?</p>
          <div class="ways-out">
            @for (way of ways(); track way.kind) {
              <button type="button" matButton="outlined" class="way-row" (click)="take(way)">
                <span class="way"
                  ><b>{{ name(way) }}</b> <small>{{ outcome(way) }}</small></span
                >
              </button>
            }
          </div>
        }
      </div>
    }
  `,
  styleUrl: './ease.scss',
  host: { class: 'part' },
})
export class EaseRings {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  protected readonly kinds = KINDS;
  protected readonly drawing = computed(() => this.hand.tool() === 'ring');
  protected readonly rings = computed(() =>
    (this.picture.readings()?.rings ?? []).map(({ id, number, kind, ratio }) => ({
      id,
      number,
      kind,
      words: ringWords(ratio),
      selected: this.hand.id() === id,
    })),
  );
  protected readonly ways = computed<readonly WayToEase[]>(() => {
    const committed = this.session.committed();
    const id = this.hand.id();
    if (!committed || !id || this.session.gestureActive()) return [];
    const ratio = this.picture.readings()?.rings.find((r) => r.id === id)?.ratio;
    return ratio && Math.abs(ratio - 1) >= ASK_FROM ? waysToEase(committed, id) : [];
  });

  protected name({ kind, correction }: WayToEase): string {
    switch (kind) {
      case 'edge':
        return `Edge, ${this.edgeName(correction)}`;
      case 'projection':
        return `Projection, ${(correction.ease.projection * 100).toFixed(0)} %`;
      case 'aspect': {
        const percent = (correction.stance.aspect - 1) * 100;
        return `Aspect, ${percent > 0 ? '+' : '−'}${Math.abs(percent).toFixed(1)} %`;
      }
    }
  }

  private edgeName(correction: WayToEase['correction']): string {
    const before = this.session.committed()?.ease.edges ?? [];
    const edge = correction.ease.edges.find((e) => !before.some((b) => b.id === e.id && b.amount === e.amount));
    return edge ? `${(edge.amount * 100).toFixed(0)} %` : '';
  }

  protected outcome({ kind, ratio, bends }: WayToEase): string {
    const reached = Math.abs(ratio - 1) < ASK_FROM ? 'comes true' : `still ${ringWords(ratio)}`;
    const cost = kind === 'aspect' ? 'the whole picture changes, nothing bends' : bends ? bendsInWords(bends) : '';
    return `${reached}; ${cost.charAt(0).toLowerCase()}${cost.slice(1)}`;
  }

  protected take(way: WayToEase): void {
    this.session.commit(() => way.correction);
    // the ways go with the question: what has the focus next is what the ring reads now
    this.host.querySelector<HTMLElement>('.selected .reads')?.focus();
  }

  protected setKind(id: string, kind: string): void {
    this.session.commit((c) => withRingChanged(c, id, { kind: kind as ShapeRing['kind'] }));
  }

  protected select(id: string): void {
    this.hand.select(this.hand.id() === id ? null : id);
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutRing(c, id));
    this.hand.deselect(id);
  }

  protected draw(): void {
    this.box.toggle('ring');
  }
}
