import { composeWarp, newCorrection, parseCorrection, type Correction, type Point, type PositionMap, type Warp } from '@able-plumb/core';

export const SIZE = { width: 6000, height: 4000 };
const CAMERA = { fx: 4000, fy: 4000, cx: 3000, cy: 2000 };
const DISTORTION = { k1: -0.08, k2: 0.02, p1: 0, p2: 0, k3: 0 };

/** What OpenCV needs to straighten the same picture in two steps, lens and then perspective; pixel centres at whole numbers. */
export interface TwoStepTask {
  readonly camera: readonly (readonly number[])[];
  /** k1 k2 p1 p2 k3. */
  readonly distortion: readonly number[];
  /** Four points of the undistorted picture, and where they go in the output. */
  readonly flat: readonly Point[];
  readonly straight: readonly Point[];
  readonly width: number;
  readonly height: number;
}

/** Two degrees of roll, twelve of tilt, a barrel lens, 24 megapixels; the same cut out of the picture without the lens; and as two steps. */
export function typicalInTwoSteps(): {
  readonly correction: Correction;
  readonly warp: Warp;
  readonly flatWarp: Warp;
  readonly task: TwoStepTask;
} {
  const opened = newCorrection({ name: 'waves.jpg', ...SIZE, focal35: 24 });
  const whole = parseCorrection({
    ...opened,
    camera: { ...opened.camera, focalPx: CAMERA.fx, focalFrom: 'typed' },
    stance: { ...opened.stance, adjust: { roll: 2, tilt: 12, swing: 0 } },
    lens: { on: true, model: { kind: 'brown-conrady', ...CAMERA, ...DISTORTION } },
    output: { ...opened.output, filter: 'lanczos3' },
  });
  const { crop } = composeWarp(whole, SIZE);
  const correction = parseCorrection({ ...whole, crop: { ...whole.crop, edges: 'keep', rect: crop } });
  const warp = composeWarp(correction, SIZE);
  const flatWarp = composeWarp(parseCorrection({ ...correction, lens: { ...correction.lens, on: false } }), SIZE);
  const { width, height } = warp.outputSize;
  const corners: readonly Point[] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  return {
    correction,
    warp,
    flatWarp,
    task: {
      camera: [
        [CAMERA.fx, 0, CAMERA.cx - 0.5],
        [0, CAMERA.fy, CAMERA.cy - 0.5],
        [0, 0, 1],
      ],
      distortion: Object.values(DISTORTION),
      flat: corners.map(([x, y]) => centred(placeOf(flatWarp.outputToPicture, x, y))),
      straight: corners.map(centred),
      width,
      height,
    },
  };
}

/** Where a point that has a place in the picture lies there. */
export const placeOf = (map: PositionMap, x: number, y: number): Point => {
  const p = new Float64Array(2);
  if (!map(x, y, p)) throw new Error('A point has no place in the picture.');
  return [p[0] as number, p[1] as number];
};
/** Pixel centres at whole numbers. */
const centred = ([x, y]: Point): Point => [x - 0.5, y - 0.5];
