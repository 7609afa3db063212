import { matchKeyBindingPress, parseKeybinding, type KeyBindingPress } from 'tinykeys';
import * as z from 'zod';

/** What a key asks for; the tools of the bench add theirs (`bench/tools`). */
export type KeyAction = string;

/** A key with what it does; the handlers, the tooltips and the help sheet are all made from this table. */
export interface KeyRow {
  readonly action: KeyAction;
  /** Presses that ask for it: modifiers and `KeyboardEvent.key`, joined by plus. */
  readonly keys: readonly string[];
  readonly does: string;
  /** It lasts while the key is held. */
  readonly held?: boolean;
  /** What belongs to the keyboard everywhere and cannot be changed. */
  readonly fixed?: boolean;
  /** What it is called, where that is not its first press. */
  readonly named?: string;
}

/** Own keys: the press that asks for an action instead of the first ones. */
export type OwnKeys = Readonly<Record<KeyAction, string>>;

/** Keys of the steps, in their order. */
const STEP_KEYS = [
  { action: 'step-lens', keys: ['1'], does: 'Lens' },
  { action: 'step-references', keys: ['2'], does: 'References' },
  { action: 'step-stance', keys: ['3'], does: 'Stance' },
  { action: 'step-ease', keys: ['4'], does: 'Ease' },
  { action: 'step-crop', keys: ['5'], does: 'Crop' },
  { action: 'step-check', keys: ['6'], does: 'Check' },
  { action: 'step-export', keys: ['7'], does: 'Export' },
] as const satisfies readonly KeyRow[];

/** Keys of the bench that belong to no tool. */
const BENCH_KEYS = [
  { action: 'join', keys: ['u'], does: 'On a sheet: join the two pieces that are ticked' },
  { action: 'next-handle', keys: ['e'], does: 'Arrows move the next end or corner of what is selected' },
  {
    action: 'suggestion',
    keys: ['j'],
    does: 'Next suggestion of the picture’s own; Enter takes it, Delete refuses. On a sheet: next piece',
  },
  { action: 'let-go', keys: ['n'], does: 'Let go of the magnet', held: true },
  { action: 'marks', keys: ['m'], does: 'Marks on or off' },
  { action: 'work-light', keys: ['w'], does: 'Work light: see edges in shadows and highlights; the view only' },
  { action: 'grid', keys: ['g'], does: 'Grid: coarser, finer, none' },
  { action: 'original', keys: ['b'], does: 'The original', held: true },
  { action: 'compare', keys: ['c'], does: 'At Check: wipe, side by side, result' },
  { action: 'setting-out', keys: ['y'], does: 'Turn the setting-out lines over the crop' },
  { action: 'quarter-left', keys: [','], does: 'Quarter turn anticlockwise' },
  { action: 'quarter-right', keys: ['.'], does: 'Quarter turn clockwise' },
  { action: 'side', keys: ['x'], does: 'Put the side away, or bring it back' },
  { action: 'fit', keys: ['0'], does: 'Fit the picture to the stage' },
  { action: 'zoom-in', keys: ['+', 'Shift++', '='], does: 'Zoom in' },
  { action: 'zoom-out', keys: ['-'], does: 'Zoom out' },
  { action: 'picture-previous', keys: ['PageUp'], does: 'Previous picture' },
  { action: 'picture-next', keys: ['PageDown'], does: 'Next picture' },
  { action: 'nudge', keys: [], does: 'Nudge 1 px; with Shift 10, with Alt 0.1, with Ctrl 100', fixed: true, named: 'Arrows' },
  { action: 'finish', keys: ['Enter'], does: 'Place an end; finish', fixed: true },
  { action: 'back', keys: ['Escape'], does: 'One step back: the drag, the tool, the selection', fixed: true },
  { action: 'remove', keys: ['Delete', 'Backspace'], does: 'Remove what is selected' },
  { action: 'redo', keys: ['$mod+Shift+z'], does: 'Redo' },
  { action: 'undo', keys: ['$mod+z'], does: 'Undo' },
  { action: 'help', keys: ['?', 'Shift+?'], does: 'This list' },
] as const satisfies readonly KeyRow[];

export type StepKey = (typeof STEP_KEYS)[number]['action'];
export type BenchKey = (typeof BENCH_KEYS)[number]['action'];

/** The whole table: steps, the tools' own rows, and the rest. */
export const keyRows = (tools: readonly KeyRow[]): readonly KeyRow[] => [...STEP_KEYS, ...tools, ...BENCH_KEYS];

/** Own keys as they are called today: steps had another name before. */
export const currentOwnKeys = (own: OwnKeys): OwnKeys =>
  Object.fromEntries(Object.entries(own).map(([action, key]) => [action.replace(/^knot-/, 'step-'), key]));

