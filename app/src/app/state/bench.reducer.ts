import { createFeature, createReducer, on } from '@ngrx/store';
import { benchActions } from './bench.actions';
import { KNOT_OF_TOOL, type Compare, type Knot, type Tool } from './model';

interface BenchState {
  readonly pictureId: string | null;
  /** Whether it is worked on as a sheet of prints. */
  readonly sheet: boolean;
  readonly knot: Knot;
  readonly tool: Tool;
  readonly marks: boolean;
  readonly workLight: boolean;
  /** Spacing of the grid in percent of the crop's width; 0 for none. */
  readonly grid: number;
  readonly compare: Compare;
  readonly originalHeld: boolean;
  readonly drawingOn: 'result' | 'original';
  readonly selectedReference: string | null;
}

const initial: BenchState = {
  pictureId: null,
  sheet: false,
  knot: 'references',
  tool: 'pen',
  marks: true,
  workLight: false,
  grid: 0,
  compare: 'wipe',
  originalHeld: false,
  drawingOn: 'result',
  selectedReference: null,
};

/** A picture opens at References with the pen armed. */
export const benchFeature = createFeature({
  name: 'bench',
  reducer: createReducer(
    initial,
    on(benchActions.pictureOpened, (state, { pictureId, sheet }) => ({
      ...initial,
      marks: state.marks,
      grid: state.grid,
      compare: state.compare,
      pictureId,
      sheet,
      tool: sheet ? ('none' as const) : initial.tool,
    })),
    on(benchActions.knotOpened, (state, { knot }) => ({
      ...state,
      knot,
      tool: knot === 'references' ? ('pen' as const) : ('none' as const),
    })),
    on(benchActions.toolTaken, (state, { tool }) => ({
      ...state,
      tool,
      ...(tool === 'none' ? {} : { knot: KNOT_OF_TOOL[tool] }),
    })),
    on(benchActions.marksSwitched, (state) => ({ ...state, marks: !state.marks })),
    on(benchActions.workLightSwitched, (state) => ({ ...state, workLight: !state.workLight })),
    on(benchActions.gridChosen, (state, { percent }) => ({ ...state, grid: percent })),
    on(benchActions.compared, (state, { compare }) => ({ ...state, compare })),
    on(benchActions.originalHeld, (state, { held }) => ({ ...state, originalHeld: held })),
    on(benchActions.drawingOn, (state, { on: where }) => ({ ...state, drawingOn: where })),
    on(benchActions.referenceSelected, (state, { id }) => ({ ...state, selectedReference: id })),
  ),
});
