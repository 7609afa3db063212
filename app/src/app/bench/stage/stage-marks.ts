import { computed, inject, Injectable } from '@angular/core';
import {
  clipToRect,
  closedPath,
  cornersOnPlane,
  cropHandles,
  croppedPanel,
  deliveryRect,
  degreesText,
  distanceMm,
  bowInPicture,
  draftMark,
  edgeCalibrationOf,
  edgeMarks,
  eyeHeight,
  eyeLine,
  gridLines,
  keepBoxesOnPlane,
  guideLines,
  heightInCrop,
  kindNames,
  lengthText,
  lineAngleInWords,
  lineMarks,
  marginHandles,
  distance,
  midpoint,
  openPath,
  orderedBeads,
  panelBox,
  panelMarks,
  planeScale,
  planeToScreen,
  pullHandles,
  rulerTicks,
  screenRect,
  settingOutLines,
  settingOutPath,
  stretchMap,
  toPlane,
  withMargins,
  type Correction,
  type Delivery,
  type EdgeMark,
  type LineMark,
  type Point,
  type Rect,
} from '@able-plumb/core';
import { BenchModel } from '../bench-model';
import { stretchStep } from './stretch-steps';
import type { MeasureMark } from './target-at';

/** Everything that is drawn over the picture, in screen px, as it follows from what the bench shows. */
@Injectable()
export class StageMarks {
  private readonly model = inject(BenchModel);

  /** What every mark needs; null while there is nothing to draw on. */
  private readonly ground = computed(() => {
    const view = this.model.stageView.view();
    const warp = this.model.stageWarp();
    const correction = this.model.stageCorrection();
    return view && warp && correction ? { view, warp, correction } : null;
  });

  readonly overlay = computed(() => {
    const ground = this.ground();
    if (!ground) return null;
    const { view, warp, correction } = ground;
    const shown = this.model.shown();
    const crop = this.model.showsOriginal() || !shown ? null : shown.warp.crop;
    const outline = closedPath(view, warp.outline);
    const seen = crop && closedPath(view, clipToRect(warp.outline, crop));
    return {
      outline,
      crop: crop && screenRect(view, crop),
      frame: crop && framePath(screenRect(view, crop)),
      // by the even-odd rule: of two areas of which one lies in the other, what is in the larger alone
      outside: crop && `${outline}${seen}`,
      empty: crop && correction.crop.edges !== 'clear' ? `${rectPath(screenRect(view, crop))}${seen}` : null,
      handles: crop ? cropHandles(crop).map(({ part, at }) => ({ part, at: planeToScreen(view, at) })) : [],
      cropSize: shown && `${shown.warp.outputSize.width} × ${shown.warp.outputSize.height} px`,
    };
  });

  readonly lines = computed<readonly LineMark[]>(() => {
    const ground = this.ground();
    const references = this.model.session.correction()?.references;
    if (!ground || !references || !this.model.marks()) return [];
    const read = this.model.readings()?.references ?? [];
    const disagreeing = new Set(read.filter((r) => r.disagrees).map((r) => r.id));
    // in use, and without a say: drawn as lines are that are set aside
    const silent = new Set(read.filter((r) => r.used && !r.counts).map((r) => r.id));
    return lineMarks(ground.view, ground.warp, references, this.model.hand.selectedId(), disagreeing, silent);
  });

  /** Edges that speak for or against a suggestion, or against what is set. */
  readonly evidence = computed(() =>
    this.model.found.evidence().flatMap(({ kind, a, b, agrees }, k) => {
      const [p, q] = [this.onScreen(a), this.onScreen(b)];
      return p && q ? [{ k, kind, agrees, a: p, b: q }] : [];
    }),
  );

  /** Traced edges; drawn at Lens only. */
  readonly traces = computed<readonly EdgeMark[]>(() => {
    const ground = this.ground();
    const correction = this.model.session.correction();
    if (!ground || !correction || this.model.knot() !== 'lens' || !this.model.marks()) return [];
    return edgeMarks(ground.view, ground.warp, correction.lens.edges, this.model.hand.selectedId(), this.oddEdges());
  });

  private readonly oddEdges = computed<ReadonlySet<string>>(() => {
    const committed = this.model.session.committed();
    return new Set(committed && this.model.knot() === 'lens' ? (edgeCalibrationOf(committed).found?.disagreeing ?? []) : []);
  });

