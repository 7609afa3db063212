import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatProgressBar } from '@angular/material/progress-bar';
import {
  distance,
  fitCloseUp,
  fitOutline,
  isInside,
  nearestHandle,
  planeToScreen,
  screenToPlane,
  toPicture,
  withReference,
  type Point,
  type ReferenceKind,
} from '@able-plumb/core';
import type { Tool } from '../../state/model';
import { StageClient } from '../../work/stage-client';
import { BenchModel } from '../bench-model';
import { beginCropGesture } from './drag-crop';
import { dragGuide } from './drag-guide';
import { drawCompared } from './draw-compared';
import { Fingers } from './fingers';
import { loupePlace } from './loupe-place';
import { takeHold } from './take-hold';
import { dragWipe, onWipe } from './drag-wipe';
import { drawPixels, LOUPE_PX, LOUPE_TIMES } from './draw-pixels';
import { targetAt, type Target } from './target-at';
import { ViewStrip } from './view-strip';
import { cropOrPanIntent, pullIntent, targetIntent, toolIntent, type Intent } from './intent';
import { EaseMarks } from './ease-marks';
import { EaseOverlay } from './ease-overlay';
import { markPanel } from './mark-panel';
import { FillMarks } from './fill-marks';
import { FillOverlay } from './fill-overlay';
import { finishTrace, traceEdge } from './trace-edge';
import { drawFillArea, drawKeepBox, drawRing, drawShim } from './draw-box';
import { drawLine, drawsLines, finishLine } from './draw-line';
import type { Gesture, PointerFacts } from './gesture';
import { pan } from './pan';
import { pullCorner } from './pull-corner';
import { LineShape } from './line-shape';
import { ShimMarks } from './shim-marks';
import { ShimOverlay } from './shim-overlay';
import { StageMarks } from './stage-marks';
import { listenToZoom } from './zoom-input';

const REACH_PX = 14;
const TOUCH_REACH_PX = 24;
/** Tools that drag a box. */
const BOXES: Readonly<Partial<Record<Tool, typeof drawRing>>> = {
  keep: drawKeepBox,
  ring: drawRing,
  shim: drawShim,
  'fill-not': drawFillArea,
  'fill-only': drawFillArea,
};
const traces = (tool: Tool): boolean => tool === 'trace' || tool === 'shim-trace';
/** Tools that need the whole picture in view. */
const MARKING: ReadonlySet<Tool> = new Set(['trace', 'pen', 'panel', 'edges']);

/** The picture under its correction, and everything drawn over it. */
@Component({
  selector: 'ap-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [EaseMarks, FillMarks, LineShape, MatButton, MatProgressBar, ShimMarks, ViewStrip],
  templateUrl: './stage.html',
  styleUrl: './stage.scss',
  providers: [EaseOverlay, FillOverlay, ShimOverlay, StageMarks],
  host: { role: 'main', 'aria-label': 'Stage', '[style.--stage-grey]': 'stageGrey()' },
})
export class Stage {
  protected readonly model = inject(BenchModel);
  protected readonly marks = inject(StageMarks);
  protected readonly ease = inject(EaseOverlay);
  protected readonly shims = inject(ShimOverlay);
  protected readonly fill = inject(FillOverlay);
  private readonly pictures = inject(StageClient);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly comparedCanvas = viewChild<ElementRef<HTMLCanvasElement>>('compared');
  private readonly loupeCanvas = viewChild<ElementRef<HTMLCanvasElement>>('loupe');

  private gesture: Gesture | null = null;
  /** The pointer that holds the gesture; null between the two clicks of a line, and for the keyboard's. */
  private pointerId: number | null = null;
  private readonly moving = signal(false);
  private readonly size = signal<{ width: number; height: number } | null>(null);
  private spaceHeld = false;
  private readonly fingers = new Fingers();
  /** The last press was a finger's: the loupe stays clear of the hand. */
  private readonly byFinger = signal(false);
  private lastPicked: string | undefined;
  /** Where the keyboard's pen stands, plane px; null while the pointer leads. */
  protected readonly cursor = signal<Point | null>(null);
  protected readonly cursorShape = signal('crosshair');

