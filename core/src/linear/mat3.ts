/** 3x3 matrix, row-major: element (row i, column j) at 3 i + j, indices from 0. */
export type Mat3 = readonly [number, number, number, number, number, number, number, number, number];

/** Vector of three components. */
export type Vec3 = readonly [number, number, number];

export const IDENTITY3: Mat3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** Matrix product; applies `factors` from the right to the left, as they are written. */
export function multiply3(...factors: readonly Mat3[]): Mat3 {
  return factors.reduce(
    (a, b) => [
      a[0] * b[0] + a[1] * b[3] + a[2] * b[6],
      a[0] * b[1] + a[1] * b[4] + a[2] * b[7],
      a[0] * b[2] + a[1] * b[5] + a[2] * b[8],
      a[3] * b[0] + a[4] * b[3] + a[5] * b[6],
      a[3] * b[1] + a[4] * b[4] + a[5] * b[7],
      a[3] * b[2] + a[4] * b[5] + a[5] * b[8],
      a[6] * b[0] + a[7] * b[3] + a[8] * b[6],
      a[6] * b[1] + a[7] * b[4] + a[8] * b[7],
      a[6] * b[2] + a[7] * b[5] + a[8] * b[8],
    ],
    IDENTITY3,
  );
}

/** Transpose; for a rotation this is the inverse. */
export const transpose3 = (m: Mat3): Mat3 => [m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]];

/** Matrix times column vector. */
export const apply3 = (m: Mat3, v: Vec3): Vec3 => [
  m[0] * v[0] + m[1] * v[1] + m[2] * v[2],
  m[3] * v[0] + m[4] * v[1] + m[5] * v[2],
  m[6] * v[0] + m[7] * v[1] + m[8] * v[2],
];

/** Determinant. */
export const determinant3 = (m: Mat3): number =>
  m[0] * (m[4] * m[8] - m[5] * m[7]) - m[1] * (m[3] * m[8] - m[5] * m[6]) + m[2] * (m[3] * m[7] - m[4] * m[6]);

/** Inverse by cofactors; null when the matrix is singular to double precision. */
export function inverse3(m: Mat3): Mat3 | null {
  const det = determinant3(m);
  const size = Math.max(...m.map(Math.abs));
  if (!(Math.abs(det) > 1e-14 * size ** 3)) return null;
  const s = 1 / det;
  return [
    s * (m[4] * m[8] - m[5] * m[7]),
    s * (m[2] * m[7] - m[1] * m[8]),
    s * (m[1] * m[5] - m[2] * m[4]),
    s * (m[5] * m[6] - m[3] * m[8]),
    s * (m[0] * m[8] - m[2] * m[6]),
    s * (m[2] * m[3] - m[0] * m[5]),
    s * (m[3] * m[7] - m[4] * m[6]),
    s * (m[1] * m[6] - m[0] * m[7]),
    s * (m[0] * m[4] - m[1] * m[3]),
  ];
}

/** Standard right-handed rotations about the axes, radians. */
export function rotationX(angleRad: number): Mat3 {
  const [c, s] = [Math.cos(angleRad), Math.sin(angleRad)];
  return [1, 0, 0, 0, c, -s, 0, s, c];
}
export function rotationY(angleRad: number): Mat3 {
  const [c, s] = [Math.cos(angleRad), Math.sin(angleRad)];
  return [c, 0, s, 0, 1, 0, -s, 0, c];
}
export function rotationZ(angleRad: number): Mat3 {
  const [c, s] = [Math.cos(angleRad), Math.sin(angleRad)];
  return [c, -s, 0, s, c, 0, 0, 0, 1];
}

/** Cross product. */
export const cross3 = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

/** Scalar product. */
export const dot3 = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
