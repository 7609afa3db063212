import type { LensModel } from '../correction/schema';
import { lensOf } from '../lens/lens-of';
import { solveLinear } from '../linear/levenberg-marquardt';
import { diagonal, type Size } from '../picture/point';

type Bending = Exclude<LensModel, { kind: 'none' }>;

/**
 * The lens between two neighbouring focal lengths of a zoom: coefficients interpolated as they are in half diagonals, so that they can
 * be compared; the focal length and the centre interpolated too. Two different models are first brought to the radial one.
 *
 * @param share 0 gives `a`, 1 gives `b`
 */
export function blendedModel(a: Bending, b: Bending, share: number, size: Size): Bending {
  const mix = (p: number, q: number): number => p + (q - p) * share;
  const half = diagonal(size) / 2;
  const centre = { cx: mix(a.cx, b.cx), cy: mix(a.cy, b.cy) };
  if (a.kind === 'brown-conrady' && b.kind === 'brown-conrady') {
    const [fx, fy] = [mix(a.fx, b.fx), mix(a.fy, b.fy)];
    const f = Math.sqrt(fx * fy);
    // a coefficient of the n-th power on ray coordinates is smaller by (f / half)^n on half diagonals
    const at = (m: typeof a, key: 'k1' | 'k2' | 'k3' | 'p1' | 'p2', power: number): number =>
      m[key] * (half / Math.sqrt(m.fx * m.fy)) ** power;
    const blend = (key: 'k1' | 'k2' | 'k3' | 'p1' | 'p2', power: number): number =>
      mix(at(a, key, power), at(b, key, power)) / (half / f) ** power;
    return {
      kind: 'brown-conrady',
      fx,
      fy,
      ...centre,
      k1: blend('k1', 2),
      k2: blend('k2', 4),
      k3: blend('k3', 6),
      p1: blend('p1', 1),
      p2: blend('p2', 1),
    };
  }
  if (a.kind === 'fisheye' && b.kind === 'fisheye') {
    const ks = { k1: mix(a.k1, b.k1), k2: mix(a.k2, b.k2), k3: mix(a.k3, b.k3), k4: mix(a.k4, b.k4) };
    return { kind: 'fisheye', fx: mix(a.fx, b.fx), fy: mix(a.fy, b.fy), ...centre, ...ks };
  }
  if (a.kind === 'division' && b.kind === 'division') return { kind: 'division', ...centre, l1: mix(a.l1, b.l1), l2: mix(a.l2, b.l2) };
  const [p, q] = [asRadial(a, size), asRadial(b, size)];
  return { kind: 'radial', ...centre, k1: mix(p.k1, q.k1), k2: mix(p.k2, q.k2) };
}

const SAMPLES = 60;

/** The radial model nearest to another one, by least squares over the radii up to the corner. */
export function asRadial(model: Bending, size: Size): Extract<LensModel, { kind: 'radial' }> {
  const { cx, cy } = model;
  if (model.kind === 'radial') return model;
  const half = diagonal(size) / 2;
  const lens = lensOf(model, size);
  const out = new Float64Array(2);
  const normal = [0, 0, 0, 0];
  const right = [0, 0];
  for (let i = 1; i <= SAMPLES; i += 1) {
    const r = i / SAMPLES;
    if (!lens.distort(cx + r * half, cy, out)) continue;
    const [u, v] = [r ** 3, r ** 5];
    const off = ((out[0] as number) - cx) / half - r;
    [u * u, u * v, v * u, v * v].forEach((value, k) => (normal[k] = (normal[k] as number) + value));
    right[0] = (right[0] as number) + u * off;
    right[1] = (right[1] as number) + v * off;
  }
  const [k1 = 0, k2 = 0] = solveLinear(normal, right) ?? [];
  return { kind: 'radial', cx, cy, k1, k2 };
}