  protected readonly stageGrey = computed(() => {
    const { theme, stageGrey } = this.model.settings();
    const value = theme === 'dim' ? 0x3a : stageGrey;
    return `rgb(${value} ${value} ${value})`;
  });

  /** Size of the picture that is being opened, in words. */
  protected readonly megapixels = computed(() => {
    const picture = this.model.session.picture();
    return picture ? `${((picture.width * picture.height) / 1e6).toFixed(0)} MP` : '';
  });

  protected readonly cursorAt = computed(() => {
    const view = this.model.stageView.view();
    const cursor = this.cursor();
    return view && cursor && planeToScreen(view, cursor);
  });

  /** What of the original is seen: its side of the wipe, or the left half. */
  protected readonly comparedClip = computed(() =>
    this.model.compare() === 'side' ? 'inset(0 50% 0 0)' : `inset(0 ${(1 - this.model.wipe()) * 100}% 0 0)`,
  );

  protected readonly loupePlace = computed(() => {
    const loupe = this.model.hand.loupe();
    const view = this.model.stageView.view();
    return loupe && view && { ...loupePlace(loupe.screen, view.stage, this.byFinger()), times: LOUPE_TIMES, size: LOUPE_PX };
  });

  constructor() {
    effect((onCleanup) => {
      const observer = new ResizeObserver(([entry]) => {
        if (entry) this.size.set({ width: entry.contentRect.width, height: entry.contentRect.height });
      });
      observer.observe(this.area().nativeElement);
      onCleanup(() => observer.disconnect());
    });
    effect((onCleanup) => onCleanup(listenToZoom(this.area().nativeElement, this.model, (p) => this.onResult(p))));
    // fit: when the stage or the picture jumps, unless the user has zoomed or holds something
    effect(() => {
      const size = this.size();
      const warp = this.model.stageWarp();
      const crop = this.model.shown()?.warp.crop ?? null;
      const correction = this.model.stageCorrection();
      this.model.stageView.fitAsked();
      const lasting = this.model.session.gestureActive() || this.model.hand.draft() !== null;
      if (!size || !warp || !correction || size.width < 10) return;
      const { flipX, flipY } = correction.stance;
      const old = untracked(this.model.stageView.view);
      if (old && (lasting || untracked(this.model.stageView.viewHeld))) {
        if (old.stage.width !== size.width || old.stage.height !== size.height || old.mirrorX !== flipX || old.mirrorY !== flipY) {
          this.model.stageView.view.set({ ...old, stage: size, mirrorX: flipX, mirrorY: flipY });
        }
        return;
      }
      const shownCrop = this.model.showsOriginal() ? null : crop;
      if (this.model.compare() === 'side') {
        // both halves show the same part at the same size
        const half = { width: size.width / 2, height: size.height };
        this.model.stageView.view.set({ ...fitOutline(warp.outline, shownCrop, half, flipX, flipY), stage: size });
        return;
      }
      const closeUp = shownCrop && this.model.aroundPanel() && !MARKING.has(this.model.hand.tool());
      this.model.stageView.view.set(
        closeUp ? fitCloseUp(shownCrop, size, flipX, flipY) : fitOutline(warp.outline, shownCrop, size, flipX, flipY),
      );
    });
    // what the pointer would do is said anew when another step is open
    effect(() => {
      this.model.knot();
      this.model.hand.hint.set('');
      this.model.settingOutPicked.set(false);
    });
    drawPixels(this.model, this.pictures, this.moving, this.canvas, this.loupeCanvas);
    drawCompared(this.model, this.pictures, this.comparedCanvas);
  }

  // ---- pointer

