import '@angular/compiler';
import { describe, expect, it } from 'vitest';
import { TOOL_KEYS } from '../bench/tools';
import { currentOwnKeys, isKeyOf, keyRow, keyRows, keysFile, pressed, readKeysFile, shownKey, whyNot, withOwnKeys } from './key-rows';

const KEYS = keyRows(TOOL_KEYS);
const read = (text: string) => readKeysFile(KEYS, text);
const NONE = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false };
/** A press as the browser tells it. */
function press(key: string, held: Partial<typeof NONE> = {}): KeyboardEvent {
  const event = { key, code: '', ...NONE, ...held };
  const on: Readonly<Record<string, boolean>> = { Control: event.ctrlKey, Meta: event.metaKey, Alt: event.altKey, Shift: event.shiftKey };
  return { ...event, getModifierState: (name: string) => on[name] ?? false } as unknown as KeyboardEvent;
}

describe('keys', () => {
  it('ask for what the table says, with the modifiers that it says; arrows nudge whatever is held', () => {
    const asked = (event: KeyboardEvent): string | undefined => keyRow(KEYS, event)?.action;
    expect([press('p'), press('P'), press('?', { shiftKey: true }), press('+', { shiftKey: true }), press('Delete')].map(asked)).toEqual([
      'pen',
      'pen',
      'help',
      'zoom-in',
      'remove',
    ]);
    expect([press('z', { ctrlKey: true }), press('z', { ctrlKey: true, shiftKey: true }), press('z')].map(asked)).toEqual([
      'undo',
      'redo',
      undefined,
    ]);
    for (const held of [{}, { shiftKey: true }, { altKey: true }, { ctrlKey: true }]) expect(asked(press('ArrowUp', held))).toBe('nudge');
    const original = KEYS.find((row) => row.action === 'original')!;
    expect([isKeyOf(original, press('B', { shiftKey: true })), isKeyOf(original, press('n'))]).toEqual([true, false]);
  });

  it('are each asked for once: no two rows share a press, and every one is named', () => {
    const all = KEYS.flatMap((row) => row.keys);
    expect(new Set(all.map((key) => key.toLowerCase())).size).toBe(all.length);
    expect(KEYS.filter((row) => shownKey(row) === '' || row.does === '')).toEqual([]);
    expect(KEYS.filter((row) => ['undo', 'redo', 'help', 'picture-next', 'original', 'nudge'].includes(row.action)).map(shownKey)).toEqual(
      expect.arrayContaining(['Ctrl+Z', 'Ctrl+Shift+Z', '?', 'Page down', 'B (held)', 'Arrows']),
    );
  });

  it('of one’s own take the place of the first; taken ones and those of the page are refused with the reason; a free one again is free', () => {
    const own = withOwnKeys(KEYS, { marks: '$mod+Shift+m', back: 'x' });
    expect(keyRow(own, press('m'))).toBeNull();
    expect(keyRow(own, press('M', { ctrlKey: true, shiftKey: true }))?.action).toBe('marks');
    // what belongs to the keyboard everywhere stays
    expect(keyRow(own, press('Escape'))?.action).toBe('back');
    expect(whyNot(own, 'pen', 'q')).toMatch(/^Q already asks for “Panel/);
    expect(whyNot(own, 'pen', 'm')).toBeNull();
    for (const key of ['Tab', 'Enter', 'Escape', 'ArrowLeft', '$mod+w']) expect(whyNot(own, 'pen', key)).toMatch(/belongs to the page/);
    expect([pressed(press('Shift')), pressed(press('V')), pressed(press('!', { shiftKey: true, altKey: true }))]).toEqual([
      null,
      'v',
      'Alt+Shift+!',
    ]);
  });

  it('go through a file; what is none, or would let two actions share a key, changes nothing', () => {
    const own = { marks: 'z', pen: 'm' } as const;
    expect(read(keysFile(own))).toEqual(own);
    for (const text of [
      '',
      '{}',
      '{"format":"able-plumb-keys","version":2,"keys":{}}',
      '{"format":"able-plumb-keys","version":1,"keys":[]}',
    ])
      expect(() => read(text)).toThrow(/not a list of keys.*stay as they are/);
    expect(() => read(keysFile({ marks: 'p' }))).toThrow(/in each other’s way.*stay as they are/);
    expect(() => read(keysFile({ marks: 'z', pen: 'Z' }))).toThrow(/in each other’s way/);
    // of a newer list the actions that are unknown here are left out, and fixed keys stay
    expect(read(keysFile({ marks: 'z' }).replace('"marks"', '"unheard"'))).toEqual({});
    expect(read(keysFile({ back: 'z' }))).toEqual({});
    // keys that were saved while the steps had another name
    expect(read(keysFile({ 'knot-crop': 'z' }))).toEqual({ 'step-crop': 'z' });
    expect(currentOwnKeys({ 'knot-lens': '$mod+l', marks: 'z' })).toEqual({ 'step-lens': '$mod+l', marks: 'z' });
  });
});
