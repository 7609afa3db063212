import { afterNextRender, inject, Injectable, Injector } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { planeToScreen, zoomAt, type Point } from '@able-plumb/core';
import { KeysDialog } from '../keys/keys-dialog';
import { KeyTable } from '../keys/key-table';
import type { BenchKey, KeyAction, StepKey } from '../keys/key-rows';
import type { Compare, Step } from '../state/model';
import { Passing } from '../ui/passing';
import { HandleKeys } from './handle-keys';
import { Paging } from './paging';
import { BenchSwitches } from './session/bench-switches';
import { Found } from './session/found';
import { Hand } from './session/hand';
import { Magnet } from './session/magnet';
import { PictureSession } from './session/picture-session';
import { StageView } from './session/stage-view';
import { actOnSheet } from './sheet/sheet-keys';
import { SheetDesk } from './sheet/sheet-desk';
import { KeyboardPen } from './stage/keyboard-pen';
import { GRID_SPACINGS } from './stage/view-strip';
import { ToolBox } from './tool-box';
import { TOOL_KEYS, toolOf, type ToolKey } from './tools';
import { TOOL_CONTEXT } from './tools/tool-context';

const COMPARES: readonly Compare[] = ['wipe', 'side', 'result'];
const STEP_OF_KEY: Readonly<Record<StepKey, Step>> = {
  'step-lens': 'lens',
  'step-references': 'references',
  'step-stance': 'stance',
  'step-ease': 'ease',
  'step-crop': 'crop',
  'step-check': 'check',
  'step-export': 'export',
};

/** The one after `now`, and round again. */
const following = <T>(all: readonly T[], now: T): T => all[(all.indexOf(now) + 1) % all.length] as T;

/** Does what the keys of the bench ask for: those of the tools by their records, the others by the table below. */
@Injectable()
export class BenchKeys {
  private readonly session = inject(PictureSession);
  private readonly switches = inject(BenchSwitches);
  private readonly stageView = inject(StageView);
  private readonly hand = inject(Hand);
  private readonly magnet = inject(Magnet);
  private readonly found = inject(Found);
  private readonly desk = inject(SheetDesk);
  private readonly box = inject(ToolBox);
  private readonly pen = inject(KeyboardPen);
  private readonly handles = inject(HandleKeys);
  private readonly paging = inject(Paging);
  private readonly context = inject(TOOL_CONTEXT);
  private readonly dialog = inject(MatDialog);
  private readonly passing = inject(Passing);
  private readonly injector = inject(Injector);
  private readonly table = inject(KeyTable);

  /** What Escape does when nothing else is left to take back. */
  lastBack: () => void = () => undefined;

  constructor() {
    this.table.learn(TOOL_KEYS);
  }

  /** Does what a key asks for; false when it does not apply now. */
  act(action: KeyAction, event: KeyboardEvent): boolean {
    const done = this.session.sheet ? actOnSheet(this.desk, action) : null;
    if (done !== null) return done;
    const ofTool = TOOL_KEYS.find((key) => key.action === action);
    if (ofTool) return this.actOnTool(ofTool);
    const step = STEP_OF_KEY[action as StepKey];
    if (step) {
      if (!this.session.sheet) this.box.openStep(step);
      return !this.session.sheet;
    }
    const act = this.acts[action as BenchKey];
    return act ? act(event) : false;
  }

  private actOnTool({ tool, run }: ToolKey): boolean {
    if (this.session.sheet ? tool.onSheet === undefined : tool.onSheet === 'only') return false;
    if (run) return run(this.context);
    // the arrow keys are for the pen that draws it, not for what was held of another
    if (tool.selectsHeld) this.hand.hold(null);
    // what is begun with one that is in the hand already stays
    if (this.hand.tool() !== tool.id) this.box.take(tool.id);
    return true;
  }

