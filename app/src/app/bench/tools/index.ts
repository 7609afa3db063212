import type { KeyRow } from '../../keys/key-rows';
import type { Step, ToolId } from '../../state/model';
import { cornerPull } from './corner-pull/corner-pull';
import { crop } from './crop/crop';
import { cut } from './cut/cut';
import { edgeEase } from './edge-ease/edge-ease';
import { fillNot, fillOnly } from './fill-source/fill-source';
import { goStraightOn } from './go-straight-on/go-straight-on';
import { guide } from './guide/guide';
import { keepBox } from './keep-box/keep-box';
import { length } from './length/length';
import { line } from './line/line';
import { margin } from './margin/margin';
import { panel } from './panel/panel';
import { ring } from './ring/ring';
import { shim } from './shim/shim';
import { shimLine } from './shim-line/shim-line';
import { shimTrace } from './shim-trace/shim-trace';
import { sides } from './sides/sides';
import type { ToolAction, ToolDefinition } from './tool';
import { trace } from './trace/trace';
import { turn } from './turn/turn';
import { wipe } from './wipe/wipe';

/**
 * Every tool, and everything on the stage that can be taken hold of without one. The order is that in which the stage draws their marks,
 * the first lowest, and in which their lines and areas are asked for what lies under the pointer.
 */
export const TOOLS: readonly ToolDefinition[] = [
  wipe,
  turn,
  crop,
  keepBox,
  fillNot,
  fillOnly,
  goStraightOn,
  ring,
  edgeEase,
  shim,
  shimLine,
  shimTrace,
  panel,
  sides,
  guide,
  trace,
  line,
  length,
  margin,
  cut,
  cornerPull,
];

const BY_ID: ReadonlyMap<ToolId, ToolDefinition> = new Map(TOOLS.map((tool) => [tool.id, tool]));

/** A tool by its id; null for nothing in the hand. */
export const toolOf = (id: ToolId | null): ToolDefinition | null => (id === null ? null : (BY_ID.get(id) ?? null));

/** The tool that is in the hand when a step opens; null for none. */
export const armedAt = (step: Step): ToolId | null => TOOLS.find((tool) => tool.armed && tool.step === step)?.id ?? null;

const STEP_ORDER: readonly Step[] = ['lens', 'references', 'stance', 'ease', 'crop', 'check', 'export'];

/** In the order of keys and buttons: by their steps, and first the one that is in the hand when its step opens. */
const IN_HAND_ORDER: readonly ToolDefinition[] = TOOLS.toSorted(
  (p, q) => STEP_ORDER.indexOf(p.step) - STEP_ORDER.indexOf(q.step) || Number(q.armed ?? false) - Number(p.armed ?? false),
);

/** The tools of a step that have a button with an icon, in order. */
export const buttonsOf = (step: Step): readonly ToolDefinition[] => IN_HAND_ORDER.filter((tool) => tool.step === step && tool.icon);

/** A key that asks for something of a tool. */
export interface ToolKey extends KeyRow {
  readonly tool: ToolDefinition;
  /** What the tool does by this key; null where it is taken into the hand. */
  readonly run: ToolAction['run'] | null;
}

/** The keys of all tools: those that take them, each followed by what they do. */
export const TOOL_KEYS: readonly ToolKey[] = IN_HAND_ORDER.flatMap((tool) => [
  ...(tool.key ? [{ ...tool.key, tool, run: null }] : []),
  ...(tool.actions ?? []).map((action) => ({ ...action, tool })),
]);