  /** The edge being traced: its beads, and the bow that they show so far. */
  readonly tracing = computed(() => {
    const beads = this.model.hand.beads();
    const shown = beads.map((p) => this.onScreen(p)).filter((p) => p !== null);
    const last = shown.at(-1);
    if (!last) return null;
    const bow = bowInPicture(orderedBeads(beads));
    const length = beads.length > 1 ? `${distance(beads[0] as Point, beads.at(-1) as Point).toFixed(0)} px long` : '';
    return {
      beads: shown,
      path: openPath(shown),
      at: last,
      words: bow === null ? length : `bow ${bow.toFixed(1)} px`,
    };
  });

  readonly panels = computed(() => {
    const ground = this.ground();
    const panels = this.model.session.correction()?.panels;
    return ground && panels && this.model.marks() ? panelMarks(ground.view, ground.warp, { ...ground.correction, panels }) : [];
  });

  /** On a sheet whose pieces begin inside their borders: where these end. */
  readonly inner = computed(() => {
    const [ground, sheet] = [this.ground(), this.model.session.own()?.sheet];
    if (!ground || !this.model.session.sheet || sheet?.border !== 'inside' || !this.model.marks()) return [];
    return sheet.pieces.flatMap(({ id, inner }) => {
      const corners = inner?.map((p) => this.onScreen(p)) ?? [];
      return corners.length === 4 && corners.every((p) => p !== null) ? [{ id, path: `${openPath(corners as Point[])}Z` }] : [];
    });
  });

  /** Corners of the panel being marked. */
  readonly corners = computed<readonly Point[]>(() =>
    this.model.hand
      .corners()
      .map((p) => this.onScreen(p))
      .filter((p) => p !== null),
  );

  /** Edges of the panel being marked. */
  readonly edges = computed(() =>
    this.model.hand.edges().flatMap(([p, q]) => {
      const [a, b] = [this.onScreen(p), this.onScreen(q)];
      return a && b ? [{ a, b }] : [];
    }),
  );

  readonly measures = computed<readonly MeasureMark[]>(() => {
    const measures = this.model.session.correction()?.measures ?? [];
    if (measures.length === 0 || !this.model.marks()) return [];
    const readings = this.model.readings()?.measures ?? [];
    return measures.flatMap((m, i) => {
      const [a, b] = [this.onScreen(m.a), this.onScreen(m.b)];
      return a && b ? [{ id: m.id, a, b, middle: midpoint(a, b), text: readings[i]?.text ?? 'no scale' }] : [];
    });
  });

  /** The panel's margins while the crop goes round it: their box, and where each side is taken hold of. */
  readonly margins = computed(() => {
    const view = this.model.stageView.view();
    const shown = this.model.shown();
    const knot = this.model.knot();
    if (!view || !shown || this.model.showsOriginal() || knot !== 'references' || !this.model.marks()) return null;
    const { correction, warp } = shown;
    const panel = this.model.aroundPanel() ? croppedPanel(correction) : null;
    const box = panel && panelBox(correction, warp, panel);
    if (!panel || !box) return null;
    const rect = withMargins(box, panel.margins);
    return {
      rect: screenRect(view, rect),
      handles: marginHandles(rect).map(({ side, at }) => ({ side, at: planeToScreen(view, at) })),
    };
  });

  /** At Check, the stretch map over the crop: cells by their step, and figures on a wide lattice. */
  readonly stretch = computed(() => {
    const [view, shown] = [this.model.stageView.view(), this.model.shown()];
    if (!view || !shown || !this.model.stretch() || this.model.knot() !== 'check' || this.model.compare() === 'side') return null;
    if (this.model.showsOriginal()) return null;
    const { columns, rows, values } = stretchMap(shown.warp, shown.warp.crop, STRETCH_COLUMNS);
    const rect = screenRect(view, shown.warp.crop);
    const [width, height] = [rect.width / columns, rect.height / rows];
    const mirrored = (i: number, n: number, flipped: boolean): number => (flipped ? n - 1 - i : i);
    const placed = values.flatMap((value, k) => {
      if (value === null) return [];
      const i = mirrored(k % columns, columns, view.mirrorX);
      const j = mirrored(Math.floor(k / columns), rows, view.mirrorY);
      return [{ k, i, j, value, x: rect.x + i * width, y: rect.y + j * height }];
    });
    return {
      width,
      height,
      cells: placed.map(({ k, value, x, y }) => ({ k, x, y, step: stretchStep(value) })),
      figures: placed
        .filter(({ i, j }) => i % 9 === 4 && j % 8 === 4)
        .map(({ k, value, x, y }) => ({ k, x: x + width / 2, y: y + height / 2, text: `${value.toFixed(2)} ×` })),
    };
  });

