import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatTooltip } from '@angular/material/tooltip';
import {
  edgeEasesOnPlane,
  MOST_NARROWER,
  withBoundary,
  withEdgeEase,
  withEdgeTowards,
  withoutEdgeEase,
  withRoom,
  type Correction,
  type EdgeEase,
} from '@able-plumb/core';
import { Amount } from '../../../ui/amount';
import { Icon } from '../../../ui/icon';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';

type Side = EdgeEase['side'];

const SIDES: readonly Side[] = ['left', 'right', 'top', 'bottom'];
const OPPOSITE: Readonly<Record<Side, Side>> = { left: 'right', right: 'left', top: 'bottom', bottom: 'top' };

/** Edge easings: each with its boundary, how much, over how far, and who gives the room. */
@Component({
  selector: 'ap-ease-edges',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Amount, Icon, MatButton, MatCheckbox, MatTooltip],
  templateUrl: './ease-edges.html',
  styleUrl: './ease.scss',
  host: { class: 'part' },
})
export class EaseEdges {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);

  /** The sides as they are seen, and what they are on the plane. */
  protected readonly sides = computed(() => SIDES.map((seen) => ({ seen, side: this.flipped(seen) })));

  protected readonly edges = computed(() => {
    const shown = this.picture.shown();
    if (!shown) return [];
    const { turnedSize } = shown.warp;
    return edgeEasesOnPlane(shown.correction, shown.warp).map(({ edge, k, from, widest }) => {
      // shares of the picture, which stay what they are while the crop re-fits itself
      const length = k === 0 ? turnedSize.width : turnedSize.height;
      return {
        ...edge,
        seen: this.flipped(edge.side),
        selected: this.hand.id() === edge.id,
        word: k === 0 ? 'Narrower' : 'Lower',
        percent: edge.amount * 100,
        boundary: 50 + (from / length) * 100,
        reachPercent: (edge.reach / length) * 100,
        roomPercent: edge.room && (edge.room.width / length) * 100,
        widest: edge.room ? `Its neighbour is widened up to ${widest.toFixed(2)} times.` : '',
        length,
      };
    });
  });
  protected readonly most = MOST_NARROWER * 100;

  /** Left for right and top for bottom where the result is flipped. */
  private flipped(side: Side): Side {
    const stance = this.session.correction()?.stance;
    const flips = side === 'left' || side === 'right' ? stance?.flipX : stance?.flipY;
    return flips ? OPPOSITE[side] : side;
  }

  protected add(side: Side): void {
    const shown = this.picture.shown();
    if (!shown) return;
    this.session.commit((c) => withEdgeTowards(c, shown.warp, shown.warp.crop, side));
    this.hand.select(this.session.committed()?.ease.edges.at(-1)?.id ?? null);
  }

  protected change(id: string, change: Partial<EdgeEase>, live: boolean): void {
    this.send((c) => withEdgeEase(c, id, change), live);
  }

  protected setRoomWidth(edge: EdgeEase, width: number, live: boolean): void {
    if (edge.room) this.change(edge.id, { room: { ...edge.room, width: Math.max(1, width) } }, live);
  }

  protected moveBoundary(edge: { readonly id: string; readonly length: number }, percent: number, live: boolean): void {
    this.send((c) => withBoundary(c, edge.id, ((percent - 50) / 100) * edge.length), live);
  }

  protected keepFrame(edge: EdgeEase, keep: boolean): void {
    const shown = this.picture.shown();
    if (shown) this.session.commit((c) => withRoom(c, shown.warp.crop, edge.id, keep));
  }

  private send(change: (c: Correction) => Correction, live: boolean): void {
    if (live) this.picture.preview(change);
    else this.session.commit(change);
  }

  protected select(id: string): void {
    this.hand.select(this.hand.id() === id ? null : id);
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutEdgeEase(c, id));
    this.hand.deselect(id);
  }
}