const ARROWS: ReadonlySet<string> = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown']);
/** Keys that move about in every page, and presses that belong to the browser. */
const NOT_TO_BE_TAKEN: ReadonlySet<string> = new Set([
  ...ARROWS,
  ...['Tab', 'Shift+Tab', 'Enter', 'Escape', ' ', '$mod+w', '$mod+t', '$mod+n', '$mod+Shift+n', '$mod+Shift+t', '$mod+q', 'F5', 'F11'],
]);
const MODIFIERS: ReadonlySet<string> = new Set(['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'CapsLock', 'Dead', 'Process']);

/** The table with own keys in place of the first ones. */
export const withOwnKeys = (rows: readonly KeyRow[], own: OwnKeys): readonly KeyRow[] =>
  rows.map((row) => {
    const key = own[row.action];
    return key === undefined || row.fixed ? row : { ...row, keys: [key] };
  });

const presses = new Map<string, KeyBindingPress>();
function pressOf(key: string): KeyBindingPress {
  const known = presses.get(key) ?? (parseKeybinding(key)[0] as KeyBindingPress);
  presses.set(key, known);
  return known;
}

/** The row that a key press asks for; null for none. */
export function keyRow(rows: readonly KeyRow[], event: KeyboardEvent): KeyRow | null {
  return (
    rows.find((row) =>
      // whatever is held with an arrow says how far
      row.action === 'nudge' ? ARROWS.has(event.key) : row.keys.some((key) => matchKeyBindingPress(event, pressOf(key))),
    ) ?? null
  );
}

/** Whether a key let go is the one of a row, whatever else is held. */
export const isKeyOf = (row: KeyRow, event: KeyboardEvent): boolean =>
  row.keys.some((key) => String(pressOf(key)[1]).toLowerCase() === event.key.toLowerCase());

/** A press as the table writes it; null for a modifier alone. */
export function pressed(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string | null {
  if (MODIFIERS.has(event.key)) return null;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  return [event.ctrlKey || event.metaKey ? '$mod+' : '', event.altKey ? 'Alt+' : '', event.shiftKey ? 'Shift+' : '', key].join('');
}

/** Why a press cannot ask for an action, in words; null where it can. */
export function whyNot(rows: readonly KeyRow[], action: KeyAction, key: string): string | null {
  if (NOT_TO_BE_TAKEN.has(key)) return `${shownPress(key)} belongs to the page or the browser. Press another key.`;
  const other = rows.find((row) => row.action !== action && row.keys.some((taken) => taken.toLowerCase() === key.toLowerCase()));
  return other ? `${shownPress(key)} already asks for “${other.does}”. Press another key, or change that one first.` : null;
}

const NAMES: Readonly<Record<string, string>> = { PageUp: 'Page up', PageDown: 'Page down', ' ': 'Space', $mod: 'Ctrl' };

/** A press as people read it. */
export function shownPress(key: string): string {
  const [modifiers, last] = pressOf(key);
  const name = NAMES[String(last)] ?? (String(last).length === 1 ? String(last).toUpperCase() : String(last));
  const symbol = String(last).length === 1 && !/[a-z0-9]/i.test(String(last));
  const named = modifiers.map((m) => (m === 'Control' || m === 'Meta' ? 'Ctrl' : m)).filter((m) => !(symbol && m === 'Shift'));
  return [...named, name].join('+');
}

/** What a row's key is called. */
export const shownKey = (row: KeyRow): string => row.named ?? `${shownPress(row.keys[0] as string)}${row.held ? ' (held)' : ''}`;

const FILE = z.object({
  format: z.literal('able-plumb-keys'),
  version: z.literal(1),
  keys: z.record(z.string(), z.string().min(1).max(40)),
});

/** Own keys as the text of a file. */
export const keysFile = (own: OwnKeys): string => `${JSON.stringify({ format: 'able-plumb-keys', version: 1, keys: own }, null, 2)}\n`;

/** Own keys out of a file's text. Throws a sentence where it is none, or where two actions would share a key. */
export function readKeysFile(rows: readonly KeyRow[], text: string): OwnKeys {
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    raw = null;
  }
  const read = FILE.safeParse(raw);
  if (!read.success) throw new Error('This is not a list of keys that was saved here. Your keys stay as they are.');
  const own: Record<KeyAction, string> = {};
  for (const [action, key] of Object.entries(currentOwnKeys(read.data.keys))) {
    const row = rows.find((r) => r.action === action && !r.fixed);
    if (row) own[row.action] = key;
  }
  const changed = withOwnKeys(rows, own);
  for (const [action, key] of Object.entries(own)) {
    const trouble = whyNot(changed, action, key);
    if (trouble) throw new Error(`Two keys of this list are in each other’s way: ${trouble} Your keys stay as they are.`);
  }
  return own;
}