  /** Keep boxes as the result shows them, at Crop; and the one being drawn. */
  readonly keepBoxes = computed(() => {
    const [view, shown] = [this.model.stageView.view(), this.model.shown()];
    if (!view || !shown || this.model.knot() !== 'crop' || this.model.showsOriginal()) return [];
    const draft = this.model.hand.boxDraft();
    const boxes = keepBoxesOnPlane(shown.correction, shown.warp).map((box, i) => ({ label: `keep ${i + 1}`, rect: screenRect(view, box) }));
    return draft ? [...boxes, { label: 'keep', rect: screenRect(view, draft) }] : boxes;
  });

  /** At Crop, the crops of the picture's other deliveries. */
  readonly deliveries = computed(() => {
    const [view, own] = [this.model.stageView.view(), this.model.session.own()];
    if (!view || !own || this.model.knot() !== 'crop' || this.model.session.gestureActive() || this.model.showsOriginal()) return [];
    return this.model.session
      .shapedDeliveries()
      .filter((d) => d.id !== this.model.session.delivery()?.id)
      .flatMap((d) => {
        const rect = deliveryRectOrNull(own, d);
        return rect ? [{ name: d.name, rect: screenRect(view, rect) }] : [];
      });
  });

  /** Setting-out lines over the crop: pegged, just picked, or while the crop or the picture under it moves. */
  readonly settingOut = computed(() => {
    const view = this.model.stageView.view();
    const shown = this.model.shown();
    const { name, parts, attitude, peg } = this.model.settings().settingOut;
    if (!view || !shown || name === 'none' || !this.model.marks() || this.model.showsOriginal()) return null;
    const atCrop = this.model.knot() === 'crop' && (this.model.session.gestureActive() || this.model.settingOutPicked());
    if (!peg && !atCrop) return null;
    const { correction, warp } = shown;
    const eye = name === 'eye' ? eyeHeight(correction, warp, warp.crop) : null;
    const lines = name === 'eye' ? (eye ? eyeLine(heightInCrop(warp.crop, eye.y)) : []) : settingOutLines(name, parts, attitude);
    return settingOutPath(lines, screenRect(view, warp.crop));
  });

  readonly guides = computed(() => {
    const view = this.model.stageView.view();
    const correction = this.model.session.correction();
    return view && correction && this.model.marks() && !this.model.showsOriginal() ? guideLines(view, correction.guides) : [];
  });

  readonly grid = computed(() => {
    const view = this.model.stageView.view();
    const shown = this.model.shown();
    // a grid comes up by itself while the lens is bent by hand, and while the picture is turned
    const bending = this.model.knot() === 'lens' && this.model.session.gestureActive();
    const percent = this.model.grid() || (bending || this.model.hand.turning() ? BY_HAND_GRID : 0);
    return view && shown && percent > 0 && this.model.marks() ? gridLines(view, shown.warp.crop, percent) : [];
  });

  /** Handles of the corner pull: on the plane and on the screen. */
  readonly pull = computed(() => {
    const ground = this.ground();
    if (!ground || this.model.hand.tool() !== 'pull' || this.model.showsOriginal()) return null;
    const corners = cornersOnPlane(ground.warp, ground.correction);
    if (!corners) return null;
    const onPlane = pullHandles(corners);
    return { corners, onPlane, handles: onPlane.map((h) => ({ ...h, at: planeToScreen(ground.view, h.at) })) };
  });

  /** Lines that were drawn and settle when the magnet has answered. */
  readonly waiting = computed<readonly LineMark[]>(() => {
    const ground = this.ground();
    const first = (this.model.session.correction()?.references.length ?? 0) + 1;
    return !ground
      ? []
      : this.model.session.awaitedLines().flatMap((line, i) => draftMark(ground.view, ground.warp, line, first + i) ?? []);
  });

