import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, untracked, viewChild } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatTooltip } from '@angular/material/tooltip';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { JobKeeper } from '../keeper/job-keeper';
import { savingFeature } from '../state/saving.reducer';
import { selectPictureEntities } from '../state/selectors';
import { Icon } from '../ui/icon';
import { NameMark } from '../ui/name-mark';
import { BenchKeys } from './bench-keys';
import { HandleKeys } from './handle-keys';
import { Paging } from './paging';
import { BenchSwitches } from './session/bench-switches';
import { BenchToolContext } from './session/bench-tool-context';
import { isKeyOf, type KeyAction } from '../keys/key-rows';
import { KeyTable } from '../keys/key-table';
import { CheckStep } from './steps/check/check-step';
import { CropStep } from './steps/crop/crop-step';
import { EaseStep } from './steps/ease/ease-step';
import { ExportStep } from './steps/export/export-step';
import { LensStep } from './steps/lens/lens-step';
import { ReferencesStep } from './steps/references/references-step';
import { StanceStep } from './steps/stance/stance-step';
import { FillPreview } from './session/fill-preview';
import { Found } from './session/found';
import { Hand } from './session/hand';
import { HeldKey } from './session/held-key';
import { Magnet } from './session/magnet';
import { PictureSession } from './session/picture-session';
import { ShownPicture } from './session/shown-picture';
import { StageView } from './session/stage-view';
import { PieceList } from './sheet/piece-list';
import { SheetDesk } from './sheet/sheet-desk';
import { SheetStep } from './sheet/sheet-step';
import { ReadingsPanel } from './readings/readings-panel';
import { SideEdge } from './side-edge';
import { KeyboardPen } from './stage/keyboard-pen';
import { Stage } from './stage/stage';
import { StageGestures } from './stage/stage-gestures';
import { StepString } from './step-string/step-string';
import { ToolBox } from './tool-box';
import { TOOL_CONTEXT } from './tools/tool-context';
import { Tip } from '../keys/tip';
import { ThemeButton } from '../theme-button';

/** What takes letters and digits for itself. */
const TYPED_INTO = 'input:not([type=checkbox]):not([type=range]), textarea, mat-select';
const WHILE_TYPING: ReadonlySet<KeyAction> = new Set(['undo', 'redo', 'picture-next', 'picture-previous']);

/** Everything that is seen and done while one picture is open; made anew for the next one. */
@Component({
  selector: 'ap-picture-bench',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CheckStep,
    CropStep,
    EaseStep,
    ExportStep,
    Icon,
    LensStep,
    MatButton,
    MatIconButton,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatTooltip,
    NameMark,
    PieceList,
    StepString,
    ReadingsPanel,
    ReferencesStep,
    RouterLink,
    SheetStep,
    SideEdge,
    Stage,
    StanceStep,
    ThemeButton,
    Tip,
  ],
  providers: [
    HeldKey,
    PictureSession,
    BenchSwitches,
    StageView,
    Hand,
    Magnet,
    Found,
    ShownPicture,
    FillPreview,
    BenchToolContext,
    { provide: TOOL_CONTEXT, useExisting: BenchToolContext },
    ToolBox,
    StageGestures,
    KeyboardPen,
    HandleKeys,
    Paging,
    BenchKeys,
    SheetDesk,
  ],
  templateUrl: './picture-bench.html',
  styleUrl: './picture-bench.scss',
  host: {
    '(document:keydown)': 'onKeyDown($event)',
    '[style.--side]': "switches.settings().sidePut ? '0px' : switches.settings().sideWidth + 'px'",
    '(document:keyup)': 'onKeyUp($event)',
    '(window:blur)': 'letGo()',
    '(window:pagehide)': 'session.landAll()',
  },
})
export class PictureBench {
  private readonly store = inject(Store);
  protected readonly keeper = inject(JobKeeper);
  private readonly dialog = inject(MatDialog);
  private readonly table = inject(KeyTable);
  protected readonly session = inject(PictureSession);
  protected readonly switches = inject(BenchSwitches);
  protected readonly hand = inject(Hand);
  private readonly magnet = inject(Magnet);
  protected readonly stageView = inject(StageView);
  private readonly found = inject(Found);
  protected readonly paging = inject(Paging);
  protected readonly keys = inject(BenchKeys);
  private readonly stage = viewChild.required(Stage);
  private readonly exportStep = viewChild(ExportStep);
  private readonly side = viewChild.required<ElementRef<HTMLElement>>('side');

  private readonly unsaved = this.store.selectSignal(savingFeature.selectUnsaved);
  protected readonly saveError = this.store.selectSignal(savingFeature.selectSaveError);
  private readonly entities = this.store.selectSignal(selectPictureEntities);

  protected readonly saved = computed(() => (this.saveError() ? 'not saved' : this.unsaved() > 0 ? 'saving …' : 'saved'));
  protected readonly siblings = computed(() => (this.session.job()?.pictureIds ?? []).flatMap((id) => this.entities()[id] ?? []));
  protected readonly pointerText = computed(() => {
    const p = this.hand.pointer();
    return p ? `x ${p[0].toFixed(1)}  y ${p[1].toFixed(1)} px of the original` : '';
  });
  protected readonly zoomText = computed(() => {
    const view = this.stageView.view();
    return view ? `${(view.scale * 100).toFixed(view.scale < 0.1 ? 1 : 0)} %` : '';
  });

  constructor() {
    effect(() => {
      // a step opens at its head, wherever the one before was scrolled to
      this.switches.step();
      this.side().nativeElement.scrollTop = 0;
      // a delivery's crop is looked at only at Crop
      if (this.switches.step() !== 'crop') this.session.delivery.set(null);
    });
    effect(() => {
      if (this.found.wanted() !== null) untracked(() => this.found.find());
    });
    this.keys.lastBack = () => this.exportStep()?.cancel();
    void this.session.open();
  }

  /** Nothing stays held while the window has no keyboard. */
  protected letGo(): void {
    this.switches.holdOriginal(false);
    this.magnet.letGo.set(false);
    this.stage().letGo();
  }

  // ---- keys

  protected onKeyUp(event: KeyboardEvent): void {
    for (const row of this.table.rows().filter((r) => r.held && isKeyOf(r, event)))
      if (row.action === 'original') this.switches.holdOriginal(false);
      else this.magnet.letGo.set(false);
  }

  protected onKeyDown(event: KeyboardEvent): void {
    if (this.dialog.openDialogs.length > 0 || event.defaultPrevented) return;
    const target = event.target as HTMLElement;
    const typing = target.matches(TYPED_INTO);
    const row = this.table.row(event);
    if (!row || document.querySelector('.mat-mdc-menu-panel, .mat-mdc-select-panel')) return;
    if (typing && (row.action === 'finish' || row.action === 'back') && target.matches('aside input')) {
      // the value is taken or left: the stage has the keyboard again, and digits open steps
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
    if (this.keys.act(row.action, event)) event.preventDefault();
  }
}
