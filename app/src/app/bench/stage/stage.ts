import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked, viewChild } from '@angular/core';
import {
  closedPath,
  cornersOnPlane,
  nearestHandle,
  pullHandles,
  cropHandles,
  degreesText,
  distance,
  draftMark,
  fitOutline,
  lineAngleInWords,
  gridLines,
  guideLines,
  lineMarks,
  panelMarks,
  planeToScreen,
  rulerTicks,
  screenRect,
  screenToPlane,
  toPicture,
  toPlane,
  zoomAt,
  type LineMark,
  type Point,
} from '@able-plumb/core';
import { PictureClient } from '../../work/picture-client';
import { BenchModel } from '../bench-model';
import { beginCropGesture, cropIntent } from './drag-crop';
import { dragGuide } from './drag-guide';
import { drawPixels, LOUPE_PX, LOUPE_TIMES } from './draw-pixels';
import { targetAt, type Target } from './target-at';
import { ViewStrip } from './view-strip';
import { dragCorner, markPanel } from './mark-panel';
import { dragReference } from './drag-reference';
import { drawLine, finishLine } from './draw-line';
import type { Gesture, PointerFacts } from './gesture';
import { pan } from './pan';
import { pullCorner } from './pull-corner';
import { LineShape } from './line-shape';

const REACH_PX = 14;
const TOUCH_REACH_PX = 24;

const TARGET_HINTS: Readonly<Record<Target['kind'], string>> = {
  guide: 'Drag the guide; drag it off the stage to remove it.',
  corner: 'Drag to move this corner.',
  end: 'Drag to move this end.',
  line: 'Drag to move the whole line.',
};
const CORNER_HINTS = [
  'Click the corners of a rectangle, or drag its diagonal.',
  'Three more corners.',
  'Two more corners.',
  'The last corner.',
];

/** The picture under its correction, and everything drawn over it. */
@Component({
  selector: 'ap-stage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [LineShape, ViewStrip],
  templateUrl: './stage.html',
  styleUrl: './stage.scss',
  host: { role: 'main', 'aria-label': 'Stage', '[style.--stage-grey]': 'stageGrey()' },
})
export class Stage {
  protected readonly model = inject(BenchModel);
  private readonly pictures = inject(PictureClient);
  private readonly area = viewChild.required<ElementRef<HTMLElement>>('area');
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly loupeCanvas = viewChild<ElementRef<HTMLCanvasElement>>('loupe');

  private gesture: Gesture | null = null;
  private readonly moving = signal(false);
  private readonly size = signal<{ width: number; height: number } | null>(null);
  private spaceHeld = false;
  private lastPicked: string | undefined;
  /** Where the keyboard's pen stands, plane px; null while the pointer leads. */
  protected readonly cursor = signal<Point | null>(null);
  protected readonly cursorShape = signal('crosshair');

  protected readonly stageGrey = computed(() => {
    const { theme, stageGrey } = this.model.settings();
    const value = theme === 'dim' ? 0x3a : stageGrey;
    return `rgb(${value} ${value} ${value})`;
  });

