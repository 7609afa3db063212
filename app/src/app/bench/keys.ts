/** What a key asks for. */
export type KeyAction =
  | 'knot-lens'
  | 'knot-references'
  | 'knot-stance'
  | 'knot-ease'
  | 'knot-crop'
  | 'knot-check'
  | 'knot-export'
  | 'pen'
  | 'panel'
  | 'edges'
  | 'measure'
  | 'trace'
  | 'ring'
  | 'keep-box'
  | 'next-handle'
  | 'kind'
  | 'set-aside'
  | 'compare'
  | 'marks'
  | 'work-light'
  | 'grid'
  | 'original'
  | 'tall-wide'
  | 'setting-out'
  | 'quarter-left'
  | 'quarter-right'
  | 'fit'
  | 'zoom-in'
  | 'zoom-out'
  | 'picture-next'
  | 'picture-previous'
  | 'undo'
  | 'redo'
  | 'remove'
  | 'finish'
  | 'back'
  | 'help'
  | 'nudge'
  | 'next-edge'
  | 'let-go';

/** A key with what it does; the handlers and the help sheet are both made from this table. */
export interface KeyRow {
  readonly action: KeyAction;
  /** `KeyboardEvent.key` values that ask for it. */
  readonly keys: readonly string[];
  readonly shown: string;
  readonly does: string;
  readonly ctrl?: boolean;
  readonly shift?: boolean;
}

export const KEYS: readonly KeyRow[] = [
  { action: 'knot-lens', keys: ['1'], shown: '1', does: 'Lens' },
  { action: 'knot-references', keys: ['2'], shown: '2', does: 'References' },
  { action: 'knot-stance', keys: ['3'], shown: '3', does: 'Stance' },
  { action: 'knot-ease', keys: ['4'], shown: '4', does: 'Ease' },
  { action: 'knot-crop', keys: ['5'], shown: '5', does: 'Crop' },
  { action: 'knot-check', keys: ['6'], shown: '6', does: 'Check' },
  { action: 'knot-export', keys: ['7'], shown: '7', does: 'Export' },
  { action: 'pen', keys: ['p', 'P'], shown: 'P', does: 'Pen: draw a reference line' },
  { action: 'panel', keys: ['q', 'Q'], shown: 'Q', does: 'Panel: mark the corners of a rectangle' },
  { action: 'edges', keys: ['r', 'R'], shown: 'R', does: 'Panel by a line along each of its four sides' },
  { action: 'measure', keys: ['l', 'L'], shown: 'L', does: 'Measure a length on the plane of a panel of known size' },
  { action: 'trace', keys: ['t', 'T'], shown: 'T', does: 'Trace an edge that is straight in reality, for the lens' },
  { action: 'ring', keys: ['f', 'F'], shown: 'F', does: 'Shape ring: drag one over a head or a round thing (a figure)' },
  { action: 'keep-box', keys: ['h', 'H'], shown: 'H', does: 'Keep box: drag one over what no crop may cut' },
  { action: 'next-handle', keys: ['e', 'E'], shown: 'E', does: 'Arrows move the next end or corner of what is selected' },
  { action: 'kind', keys: ['k', 'K'], shown: 'K', does: 'Change the kind of the selected line' },
  { action: 'set-aside', keys: ['s', 'S'], shown: 'S', does: 'Set the selected line aside, or take it back in' },
  { action: 'next-edge', keys: ['d', 'D'], shown: 'D', does: 'Next of several edges for the selected line' },
  { action: 'let-go', keys: ['n', 'N'], shown: 'N (held)', does: 'Let go of the magnet' },
  { action: 'marks', keys: ['m', 'M'], shown: 'M', does: 'Marks on or off' },
  { action: 'work-light', keys: ['w', 'W'], shown: 'W', does: 'Work light: see edges in shadows and highlights; the view only' },
  { action: 'grid', keys: ['g', 'G'], shown: 'G', does: 'Grid: coarser, finer, none' },
  { action: 'original', keys: ['b', 'B'], shown: 'B (held)', does: 'The original' },
  { action: 'compare', keys: ['c', 'C'], shown: 'C', does: 'At Check: wipe, side by side, result' },
  { action: 'tall-wide', keys: ['i', 'I'], shown: 'I', does: 'Crop proportions tall or wide' },
  { action: 'setting-out', keys: ['o', 'O'], shown: 'O', does: 'Turn the setting-out lines over the crop' },
  { action: 'quarter-left', keys: [','], shown: ',', does: 'Quarter turn anticlockwise' },
  { action: 'quarter-right', keys: ['.'], shown: '.', does: 'Quarter turn clockwise' },
  { action: 'fit', keys: ['0'], shown: '0', does: 'Fit the picture to the stage' },
  { action: 'zoom-in', keys: ['+', '='], shown: '+', does: 'Zoom in' },
  { action: 'zoom-out', keys: ['-'], shown: '-', does: 'Zoom out' },
  { action: 'picture-previous', keys: ['PageUp'], shown: 'Page up', does: 'Previous picture' },
  { action: 'picture-next', keys: ['PageDown'], shown: 'Page down', does: 'Next picture' },
  {
    action: 'nudge',
    keys: ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'],
    shown: 'Arrows',
    does: 'Nudge 1 px; with Shift 10, with Alt 0.1, with Ctrl 100',
  },
  { action: 'finish', keys: ['Enter'], shown: 'Enter', does: 'Place an end; finish' },
  { action: 'back', keys: ['Escape'], shown: 'Escape', does: 'One step back: the drag, the tool, the selection' },
  { action: 'remove', keys: ['Delete', 'Backspace'], shown: 'Delete', does: 'Remove what is selected' },
  { action: 'redo', keys: ['z', 'Z'], shown: 'Ctrl+Shift+Z', does: 'Redo', ctrl: true, shift: true },
  { action: 'undo', keys: ['z', 'Z'], shown: 'Ctrl+Z', does: 'Undo', ctrl: true },
  { action: 'help', keys: ['?'], shown: '?', does: 'This list' },
];

/** The row that a key press asks for; null for none. */
export function keyRow(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'shiftKey'>): KeyRow | null {
  const ctrl = event.ctrlKey || event.metaKey;
  return (
    KEYS.find((row) => {
      if (!row.keys.includes(event.key)) return false;
      if (row.action === 'nudge') return true;
      return (row.ctrl ?? false) === ctrl && (row.shift === undefined || row.shift === event.shiftKey);
    }) ?? null
  );
}

/** The key shown for an action, for tooltips. */
export const keyFor = (action: KeyAction): string => KEYS.find((row) => row.action === action)?.shown ?? '';