  protected facts(event: PointerEvent): PointerFacts {
    const box = this.area().nativeElement.getBoundingClientRect();
    const touch = event.pointerType === 'touch';
    return {
      at: [event.clientX - box.left, event.clientY - box.top],
      shift: event.shiftKey,
      alt: event.altKey,
      reach: touch ? TOUCH_REACH_PX : REACH_PX,
    };
  }

  protected onDown(event: PointerEvent): void {
    if (event.button > 1) return;
    if (event.pointerType === 'touch' && this.anotherFinger(event)) return;
    this.byFinger.set(event.pointerType === 'touch');
    this.area().nativeElement.focus({ preventScroll: true });
    const pointer = this.facts(event);
    this.cursor.set(null);
    if (this.gesture) {
      // the second click of click-and-click ends the line on its release; whatever else comes while something is held is not for it
      this.pointerId ??= event.pointerId;
      return;
    }
    const gesture = event.button === 1 || this.spaceHeld ? pan(this.model, pointer) : this.gestureAt(pointer);
    if (gesture) this.begin(event, gesture);
  }

  /** A second finger: two zoom and pan, and never draw. What the first one had begun is taken back. */
  private anotherFinger({ pointerId }: PointerEvent): boolean {
    if (!this.fingers.press(pointerId)) return false;
    if (this.fingers.pinch()) {
      if (this.gesture) this.cancelGesture();
      this.model.hand.loupe.set(null);
    }
    return true;
  }

  private begin(event: PointerEvent, gesture: Gesture): void {
    event.preventDefault();
    this.gesture = gesture;
    this.pointerId = event.pointerId;
    this.moving.set(true);
    this.area().nativeElement.setPointerCapture(event.pointerId);
  }

  /** A press on a ruler brings a guide out of it; the stage follows the pointer from there. */
  protected onRuler(event: PointerEvent, axis: 'x' | 'y'): void {
    if (event.button !== 0 || this.gesture || this.model.showsOriginal()) return;
    const gesture = dragGuide(this.model, axis, null);
    if (gesture) this.begin(event, gesture);
  }

  /** Whether a pointer has nothing to do with what lasts: another one holds that. */
  private foreign(event: PointerEvent): boolean {
    return this.gesture !== null && this.pointerId !== null && event.pointerId !== this.pointerId;
  }

  protected onMove(event: PointerEvent): void {
    if (this.fingers.zooms(event) || this.foreign(event)) return;
    const pointer = this.facts(event);
    this.showPointer(pointer);
    if (this.gesture) this.gesture.move(pointer);
    else this.showIntent(pointer);
  }

  protected onUp(event: PointerEvent): void {
    if (this.fingers.zooms(event, true) || !this.gesture || this.foreign(event)) return;
    if (this.gesture.release(this.facts(event))) {
      // it goes on with the next press, of whichever pointer
      this.pointerId = null;
      return;
    }
    this.endGesture();
  }

  /** The system took a pointer away: what it held is let go, and nothing of it stays in the hand. */
  protected onCancel(event: PointerEvent): void {
    if (!this.fingers.zooms(event, true) && this.gesture && !this.foreign(event)) this.cancelGesture();
  }

  /** The capture ends with every press; only what should have lasted longer is taken back. */
  protected onLost(event: PointerEvent): void {
    if (this.gesture && event.pointerId === this.pointerId) this.cancelGesture();
  }

  /** The thing under a pointer, where things can be taken hold of in the open step. */
  private targetAt(pointer: PointerFacts): Target | null {
    const { model } = this;
    const marked = model.knot() === 'references' || model.knot() === 'stance';
    return targetAt(
      {
        lines: marked ? this.marks.lines() : [],
        traces: this.marks.traces(),
        panels: marked ? this.marks.panels() : [],
        guides: this.marks.guides(),
        measures: marked ? this.marks.measures() : [],
        margins: this.marks.margins()?.handles ?? [],
        rings: this.ease.rings(),
        boundaries: this.ease.boundaries(),
        shims: this.shims.shims(),
        sides: model.session.sheet,
        tool: model.hand.tool(),
        lastPicked: this.lastPicked,
      },
      pointer,
    );
  }

