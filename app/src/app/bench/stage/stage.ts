import { NgComponentOutlet } from '@angular/common';
import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, viewChild } from '@angular/core';
import { screenToPlane, toPicture, type Point, type Size } from '@able-plumb/core';
import { BenchSwitches } from '../session/bench-switches';
import { Hand } from '../session/hand';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';
import { TOOLS } from '../tools';
import type { Gesture, PointerFacts } from '../tools/tool';
import { TOOL_CONTEXT } from '../tools/tool-context';
import { drawCompared } from './draw-compared';
import { drawPixels } from './draw-pixels';
import { Fingers } from './fingers';
import { keepFitted } from './fit-view';
import { KeyboardPen } from './keyboard-pen';
import { Loupe } from './loupe';
import { Marks } from './marks';
import { pointerFacts } from './pointer-facts';
import { Rulers } from './rulers';
import { StageGestures } from './stage-gestures';
import { StageNotice } from './stage-notice';
import { ViewStrip } from './view-strip';
import { listenToZoom } from './zoom-input';

/** The picture under its correction, and everything drawn over it: turns the events of pointers into gestures of the tools. */
@Component({
  selector: 'ap-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Loupe, Marks, NgComponentOutlet, Rulers, StageNotice, ViewStrip],
  templateUrl: './stage.html',
  styleUrl: './stage.scss',
  host: { role: 'main', 'aria-label': 'Stage', '[style.--stage-grey]': 'stageGrey()' },
})
export class Stage {
  protected readonly switches = inject(BenchSwitches);
  protected readonly hand = inject(Hand);
  protected readonly pen = inject(KeyboardPen);
  private readonly picture = inject(ShownPicture);
  private readonly stageView = inject(StageView);
  private readonly gestures = inject(StageGestures);
  private readonly context = inject(TOOL_CONTEXT);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly comparedCanvas = viewChild<ElementRef<HTMLCanvasElement>>('compared');

  protected readonly tools = TOOLS;
  /** The pointer that holds the gesture; null between the two clicks of a line, and for the keyboard's. */
  private pointerId: number | null = null;
  private readonly size = signal<Size | null>(null);
  private readonly fingers = new Fingers();
  /** The last press was a finger's: the loupe stays clear of the hand. */
  protected readonly byFinger = signal(false);
  protected readonly cursorShape = signal('crosshair');

  protected readonly stageGrey = computed(() => {
    const { theme, stageGrey } = this.switches.settings();
    const value = theme === 'dim' ? 0x3a : stageGrey;
    return `rgb(${value} ${value} ${value})`;
  });

  /** What of the original is seen: its side of the wipe, or the left half. */
  protected readonly comparedClip = computed(() =>
    this.switches.compare() === 'side' ? 'inset(0 50% 0 0)' : `inset(0 ${(1 - this.switches.wipe()) * 100}% 0 0)`,
  );

  constructor() {
    effect((onCleanup) => {
      const observer = new ResizeObserver(([entry]) => {
        if (entry) this.size.set({ width: entry.contentRect.width, height: entry.contentRect.height });
      });
      observer.observe(this.area().nativeElement);
      onCleanup(() => observer.disconnect());
    });
    effect((onCleanup) => onCleanup(listenToZoom(this.area().nativeElement, this.stageView, (p) => this.onResult(p))));
    // what the pointer would do is said anew when another step is open
    effect(() => {
      this.switches.step();
      this.hand.hint.set('');
      this.switches.settingOutPicked.set(false);
    });
    keepFitted(this.size);
    drawPixels(this.gestures.active, this.canvas);
    drawCompared(this.comparedCanvas);
  }

  private facts(event: PointerEvent): PointerFacts {
    return pointerFacts(event, this.area().nativeElement);
  }