  readonly draft = computed(() => {
    const ground = this.ground();
    const draft = this.model.hand.draft();
    if (!ground || !draft) return null;
    const tool = this.model.hand.tool();
    const kind = tool === 'pen' ? draft.kind : draft.kind === 'plumb' ? 'plumb' : 'level';
    const mark = draftMark(ground.view, ground.warp, { ...draft, kind }, this.nextNumber());
    return mark && { mark, ...this.draftWords() };
  });

  /** Where the kind of a selected line is asked for, too steep for a level one and not steep enough for a plumb one, and the kinds it may be. */
  readonly question = computed(() => {
    const selected = this.model.hand.selected();
    const line = selected?.waits ? this.lines().find((l) => l.id === selected.id) : undefined;
    const correction = this.model.session.correction();
    if (!line || !correction) return null;
    const names = kindNames(correction.camera.flat ? 'sheet' : correction.stance.front);
    return {
      id: line.id,
      at: line.middle,
      kinds: (['plumb', 'level', 'return'] as const).map((kind) => ({ kind, name: names[kind], chosen: false })),
    };
  });

  private nextNumber(): number {
    const correction = this.model.session.correction();
    switch (this.model.hand.tool()) {
      case 'edges':
        return this.model.hand.edges().length + 1;
      case 'measure':
        return (correction?.measures.length ?? 0) + 1;
      default:
        return (correction?.references.length ?? 0) + this.model.session.awaitedLines().length + 1;
    }
  }

  private draftWords(): { readonly words: string; readonly length: string } {
    const draft = this.model.hand.draft();
    const shown = this.model.shown();
    if (!draft || !shown) return { words: '', length: '' };
    const length = `${Math.round(draft.lengthPx)} px`;
    const { stance, camera } = shown.correction;
    switch (this.model.hand.tool()) {
      case 'edges':
        return { words: `panel edge ${this.nextNumber()} of 4, ${degreesText(draft.angleDeg)}`, length };
      case 'measure': {
        const scale = planeScale(shown.correction, shown.warp);
        const mm = scale && distanceMm(shown.warp, scale, draft);
        return scale && mm !== null ? { words: lengthText(mm, scale), length } : { words: 'no scale yet', length };
      }
      default: {
        const names = kindNames(camera.flat ? 'sheet' : stance.front);
        return { words: `${names[draft.kind].toLowerCase()} ${lineAngleInWords(draft.kind, draft.angleDeg)}`, length };
      }
    }
  }

  /** Rulers count the turned picture's pixels from its top left corner. */
  readonly rulers = computed(() => {
    const ground = this.ground();
    if (!ground || this.model.compare() === 'side') return null;
    const { view, warp } = ground;
    return { x: rulerTicks(view, 'x', -warp.turnedSize.width / 2), y: rulerTicks(view, 'y', -warp.turnedSize.height / 2, 60) };
  });

  /** A picture point on the screen; null without an image there. */
  private onScreen(p: Point): Point | null {
    const ground = this.ground();
    const at = ground && toPlane(ground.warp, p);
    return ground && at && planeToScreen(ground.view, at);
  }
}

/** Spacing of the grid that comes up while something is bent or turned by hand, percent of the crop's width. */
const BY_HAND_GRID = 5;

/** How far the lines of a crop go beyond its corners, px. */
const BEYOND_PX = 18;

/** The four sides of a crop, each a line of its own. */
function framePath({ x, y, width, height }: Rect): string {
  const [left, top, right, bottom] = [x - BEYOND_PX, y - BEYOND_PX, x + width + BEYOND_PX, y + height + BEYOND_PX];
  const across = [y, y + height].map((at) => `M${left} ${at}H${right}`);
  const down = [x, x + width].map((at) => `M${at} ${top}V${bottom}`);
  return [...across, ...down].join('');
}

const rectPath = ({ x, y, width, height }: Rect): string => `M${x} ${y}h${width}v${height}h${-width}Z`;

/** The rectangle of a delivery; null where the picture's crop cannot be had. */
function deliveryRectOrNull(own: Correction, delivery: Delivery): Rect | null {
  try {
    return deliveryRect(own, delivery);
  } catch {
    return null;
  }
}

/** Cells of the stretch map across the crop. */
const STRETCH_COLUMNS = 45;