  private gestureAt(pointer: PointerFacts): Gesture | null {
    const { model } = this;
    const correction = model.session.committed();
    if (model.session.loading().state !== 'ready' || !correction) return null;
    if (model.session.elsewhere()) return pan(model, pointer);
    if (onWipe(model, pointer)) return dragWipe(model);
    const target = model.hand.tool() === 'pull' ? null : this.targetAt(pointer);
    this.lastPicked = target && 'handle' in target ? target.handle : undefined;
    if (target) return takeHold(model, correction, target, pointer);
    if (model.hand.tool() === 'pull') return this.pullAt(pointer) ?? pan(model, pointer);
    const drawsBox = BOXES[model.hand.tool()];
    if (drawsBox) return drawsBox(model, pointer);
    if (model.hand.tool() === 'panel') return markPanel(model, pointer);
    if (traces(model.hand.tool())) return traceEdge(model, pointer);
    if (drawsLines(model.hand.tool())) return drawLine(model, pointer);
    if (model.knot() === 'crop' && !model.showsOriginal()) return beginCropGesture(model, pointer);
    // a press inside a sheet's piece takes that one
    model.hand.select(model.session.sheet ? (this.marks.panels().find(({ handles }) => isInside(handles, pointer.at))?.id ?? null) : null);
    return pan(model, pointer);
  }

  /** Side by side, the place of a pointer as if the result filled the stage. */
  private onResult([x, y]: Point): Point {
    const width = this.size()?.width ?? 0;
    if (this.model.compare() !== 'side') return [x, y];
    return [x > width / 2 ? x - width / 4 : x + width / 4, y];
  }

  private showPointer({ at: pointer }: PointerFacts): void {
    const at = this.onResult(pointer);
    const view = this.model.stageView.view();
    const warp = this.model.stageWarp();
    this.model.hand.pointer.set(view && warp && toPicture(warp, screenToPlane(view, at)));
  }

  private showIntent(pointer: PointerFacts): void {
    const [shape, hint] = this.intent(pointer);
    this.cursorShape.set(shape);
    this.model.hand.hint.set(hint);
  }

  private pullAt(pointer: PointerFacts): Gesture | null {
    const pull = this.marks.pull();
    const near = pull && nearestHandle(pull.handles, pointer.at, pointer.reach);
    const handle = near && pull.onPlane.find((h) => h.id === near.id);
    return pull && handle ? pullCorner(this.model, pull.corners, handle, pointer) : null;
  }

  /** The pointer's shape and what a press would do, in words. */
  private intent(pointer: PointerFacts): Intent {
    if (this.spaceHeld || this.model.session.elsewhere()) return ['grab', 'Drag to move the picture. Wheel zooms.'];
    if (onWipe(this.model, pointer)) return ['ew-resize', 'Drag the wipe across: the original to its left, the result to its right.'];
    const pull = this.marks.pull();
    if (pull) return pullIntent(pull.handles.some((h) => distance(h.at, pointer.at) <= pointer.reach));
    return targetIntent(this.targetAt(pointer)) ?? toolIntent(this.model) ?? cropOrPanIntent(this.model, pointer);
  }

  private endGesture(): void {
    this.gesture = null;
    this.pointerId = null;
    this.model.settingOutPicked.set(false);
    this.moving.set(false);
  }

  private cancelGesture(): void {
    this.gesture?.cancel();
    this.endGesture();
  }

  // ---- keyboard

