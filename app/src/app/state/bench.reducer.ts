import { createFeature, createReducer, on } from '@ngrx/store';
import { benchActions } from './bench.actions';
import type { Compare, Step, ToolId } from './model';

interface BenchState {
  readonly pictureId: string | null;
  /** Whether it is worked on as a sheet of prints. */
  readonly sheet: boolean;
  readonly step: Step;
  readonly tool: ToolId | null;
  readonly marks: boolean;
  readonly workLight: boolean;
  /** Spacing of the grid in percent of the crop's width; 0 for none. */
  readonly grid: number;
  readonly compare: Compare;
  readonly originalHeld: boolean;
  readonly drawingOn: 'result' | 'original';
  readonly selected: string | null;
}

const initial: BenchState = {
  pictureId: null,
  sheet: false,
  step: 'references',
  tool: null,
  marks: true,
  workLight: false,
  grid: 0,
  compare: 'wipe',
  originalHeld: false,
  drawingOn: 'result',
  selected: null,
};

/** A picture opens at References. */
export const benchFeature = createFeature({
  name: 'bench',
  reducer: createReducer(
    initial,
    on(benchActions.pictureOpened, (state, { pictureId, sheet, tool }) => ({
      ...initial,
      marks: state.marks,
      grid: state.grid,
      compare: state.compare,
      pictureId,
      sheet,
      tool,
    })),
    on(benchActions.stepOpened, (state, { step, tool }) => ({ ...state, step, tool })),
    on(benchActions.toolTaken, (state, { tool, step }) => ({ ...state, tool, step })),
    on(benchActions.toolLaidDown, (state) => ({ ...state, tool: null })),
    on(benchActions.marksSwitched, (state) => ({ ...state, marks: !state.marks })),
    on(benchActions.workLightSwitched, (state) => ({ ...state, workLight: !state.workLight })),
    on(benchActions.gridChosen, (state, { percent }) => ({ ...state, grid: percent })),
    on(benchActions.compared, (state, { compare }) => ({ ...state, compare })),
    on(benchActions.originalHeld, (state, { held }) => ({ ...state, originalHeld: held })),
    on(benchActions.drawingOn, (state, { on: where }) => ({ ...state, drawingOn: where })),
    on(benchActions.selected, (state, { id }) => ({ ...state, selected: id })),
  ),
});