  protected readonly overlay = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    const correction = this.model.stageCorrection();
    if (!view || !warp || !correction) return null;
    const shown = this.model.shown();
    const original = this.model.showsOriginal();
    const crop = original || !shown ? null : shown.warp.crop;
    return {
      outline: closedPath(view, warp.outline),
      crop: crop && screenRect(view, crop),
      outside: crop && `M0 0H${view.stage.width}V${view.stage.height}H0Z${rectPath(screenRect(view, crop))}`,
      empty: crop && correction.crop.edges !== 'clear' ? `${rectPath(screenRect(view, crop))}${closedPath(view, warp.outline)}` : null,
      handles: crop ? cropHandles(crop).map(({ part, at }) => ({ part, at: planeToScreen(view, at) })) : [],
      cropSize: shown && `${shown.warp.outputSize.width} × ${shown.warp.outputSize.height} px`,
    };
  });

  protected readonly lines = computed<readonly LineMark[]>(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    const correction = this.model.correction();
    if (!view || !warp || !correction || !this.model.marks()) return [];
    const disagreeing = new Set(
      this.model
        .readings()
        ?.references.filter((r) => r.disagrees)
        .map((r) => r.id),
    );
    return lineMarks(view, warp, correction.references, this.model.selectedId(), disagreeing);
  });

  protected readonly panels = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    const correction = this.model.correction();
    return view && warp && correction && this.model.marks() ? panelMarks(view, warp, correction.panels) : [];
  });

  /** Corners of the panel being marked, screen px. */
  protected readonly corners = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    if (!view || !warp) return [];
    return this.model.corners().flatMap((p) => {
      const at = toPlane(warp, p);
      return at ? [planeToScreen(view, at)] : [];
    });
  });

  protected readonly guides = computed(() => {
    const view = this.model.view();
    const correction = this.model.correction();
    return view && correction && this.model.marks() && !this.model.showsOriginal() ? guideLines(view, correction.guides) : [];
  });

  protected readonly grid = computed(() => {
    const view = this.model.view();
    const shown = this.model.shown();
    const percent = this.model.grid();
    return view && shown && percent > 0 && this.model.marks() ? gridLines(view, shown.warp.crop, percent) : [];
  });

  /** Handles of the corner pull: on the plane and on the screen. */
  protected readonly pull = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    const correction = this.model.stageCorrection();
    if (!view || !warp || !correction || this.model.tool() !== 'pull' || this.model.showsOriginal()) return null;
    const corners = cornersOnPlane(warp, correction);
    if (!corners) return null;
    const onPlane = pullHandles(corners);
    return { corners, onPlane, handles: onPlane.map((h) => ({ ...h, at: planeToScreen(view, h.at) })) };
  });

  protected readonly draft = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    const draft = this.model.draft();
    if (!view || !warp || !draft) return null;
    const mark = draftMark(view, warp, draft, (this.model.correction()?.references.length ?? 0) + 1);
    const kind = draft.kind === 'plumb' ? 'plumb' : 'level';
    return (
      mark && {
        mark,
        words: `${kind} ${lineAngleInWords(draft.kind, draft.angleDeg)}`,
        angle: degreesText(draft.angleDeg),
        length: `${Math.round(draft.lengthPx)} px`,
      }
    );
  });

  /** Rulers count the turned picture's pixels from its top left corner. */
  protected readonly rulers = computed(() => {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    if (!view || !warp) return null;
    return { x: rulerTicks(view, 'x', -warp.turnedSize.width / 2), y: rulerTicks(view, 'y', -warp.turnedSize.height / 2, 60) };
  });

  protected readonly cursorAt = computed(() => {
    const view = this.model.view();
    const cursor = this.cursor();
    return view && cursor && planeToScreen(view, cursor);
  });

  /** Beside the pointer, never under it, and inside the stage. */
  protected readonly loupePlace = computed(() => {
    const loupe = this.model.loupe();
    const view = this.model.view();
    if (!loupe || !view) return null;
    const [x, y] = loupe.screen;
    const off = 34;
    const left = x + off + LOUPE_PX < view.stage.width ? x + off : x - off - LOUPE_PX;
    const top = y + off + LOUPE_PX < view.stage.height ? y + off : y - off - LOUPE_PX;
    return { left: Math.max(4, left), top: Math.max(4, top), times: LOUPE_TIMES, size: LOUPE_PX };
  });

  constructor() {
    effect((onCleanup) => {
      const observer = new ResizeObserver(([entry]) => {
        if (entry) this.size.set({ width: entry.contentRect.width, height: entry.contentRect.height });
      });
      observer.observe(this.area().nativeElement);
      onCleanup(() => observer.disconnect());
    });
    // fit: when the stage or the picture jumps, unless the user has zoomed or holds something
    effect(() => {
      const size = this.size();
      const warp = this.model.stageWarp();
      const crop = this.model.shown()?.warp.crop ?? null;
      const correction = this.model.stageCorrection();
      this.model.fitAsked();
      const lasting = this.model.gestureActive() || this.model.draft() !== null;
      if (!size || !warp || !correction || size.width < 10) return;
      const { flipX, flipY } = correction.stance;
      const old = untracked(this.model.view);
      if (old && (lasting || untracked(this.model.viewHeld))) {
        if (old.stage.width !== size.width || old.stage.height !== size.height || old.mirrorX !== flipX || old.mirrorY !== flipY) {
          this.model.view.set({ ...old, stage: size, mirrorX: flipX, mirrorY: flipY });
        }
        return;
      }
      this.model.view.set(fitOutline(warp.outline, this.model.showsOriginal() ? null : crop, size, flipX, flipY));
    });
    // what the pointer would do is said anew when another step is open
    effect(() => {
      this.model.knot();
      this.model.hint.set('');
    });
    drawPixels(this.model, this.pictures, this.moving, this.canvas, this.loupeCanvas);
  }

  // ---- pointer

  protected facts(event: PointerEvent | WheelEvent): PointerFacts {
    const box = this.area().nativeElement.getBoundingClientRect();
    const touch = event instanceof PointerEvent && event.pointerType === 'touch';
    return {
      at: [event.clientX - box.left, event.clientY - box.top],
      shift: event.shiftKey,
      alt: event.altKey,
      reach: touch ? TOUCH_REACH_PX : REACH_PX,
    };
  }

  protected onDown(event: PointerEvent): void {
    if (event.button > 1) return;
    this.area().nativeElement.focus({ preventScroll: true });
    const pointer = this.facts(event);
    this.cursor.set(null);
    // the second click of click-and-click ends the line on its release
    if (this.gesture) return;
    const gesture = event.button === 1 || this.spaceHeld ? pan(this.model, pointer) : this.gestureAt(pointer);
    if (!gesture) return;
    event.preventDefault();
    this.gesture = gesture;
    this.moving.set(true);
    this.area().nativeElement.setPointerCapture(event.pointerId);
  }

  /** A press on a ruler brings a guide out of it; the stage follows the pointer from there. */
  protected onRuler(event: PointerEvent, axis: 'x' | 'y'): void {
    if (event.button !== 0 || this.gesture || this.model.showsOriginal()) return;
    const gesture = dragGuide(this.model, axis, null);
    if (!gesture) return;
    event.preventDefault();
    this.gesture = gesture;
    this.moving.set(true);
    this.area().nativeElement.setPointerCapture(event.pointerId);
  }

  protected onMove(event: PointerEvent): void {
    const pointer = this.facts(event);
    this.showPointer(pointer);
    if (this.gesture) this.gesture.move(pointer);
    else this.showIntent(pointer);
  }

  protected onUp(event: PointerEvent): void {
    if (!this.gesture) return;
    if (this.gesture.release(this.facts(event))) return;
    this.endGesture();
  }

  protected onLost(): void {
    if (this.gesture && !this.model.draft()) this.cancelGesture();
  }

  protected onWheel(event: WheelEvent): void {
    event.preventDefault();
    const view = this.model.view();
    if (!view) return;
    this.model.viewHeld.set(true);
    this.model.view.set(zoomAt(view, this.facts(event).at, Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016))));
  }

  /** The thing under a pointer, where things can be taken hold of in the open step. */
  private targetAt(pointer: PointerFacts): Target | null {
    const { model } = this;
    const marked = model.knot() === 'references' || model.knot() === 'stance';
    return targetAt(
      {
        lines: marked ? this.lines() : [],
        panels: marked ? this.panels() : [],
        guides: this.guides(),
        tool: model.tool(),
        lastPicked: this.lastPicked,
      },
      pointer,
    );
  }

  private gestureAt(pointer: PointerFacts): Gesture | null {
    const { model } = this;
    const correction = model.committed();
    if (model.loading().state !== 'ready' || !correction) return null;
    const target = model.tool() === 'pull' ? null : this.targetAt(pointer);
    this.lastPicked = target && 'handle' in target ? target.handle : undefined;
    if (target?.kind === 'guide') return dragGuide(model, target.axis, target.id);
    const panel = target?.kind === 'corner' && correction.panels.find((p) => p.id === target.id);
    if (panel) return dragCorner(model, panel, target.index, pointer);
    const reference = (target?.kind === 'end' || target?.kind === 'line') && correction.references.find((r) => r.id === target.id);
    if (reference) return dragReference(model, reference, target.kind === 'end' ? target.which : 'both', pointer);
    if (model.tool() === 'pull') return this.pullAt(pointer) ?? pan(model, pointer);
    if (model.tool() === 'panel') return markPanel(model, pointer);
    if (model.tool() === 'pen') return drawLine(model, pointer);
    if (model.knot() === 'crop' && !model.showsOriginal()) return beginCropGesture(model, pointer);
    model.select(null);
    return pan(model, pointer);
  }

  private showPointer({ at }: PointerFacts): void {
    const view = this.model.view();
    const warp = this.model.stageWarp();
    this.model.pointer.set(view && warp && toPicture(warp, screenToPlane(view, at)));
  }

  private showIntent(pointer: PointerFacts): void {
    const [shape, hint] = this.intent(pointer);
    this.cursorShape.set(shape);
    this.model.hint.set(hint);
  }

  private pullAt(pointer: PointerFacts): Gesture | null {
    const pull = this.pull();
    const near = pull && nearestHandle(pull.handles, pointer.at, pointer.reach);
    const handle = near && pull.onPlane.find((h) => h.id === near.id);
    return pull && handle ? pullCorner(this.model, pull.corners, handle, pointer) : null;
  }

  /** The pointer's shape and what a press would do, in words. */
  private intent(pointer: PointerFacts): readonly [string, string] {
    const { model } = this;
    const view = model.view();
    const shown = model.shown();
    if (this.spaceHeld) return ['grab', 'Drag to move the picture.'];
    if (model.tool() === 'pull') {
      const near = this.pull()?.handles.some((h) => distance(h.at, pointer.at) <= pointer.reach);
      return near
        ? ['move', 'Pull; with Shift the other side goes along.']
        : ['grab', 'Pull the corners or sides by eye. Drag elsewhere to move the picture.'];
    }
    const target = this.targetAt(pointer);
    if (target)
      return target.kind === 'guide'
        ? [target.axis === 'x' ? 'ew-resize' : 'ns-resize', TARGET_HINTS.guide]
        : ['move', TARGET_HINTS[target.kind]];
    if (model.tool() === 'panel') return ['crosshair', CORNER_HINTS[model.corners().length] ?? ''];
    if (model.tool() === 'pen')
      return ['crosshair', 'Drag along something level or plumb, or click its two ends. Shift draws over a ring.'];
    if (model.knot() !== 'crop' || !view || !shown || model.showsOriginal()) return ['grab', 'Drag to move the picture. Wheel zooms.'];
    const intent = cropIntent(view, shown.warp.crop, pointer);
    if (intent.kind === 'turn') return ['alias', 'Drag to turn the picture.'];
    if (intent.kind === 'fresh') return ['crosshair', 'Drag a fresh crop.'];
    if (intent.part === 'inside') return ['move', 'Drag to move the crop.'];
    return [`${intent.part}-resize`, 'Drag to change the crop. Shift keeps the proportions, Alt goes from the centre.'];
  }

  private endGesture(): void {
    this.gesture = null;
    this.moving.set(false);
  }

  private cancelGesture(): void {
    this.gesture?.cancel();
    this.endGesture();
  }

  // ---- keyboard

  /** One step back; true when there was something to take back. */
  back(): boolean {
    if (this.gesture || this.model.draft()) {
      this.gesture?.cancel();
      this.model.draft.set(null);
      this.model.loupe.set(null);
      this.endGesture();
      return true;
    }
    if (this.cursor()) {
      this.cursor.set(null);
      this.model.loupe.set(null);
      return true;
    }
    return false;
  }

  /** Places an end of a line with the keyboard's pen. */
  finish(): void {
    const view = this.model.view();
    if (this.gesture && this.model.draft()) {
      finishLine(this.model);
      this.endGesture();
      return;
    }
    if (!view || !this.model.penArmed() || this.model.knot() !== 'references') return;
    const at = this.cursor() ?? view.centre;
    this.cursor.set(at);
    const pointer: PointerFacts = { at: planeToScreen(view, at), shift: false, alt: false, reach: REACH_PX };
    this.gesture = drawLine(this.model, pointer);
    if (this.gesture) this.moving.set(true);
  }

  /** Moves the keyboard's pen; picture px. */
  moveCursor([dx, dy]: Point): void {
    const view = this.model.view();
    if (!view) return;
    const from = this.cursor() ?? view.centre;
    const next: Point = [from[0] + (view.mirrorX ? -dx : dx), from[1] + (view.mirrorY ? -dy : dy)];
    this.cursor.set(next);
    const screen = planeToScreen(view, next);
    if (this.gesture) this.gesture.move({ at: screen, shift: false, alt: false, reach: REACH_PX });
    else this.model.loupe.set({ at: next, screen });
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

  protected farEnough(a: Point, b: Point): boolean {
    return distance(a, b) > 6;
  }
}

const rectPath = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }): string =>
  `M${x} ${y}h${width}v${height}h${-width}Z`;
