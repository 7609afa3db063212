import type { ElementRef } from '@angular/core';
import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  Injector,
  untracked,
  viewChild,
} from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatTooltip } from '@angular/material/tooltip';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import {
  isCounted,
  planeToScreen,
  turnProportion,
  withCropRect,
  withoutPanel,
  withReference,
  withShimNet,
  zoomAt,
  type Point,
  type ReferenceKind,
} from '@able-plumb/core';
import { Passing } from '../ui/passing';
import { JobKeeper } from '../keeper/job-keeper';
import { benchActions } from '../state/bench.actions';
import type { Compare, Knot, Tool } from '../state/model';
import { shelfActions } from '../state/shelf.actions';
import { savingFeature } from '../state/saving.reducer';
import { selectPictureEntities } from '../state/selectors';
import { Icon } from '../ui/icon';
import { NameMark } from '../ui/name-mark';
import { BenchModel } from './bench-model';
import { GRID_SPACINGS } from './stage/view-strip';
import { nextHandle, nudgeHandle } from './handles-by-keys';
import { HelpSheet } from '../keys/help-sheet';
import { isKeyOf, type KeyAction } from '../keys/key-rows';
import { KeyTable } from '../keys/key-table';
import { CheckKnot } from './knots/check/check-knot';
import { CropKnot } from './knots/crop/crop-knot';
import { EaseKnot } from './knots/ease/ease-knot';
import { ExportKnot } from './knots/export/export-knot';
import { LensKnot } from './knots/lens/lens-knot';
import { ReferencesKnot } from './knots/references/references-knot';
import { StanceKnot } from './knots/stance/stance-knot';
import { FillPreview } from './session/fill-preview';
import { Found } from './session/found';
import { Hand } from './session/hand';
import { HeldKey } from './session/held-key';
import { Magnet } from './session/magnet';
import { PictureSession } from './session/picture-session';
import { StageView } from './session/stage-view';
import { PieceList } from './sheet/piece-list';
import { actOnSheet } from './sheet/sheet-keys';
import { SheetDesk } from './sheet/sheet-desk';
import { SheetKnot } from './sheet/sheet-knot';
import { ReadingsPanel } from './readings/readings-panel';
import { SideEdge } from './side-edge';
import { freeHeld, nailHeld } from './stage/drag-shim';
import { Stage } from './stage/stage';
import { PlumbString } from './string/plumb-string';
import { Tip } from '../keys/tip';
import { ThemeButton } from '../theme-button';

const COMPARES: readonly Compare[] = ['wipe', 'side', 'result'];
/** What takes letters and digits for itself. */
const TYPED_INTO = 'input:not([type=checkbox]):not([type=range]), textarea, mat-select';
const WHILE_TYPING: ReadonlySet<KeyAction> = new Set(['undo', 'redo', 'picture-next', 'picture-previous']);
const TOOL_NAMES: Readonly<Record<Tool, string>> = {
  none: 'Nothing',
  trace: 'Trace',
  pen: 'Pen',
  panel: 'Panel',
  edges: 'Edges',
  measure: 'Length',
  cut: 'Cut',
  pull: 'Corner pull',
  ring: 'Shape ring',
  shim: 'Shim',
  'shim-line': 'Line in the shim',
  'shim-trace': 'Trace in the shim',
  keep: 'Keep box',
  'fill-not': 'Not from here',
  'fill-only': 'Only from here',
  'fill-line': 'Straight on',
};
const KEY_OF_TOOL: Readonly<Partial<Record<Tool, KeyAction>>> = {
  trace: 'trace',
  pen: 'pen',
  panel: 'panel',
  edges: 'edges',
  measure: 'measure',
  cut: 'cut',
  ring: 'ring',
  shim: 'shim',
  keep: 'keep-box',
};
const KIND_ORDER: readonly ReferenceKind[] = ['plumb', 'level', 'return', 'eye'];

