import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { newCorrection, parseCorrection } from '../index';
import { correctionJsonSchema } from './json-schema';

const minimal = { format: 'able-plumb/correction', version: 1, picture: { width: 600, height: 400 } };

describe('the correction document', () => {
  it('needs only format, version and picture; defaults mean no change', () => {
    const c = parseCorrection(minimal);
    expect(c.stance).toMatchObject({ from: 'hand', may: 'square-on', front: 'wall', roll: 0, aspect: 1, strength: { tilt: 1, swing: 1 } });
    expect(c.crop).toMatchObject({ edges: 'clear', ratio: 'as-taken', around: 'picture' });
    expect(c.output).toEqual({
      size: { kind: 'natural' },
      colour: 'as-is',
      sharpen: 'none',
      filter: 'lanczos3',
      light: 'encoded',
      background: 'transparent',
    });
    expect(parseCorrection(JSON.parse(JSON.stringify(newCorrection({ name: 'a', width: 600, height: 400, focal35: 28 }))))).toEqual(
      newCorrection({ name: 'a', width: 600, height: 400, focal35: 28 }),
    );
  });

  it('refuses what it does not understand, with the path of the value', () => {
    const cases: readonly (readonly [unknown, string])[] = [
      [null, ''],
      [{ ...minimal, format: 'other' }, 'format'],
      [{ ...minimal, version: 2 }, 'version'],
      [{ ...minimal, version: 'one' }, 'version'],
      [{ ...minimal, picture: { width: 0, height: 400 } }, 'picture.width'],
      [{ ...minimal, stance: { roll: 'much' } }, 'stance.roll'],
      [{ ...minimal, stance: { roll: Infinity } }, 'stance.roll'],
      [
        {
          ...minimal,
          references: [
            { id: 'r1', kind: 'plumb', a: [0, 0], b: [0, 9] },
            { id: 'r2', kind: 'steep', a: [0, 0], b: [0, 9] },
          ],
        },
        'references[1].kind',
      ],
      [{ ...minimal, lens: { model: { kind: 'radial', cx: 1 } } }, 'lens.model.cy'],
      [{ ...minimal, crop: { rect: { x: 0, y: 0, width: -4, height: 2 } } }, 'crop.rect.width'],
    ];
    for (const [document, path] of cases) {
      try {
        parseCorrection(document);
        expect.unreachable(`${path} was accepted`);
      } catch (error) {
        expect((error as { path: string }).path).toBe(path);
        expect((error as Error).message).toMatch(/Nothing was applied/);
      }
    }
  });

  it('has its JSON Schema written down as it is', () => {
    const written = JSON.parse(readFileSync(new URL('../../../docs/schema/correction.schema.json', import.meta.url), 'utf8')) as unknown;
    expect(written).toEqual(JSON.parse(JSON.stringify(correctionJsonSchema())));
  });
});