  /** One step back; true when there was something to take back. */
  back(): boolean {
    if (this.gesture || this.model.hand.draft()) {
      this.gesture?.cancel();
      this.model.hand.draft.set(null);
      this.model.hand.loupe.set(null);
      this.endGesture();
      return true;
    }
    if (this.model.session.takeBack()) return true;
    if (this.cursor()) {
      this.cursor.set(null);
      this.model.hand.loupe.set(null);
      return true;
    }
    return false;
  }

  /** Places an end of a line, or a corner of a panel or box, with the keyboard's pen. */
  finish(): void {
    const { model } = this;
    const view = model.stageView.view();
    if (this.gesture && model.hand.draft()) {
      finishLine(model);
      this.endGesture();
      return;
    }
    if (!view || model.hand.tool() === 'none') return;
    if (traces(model.hand.tool()) && !this.cursor() && model.hand.beads().length > 0) {
      finishTrace(model);
      return;
    }
    const at = this.cursor() ?? view.centre;
    const drawsBox = BOXES[model.hand.tool()];
    const pointer: PointerFacts = { at: planeToScreen(view, at), shift: false, alt: false, reach: REACH_PX };
    if (drawsLines(model.hand.tool())) {
      this.cursor.set(at);
      this.gesture = drawLine(model, pointer);
      if (this.gesture) this.moving.set(true);
    } else if (drawsBox) {
      // one corner of the box, then the one across
      model.hand.loupe.set(null);
      if (this.gesture) {
        this.gesture.release(pointer);
        this.endGesture();
        this.cursor.set(null);
        return;
      }
      this.cursor.set(at);
      this.gesture = drawsBox(model, pointer);
      if (this.gesture) this.moving.set(true);
    } else if (model.hand.tool() === 'panel') {
      this.cursor.set(at);
      markPanel(model, pointer)?.release(pointer);
    } else if (traces(model.hand.tool())) {
      this.cursor.set(at);
      traceEdge(model, pointer)?.release(pointer);
    }
  }

  /** Gives the keyboard to the stage. */
  focus(): void {
    this.area().nativeElement.focus({ preventScroll: true });
  }

  /** Whether the keyboard's pen stands on the stage; Escape puts it away. */
  penIsOut(): boolean {
    return this.cursor() !== null;
  }

  /** Moves the keyboard's pen; plane px. */
  moveCursor([dx, dy]: Point): void {
    const view = this.model.stageView.view();
    if (!view) return;
    const from = this.cursor() ?? view.centre;
    const next: Point = [from[0] + (view.mirrorX ? -dx : dx), from[1] + (view.mirrorY ? -dy : dy)];
    this.cursor.set(next);
    const screen = planeToScreen(view, next);
    if (this.gesture) this.gesture.move({ at: screen, shift: false, alt: false, reach: REACH_PX });
    else this.model.hand.loupe.set({ at: next, screen });
  }

  protected onKeyDown(event: KeyboardEvent): void {
    if (event.key === ' ') {
      event.preventDefault();
      this.spaceHeld = true;
    }
  }

  protected onKeyUp(event: KeyboardEvent): void {
    if (event.key === ' ') this.spaceHeld = false;
  }

  /** The keyboard is gone: no key is held any more. */
  letGo(): void {
    this.spaceHeld = false;
    this.fingers.forget();
  }

  /** What a line is that the pen asked about. */
  protected answer(id: string, kind: ReferenceKind): void {
    this.model.session.commit((c) => withReference(c, id, { kind, waits: undefined }));
    this.focus();
  }

  /** The end of a line that arrow keys nudge; null for none. */
  protected heldEnd(id: string): 'a' | 'b' | null {
    const held = this.model.hand.held();
    return held?.kind === 'end' && held.id === id ? held.which : null;
  }

  protected isHeld(id: string, index: number): boolean {
    const held = this.model.hand.held();
    return held !== null && 'index' in held && held.id === id && held.index === index;
  }

  protected farEnough(a: Point, b: Point): boolean {
    return distance(a, b) > 6;
  }
}