/** Everything that is seen and done while one picture is open; made anew for the next one. */
@Component({
  selector: 'ap-picture-bench',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CheckKnot,
    CropKnot,
    EaseKnot,
    ExportKnot,
    Icon,
    LensKnot,
    MatButton,
    MatIconButton,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatTooltip,
    NameMark,
    PieceList,
    PlumbString,
    ReadingsPanel,
    ReferencesKnot,
    RouterLink,
    SheetKnot,
    SideEdge,
    Stage,
    StanceKnot,
    ThemeButton,
    Tip,
  ],
  providers: [HeldKey, PictureSession, StageView, Hand, Magnet, Found, BenchModel, FillPreview, SheetDesk],
  templateUrl: './picture-bench.html',
  styleUrl: './picture-bench.scss',
  host: {
    '(document:keydown)': 'onKeyDown($event)',
    '[style.--side]': "model.settings().sidePut ? '0px' : model.settings().sideWidth + 'px'",
    '(document:keyup)': 'onKeyUp($event)',
    '(window:blur)': 'letGo()',
    '(window:pagehide)': 'model.session.landAll()',
  },
})
export class PictureBench {
  private readonly store = inject(Store);
  protected readonly keeper = inject(JobKeeper);
  private readonly router = inject(Router);
  private readonly dialog = inject(MatDialog);
  private readonly passing = inject(Passing);
  private readonly injector = inject(Injector);
  private readonly keys = inject(KeyTable);
  protected readonly model = inject(BenchModel);
  private readonly desk = inject(SheetDesk);
  private readonly stage = viewChild.required(Stage);
  private readonly exportKnot = viewChild(ExportKnot);
  private readonly side = viewChild.required<ElementRef<HTMLElement>>('side');

  private readonly unsaved = this.store.selectSignal(savingFeature.selectUnsaved);
  protected readonly saveError = this.store.selectSignal(savingFeature.selectSaveError);
  private readonly entities = this.store.selectSignal(selectPictureEntities);

  protected readonly saved = computed(() => (this.saveError() ? 'not saved' : this.unsaved() > 0 ? 'saving …' : 'saved'));
  protected readonly place = computed(() => {
    const job = this.model.session.job();
    const index = job ? job.pictureIds.indexOf(this.model.session.id) : -1;
    return job && index >= 0
      ? { index, of: job.pictureIds.length, previous: job.pictureIds[index - 1], next: job.pictureIds[index + 1] }
      : null;
  });
  protected readonly siblings = computed(() => (this.model.session.job()?.pictureIds ?? []).flatMap((id) => this.entities()[id] ?? []));
  protected readonly pointerText = computed(() => {
    const p = this.model.hand.pointer();
    return p ? `x ${p[0].toFixed(1)}  y ${p[1].toFixed(1)} px of the original` : '';
  });
  protected readonly zoomText = computed(() => {
    const view = this.model.stageView.view();
    return view ? `${(view.scale * 100).toFixed(view.scale < 0.1 ? 1 : 0)} %` : '';
  });

  constructor() {
    effect(() => {
      // a knot opens at its head, wherever the one before was scrolled to
      this.model.knot();
      this.side().nativeElement.scrollTop = 0;
      // a delivery's crop is looked at only at Crop
      if (this.model.knot() !== 'crop') this.model.session.delivery.set(null);
    });
    effect(() => {
      if (this.model.found.wanted() !== null) untracked(() => this.model.found.find());
    });
    void this.model.session.open();
  }

  /** The picture that was asked for last: until it is there, the next one is counted from it. */
  private asked: string | null = null;

  protected go(id: string | undefined): void {
    if (!id) return;
    this.asked = id;
    void this.router.navigate(['/bench', id]).then((there) => {
      // refused, and nothing else was asked for since
      if (!there && this.asked === id) this.asked = null;
    });
  }

  /** One picture on or back, however quickly one is asked for after the other. */
  protected page(by: 1 | -1): void {
    const ids = this.model.session.job()?.pictureIds ?? [];
    this.go(ids[ids.indexOf(this.asked ?? this.model.session.id) + by]);
  }

