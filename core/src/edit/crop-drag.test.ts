import { describe, expect, it } from 'vitest';
import {
  dragCrop,
  fitView,
  freshCrop,
  nearestHandle,
  parseProportion,
  planeToScreen,
  screenToPlane,
  turnedByDeg,
  zoomAt,
  type CropPart,
  type Point,
} from '../index';

const start = { x: -300, y: -200, width: 600, height: 400 };

describe('handles', () => {
  it('the opposite side or corner stays; from the centre the centre stays; proportions hold', () => {
    const corner = (part: CropPart): Point => [
      part.includes('w') ? start.x + start.width : start.x,
      part.includes('n') ? start.y + start.height : start.y,
    ];
    for (const part of ['nw', 'ne', 'se', 'sw'] as const) {
      const free = dragCrop(start, part, [37, -21]);
      const held = dragCrop(start, part, [37, -21], { ratio: 1.5 });
      expect(held.width / held.height).toBeCloseTo(1.5, 9);
      for (const rect of [free, held]) {
        const opposite = [part.includes('w') ? rect.x + rect.width : rect.x, part.includes('n') ? rect.y + rect.height : rect.y];
        expect(opposite[0]).toBeCloseTo(corner(part)[0], 9);
        expect(opposite[1]).toBeCloseTo(corner(part)[1], 9);
      }
      const centred = dragCrop(start, part, [37, -21], { fromCentre: true });
      expect([centred.x + centred.width / 2, centred.y + centred.height / 2]).toEqual([0, 0]);
    }
    expect(dragCrop(start, 'e', [50, 999])).toEqual({ ...start, width: 650 });
    expect(dragCrop(start, 'inside', [5, 6])).toEqual({ ...start, x: -295, y: -194 });
    expect(dragCrop(start, 'w', [5000, 0]).width).toBeGreaterThan(0);
  });

  it('fresh crops, turning, overlapping handles, typed proportions', () => {
    expect(freshCrop([0, 0], [-90, 30], 3)).toEqual({ x: -90, y: 0, width: 90, height: 30 });
    expect(freshCrop([0, 0], [2, 1])).toBeNull();
    expect(turnedByDeg([0, 0], [10, 0], [0, 10])).toBeCloseTo(90, 9);
    expect(turnedByDeg([0, 0], [-10, 1], [-10, -1])).toBeCloseTo(11.42, 2);
    const two = [
      { id: 'a', at: [0, 0] as Point },
      { id: 'b', at: [3, 0] as Point },
    ];
    expect(nearestHandle(two, [1, 0], 10)?.id).toBe('a');
    expect(nearestHandle(two, [1, 0], 10, 'a')?.id).toBe('b');
    expect(nearestHandle(two, [50, 0], 10)).toBeNull();
    expect(['6:2', '7 x 3', '1.85', '1,85', '√2'].map(parseProportion)).toEqual([3, 7 / 3, 1.85, 1.85, Math.SQRT2]);
    expect(['', 'wide', '0:3', '4:0', '-1'].map(parseProportion)).toEqual([null, null, null, null, null]);
  });

  it('the view keeps what lies under the pointer, mirrored too', () => {
    for (const mirror of [false, true]) {
      const view = fitView(start, { width: 800, height: 600 }, mirror, false);
      const under = screenToPlane(view, [123, 456]);
      const zoomed = zoomAt(view, [123, 456], 3);
      expect(screenToPlane(zoomed, [123, 456])[0]).toBeCloseTo(under[0], 9);
      expect(planeToScreen(zoomed, under)[1]).toBeCloseTo(456, 9);
    }
  });
});