  zoom(factor: number): void {
    const view = this.stageView.view();
    if (view) this.stageView.look(zoomAt(view, planeToScreen(view, view.centre), factor));
  }

  help(): void {
    if (this.dialog.openDialogs.length === 0)
      this.dialog.open(KeysDialog, { width: '860px', maxWidth: '94vw', exitAnimationDuration: '0ms' });
  }

  private readonly acts: Readonly<Record<BenchKey, (event: KeyboardEvent) => boolean>> = {
    // on sheets only
    join: () => false,
    'next-handle': () => this.handles.next(),
    suggestion: did(() => this.nextSuggestion()),
    'let-go': did(() => this.magnet.letGo.set(true)),
    marks: did(() => this.switches.switchMarks()),
    'work-light': did(() => this.switches.switchWorkLight()),
    grid: did(() => this.switches.chooseGrid(following(GRID_SPACINGS, this.switches.grid()))),
    original: did((event) => {
      if (!event.repeat) this.switches.holdOriginal(true);
    }),
    compare: () => {
      if (this.switches.step() !== 'check') return false;
      this.switches.chooseCompare(following(COMPARES, this.switches.compareChoice()));
      this.stageView.fit();
      return true;
    },
    'setting-out': did(() => this.switches.changeSettingOut({ attitude: this.switches.settings().settingOut.attitude + 1 })),
    'quarter-left': did(() => this.quarterTurn(-1)),
    'quarter-right': did(() => this.quarterTurn(1)),
    side: did(() => this.switches.putSide()),
    fit: did(() => this.stageView.fit()),
    'zoom-in': did(() => this.zoom(1.25)),
    'zoom-out': did(() => this.zoom(0.8)),
    'picture-previous': did(() => this.paging.page(-1)),
    'picture-next': did(() => this.paging.page(1)),
    nudge: (event) => this.nudge(event),
    finish: did(() => this.pen.finish()),
    back: did(() => this.back()),
    remove: () => this.handles.remove(),
    redo: did(() => this.session.redo()),
    undo: did(() => {
      // a line that is still in the hand is the last thing done
      if (!this.pen.back()) this.session.undo();
    }),
    help: did(() => this.help()),
  };

  private quarterTurn(by: 1 | -1): void {
    this.stageView.fit();
    this.session.quarterTurn(by);
  }

  /** References are opened where they are not. */
  private nextSuggestion(): void {
    // at once where it can: the next key may follow before anything is drawn
    if (this.found.nextAsked) return this.found.nextAsked();
    this.box.openStep('references');
    // once the row is there
    afterNextRender(() => this.found.nextAsked?.(), { injector: this.injector });
  }

  /** One step back: the drag, what is held, what is selected, what was drawn of several, the tool. */
  private back(): void {
    if (this.pen.back()) return;
    const tool = toolOf(this.hand.tool());
    if (this.hand.held()) this.hand.hold(null);
    else if (this.hand.id()) this.hand.select(null);
    else if (tool?.back?.(this.context)) return;
    else if (tool) {
      this.hand.layDown();
      const again = tool.key ? ` ${this.table.shown(tool.key.action)} takes it again.` : '';
      this.passing.say(`${tool.name} put away.${again}`);
    } else this.lastBack();
  }

  private nudge(event: KeyboardEvent): boolean {
    const px = event.altKey ? 0.1 : event.ctrlKey || event.metaKey ? 100 : event.shiftKey ? 10 : 1;
    const ways: Readonly<Record<string, Point>> = { ArrowLeft: [-px, 0], ArrowRight: [px, 0], ArrowUp: [0, -px], ArrowDown: [0, px] };
    const by = ways[event.key];
    if (!by) return false;
    if (!this.handles.nudge(by, event.key)) this.pen.move(by);
    return true;
  }
}

/** An action that always applies. */
function did(act: (event: KeyboardEvent) => void): (event: KeyboardEvent) => boolean {
  return (event) => {
    act(event);
    return true;
  };
}