  protected putSide(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { sidePut: !this.model.settings().sidePut } }));
  }

  protected switchMarks(): void {
    this.store.dispatch(benchActions.marksSwitched());
  }

  protected holdOriginal(held: boolean): void {
    if (this.model.originalHeld() !== held) this.store.dispatch(benchActions.originalHeld({ held }));
  }

  /** Nothing stays held while the window has no keyboard. */
  protected letGo(): void {
    this.holdOriginal(false);
    this.model.magnet.letGo.set(false);
    this.stage().letGo();
  }

  protected help(): void {
    if (this.dialog.openDialogs.length === 0)
      this.dialog.open(HelpSheet, { width: '860px', maxWidth: '94vw', exitAnimationDuration: '0ms' });
  }

  // ---- keys

  protected onKeyUp(event: KeyboardEvent): void {
    for (const row of this.keys.rows().filter((r) => r.held && isKeyOf(r, event)))
      if (row.action === 'original') this.holdOriginal(false);
      else this.model.magnet.letGo.set(false);
  }

  protected onKeyDown(event: KeyboardEvent): void {
    if (this.dialog.openDialogs.length > 0 || event.defaultPrevented) return;
    const target = event.target as HTMLElement;
    const typing = target.matches(TYPED_INTO);
    const row = this.keys.row(event);
    if (!row || document.querySelector('.mat-mdc-menu-panel, .mat-mdc-select-panel')) return;
    if (typing && (row.action === 'finish' || row.action === 'back') && target.matches('aside input')) {
      // the value is taken or left: the stage has the keyboard again, and digits open knots
      this.stage().focus();
      event.preventDefault();
      return;
    }
    if (typing && !WHILE_TYPING.has(row.action)) return;
    // what was typed is taken for this picture, before anything else happens
    if (typing) target.blur();
    const onStage = target === document.body || target.closest('ap-stage') !== null;
    // arrows, Enter and Delete belong to the control that has the focus
    if (!onStage && (row.action === 'nudge' || row.action === 'finish' || (row.action === 'remove' && target.matches('input')))) return;
    if (this.act(row.action, event)) event.preventDefault();
  }

  /** References are opened where they are not. */
  private nextSuggestion(): void {
    // at once where it can: the next key may follow before anything is drawn
    if (this.model.found.nextAsked) return this.model.found.nextAsked();
    this.store.dispatch(benchActions.knotOpened({ knot: 'references' }));
    // once the row is there
    afterNextRender(() => this.model.found.nextAsked?.(), { injector: this.injector });
  }

  /** Does what a key asks for; false when it does not apply now. */
  private act(action: KeyAction, event: KeyboardEvent): boolean {
    const { model } = this;
    const done = model.session.sheet ? actOnSheet(this.desk, model.hand, action) : null;
    if (done !== null) return done;
    switch (action) {
      case 'knot-lens':
      case 'knot-references':
      case 'knot-stance':
      case 'knot-ease':
      case 'knot-crop':
      case 'knot-check':
      case 'knot-export':
        this.store.dispatch(benchActions.knotOpened({ knot: action.slice(5) as Knot }));
        return true;
      case 'compare': {
        if (model.knot() !== 'check') return false;
        model.chooseCompare(COMPARES[(COMPARES.indexOf(model.compareChoice()) + 1) % COMPARES.length] as Compare);
        model.stageView.fit();
        return true;
      }
      case 'pen':
        this.take('pen');
        return true;
      case 'cut':
      case 'join':
        return false;
      case 'panel':
      case 'edges':
      case 'measure':
      case 'trace':
        this.take(action);
        return true;
      case 'ring':
      case 'shim':
        model.hand.held.set(null);
        this.take(action);
        return true;
      case 'nail':
        return nailHeld(model);
      case 'net-finer':
      case 'net-coarser': {
        const shim = model.hand.shim();
        if (shim) model.session.commit((c) => withShimNet(c, shim.id, action === 'net-finer' ? 1 : -1));
        return shim !== null;
      }
      case 'keep-box':
        this.take('keep');
        return true;
      case 'next-handle':
        return nextHandle(model);
      case 'kind': {
        const selected = model.hand.selected();
        if (!selected) return false;
        const kind = KIND_ORDER[(KIND_ORDER.indexOf(selected.kind) + 1) % KIND_ORDER.length] as ReferenceKind;
        model.session.commit((c) => withReference(c, selected.id, { kind, waits: undefined }));
        return true;
      }
      case 'set-aside': {
        const selected = model.hand.selected();
        if (!selected) return false;
        model.session.commit((c) => withReference(c, selected.id, { used: !isCounted(selected), waits: undefined }));
        return true;
      }
      case 'remove': {
        const selected = model.hand.selected();
        const held = model.hand.held();
        if (selected) model.session.setReferences((references) => references.filter((r) => r.id !== selected.id));
        else if (model.hand.selectedEdge()) model.hand.removeEdge(model.hand.selectedId() as string);
        else if (freeHeld(model)) return true;
        else if (model.hand.selectedEase()) model.hand.removeEase(model.hand.selectedId() as string);
        else if (held?.kind === 'corner') model.session.commit((c) => withoutPanel(c, held.id));
        else return false;
        model.hand.select(null);
        return true;
      }
      case 'next-edge':
        return model.magnet.nextEdge();
      case 'suggestion':
        this.nextSuggestion();
        return true;
      case 'let-go':
        model.magnet.letGo.set(true);
        return true;
      case 'marks':
        this.switchMarks();
        return true;
      case 'work-light':
        model.switchWorkLight();
        return true;
      case 'grid':
        model.chooseGrid(GRID_SPACINGS[(GRID_SPACINGS.indexOf(model.grid()) + 1) % GRID_SPACINGS.length] as number);
        return true;
      case 'original':
        if (!event.repeat) this.holdOriginal(true);
        return true;
      case 'tall-wide':
        model.session.commit(turnProportion);
        return true;
      case 'setting-out':
        model.changeSettingOut({ attitude: model.settings().settingOut.attitude + 1 });
        return true;
      case 'quarter-left':
      case 'quarter-right':
        model.stageView.fit();
        model.session.quarterTurn(action === 'quarter-left' ? -1 : 1);
        return true;
      case 'fit':
        model.stageView.fit();
        return true;
      case 'zoom-in':
      case 'zoom-out':
        this.zoom(action === 'zoom-in' ? 1.25 : 0.8);
        return true;
      case 'picture-next':
        this.page(1);
        return true;
      case 'picture-previous':
        this.page(-1);
        return true;
      case 'undo':
        // a line that is still in the hand is the last thing done
        if (!this.stage().back()) model.session.undo();
        return true;
      case 'redo':
        model.session.redo();
        return true;
      case 'finish':
        this.stage().finish();
        return true;
      case 'back':
        if (!this.stage().back()) {
          if (model.hand.held()) model.hand.held.set(null);
          else if (model.hand.selectedId()) model.hand.select(null);
          else if (model.hand.beads().length > 0) model.hand.beads.set(model.hand.beads().slice(0, -1));
          else if (model.hand.corners().length > 0 || model.hand.edges().length > 0) {
            model.hand.corners.set([]);
            model.hand.edges.set([]);
          } else if (model.hand.tool() !== 'none') this.putAway(model.hand.tool());
          else this.exportKnot()?.cancel();
        }
        return true;
      case 'side':
        this.putSide();
        return true;
      case 'help':
        this.help();
        return true;
      case 'nudge':
        return this.nudge(event);
    }
  }

  /** Takes a tool; what is begun with one that is in the hand already stays. */
  private take(tool: Tool): void {
    if (this.model.hand.tool() !== tool) this.model.hand.takeTool(tool);
  }

  private putAway(tool: Tool): void {
    this.model.hand.takeTool('none');
    const action = KEY_OF_TOOL[tool];
    const again = action ? ` ${this.keys.shown(action)} takes it again.` : '';
    this.passing.say(`${TOOL_NAMES[tool]} put away.${again}`);
  }

  private nudge(event: KeyboardEvent): boolean {
    const { model } = this;
    const step = event.altKey ? 0.1 : event.ctrlKey || event.metaKey ? 100 : event.shiftKey ? 10 : 1;
    const way: Readonly<Record<string, Point>> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const by = way[event.key];
    if (!by) return false;
    const shown = model.shown();
    if (model.knot() === 'crop' && model.hand.tool() === 'none' && shown && !model.showsOriginal()) {
      const { crop } = shown.warp;
      model.session.commit((c) => withCropRect(c, { ...crop, x: crop.x + by[0], y: crop.y + by[1] }), `crop ${event.key}`);
      return true;
    }
    const warp = model.stageWarp();
    // a line just drawn with the keyboard's pen is followed by the next; what was taken into the hand goes before the pen
    const penFirst = this.stage().penIsOut() && !model.hand.held();
    if (warp && !model.hand.draft() && !penFirst && nudgeHandle(model, warp, by, event.key)) return true;
    this.stage().moveCursor(by);
    return true;
  }

  protected zoom(factor: number): void {
    const view = this.model.stageView.view();
    if (!view) return;
    this.model.stageView.viewHeld.set(true);
    this.model.stageView.view.set(zoomAt(view, planeToScreen(view, view.centre), factor));
  }
}