  protected onDown(event: PointerEvent): void {
    if (event.button > 1) return;
    if (event.pointerType === 'touch' && this.anotherFinger(event)) return;
    this.byFinger.set(event.pointerType === 'touch');
    this.focus();
    const pointer = this.facts(event);
    this.pen.putAway();
    if (this.gestures.gesture) {
      // the second click of click-and-click ends the line on its release; whatever else comes while something is held is not for it
      this.pointerId ??= event.pointerId;
      return;
    }
    this.begin(event, event.button === 1 ? this.gestures.pan(pointer) : this.gestures.at(pointer));
  }

  /** A second finger: two zoom and pan, and never draw. What the first one had begun is taken back. */
  private anotherFinger({ pointerId }: PointerEvent): boolean {
    if (!this.fingers.press(pointerId)) return false;
    if (this.fingers.pinch()) {
      if (this.gestures.gesture) this.cancel();
      this.hand.loupe.set(null);
    }
    return true;
  }

  private begin(event: PointerEvent, gesture: Gesture | null): void {
    if (!gesture) return;
    event.preventDefault();
    this.gestures.begin(gesture);
    this.pointerId = event.pointerId;
    this.area().nativeElement.setPointerCapture(event.pointerId);
  }

  /** A press on a ruler brings something out of it; the stage follows the pointer from there. */
  protected onRuler(event: PointerEvent, axis: 'x' | 'y'): void {
    if (event.button !== 0 || this.gestures.gesture || this.switches.showsOriginal()) return;
    const tool = TOOLS.find(({ fromRuler }) => fromRuler);
    this.begin(event, tool?.fromRuler?.(this.context, axis) ?? null);
  }

  /** Whether a pointer has nothing to do with what lasts: another one holds that. */
  private foreign(event: PointerEvent): boolean {
    return this.gestures.gesture !== null && this.pointerId !== null && event.pointerId !== this.pointerId;
  }

  protected onMove(event: PointerEvent): void {
    if (this.fingers.zooms(event) || this.foreign(event)) return;
    const pointer = this.facts(event);
    const [view, warp] = [this.stageView.view(), this.picture.stageWarp()];
    this.hand.pointer.set(view && warp && toPicture(warp, screenToPlane(view, this.onResult(pointer.at))));
    if (this.gestures.gesture) {
      this.gestures.gesture.move(pointer);
      return;
    }
    const [shape, words] = this.gestures.hintAt(pointer);
    this.cursorShape.set(shape);
    this.hand.hint.set(words);
  }

  protected onUp(event: PointerEvent): void {
    const { gesture } = this.gestures;
    if (this.fingers.zooms(event, true) || !gesture || this.foreign(event)) return;
    const goesOn = gesture.release(this.facts(event));
    // what goes on does so with the next press, of whichever pointer
    this.pointerId = null;
    if (!goesOn) this.gestures.end();
  }

  /** The system took a pointer away: what it held is let go, and nothing of it stays in the hand. */
  protected onCancel(event: PointerEvent): void {
    if (!this.fingers.zooms(event, true) && this.gestures.gesture && !this.foreign(event)) this.cancel();
  }

  /** The capture ends with every press; only what should have lasted longer is taken back. */
  protected onLost(event: PointerEvent): void {
    if (this.gestures.gesture && event.pointerId === this.pointerId) this.cancel();
  }

  private cancel(): void {
    this.gestures.cancel();
    this.pointerId = null;
  }

  /** Side by side, the place of a pointer as if the result filled the stage. */
  private onResult([x, y]: Point): Point {
    const width = this.size()?.width ?? 0;
    if (this.switches.compare() !== 'side') return [x, y];
    return [x > width / 2 ? x - width / 4 : x + width / 4, y];
  }

  /** Gives the keyboard to the stage. */
  focus(): void {
    this.area().nativeElement.focus({ preventScroll: true });
  }

  protected onSpace(event: Event, held: boolean): void {
    if (held) event.preventDefault();
    this.gestures.panning.set(held);
  }

  /** The keyboard is gone: no key is held any more. */
  letGo(): void {
    this.gestures.panning.set(false);
    this.fingers.forget();
  }
}
