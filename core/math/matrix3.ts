/** 3 x 3 matrices, row-major, as plain arrays of nine numbers. */
export type Matrix3 = readonly number[];

export const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The product of two 3 x 3 matrices, row-major. */
export function multiply(a: Matrix3, b: Matrix3): number[] {
  const out = new Array<number>(9).fill(0);
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++)
      out[r * 3 + c] = a[r * 3]! * b[c]! + a[r * 3 + 1]! * b[3 + c]! + a[r * 3 + 2]! * b[6 + c]!;
  return out;
}

/** The inverse of a 3 x 3 matrix, row-major. @throws RangeError if it is singular */
export function invert(m: Matrix3): number[] {
  const [a, b, c, d, e, f, g, h, i] = m as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const A = e * i - f * h;
  const B = f * g - d * i;
  const C = d * h - e * g;
  const det = a * A + b * B + c * C;
  if (!(Math.abs(det) > 1e-300)) throw new RangeError("singular matrix");
  return [
    A,
    c * h - b * i,
    b * f - c * e,
    B,
    a * i - c * g,
    c * d - a * f,
    C,
    b * g - a * h,
    a * e - b * d,
  ].map((v) => v / det);
}

/** Maps a point as homogeneous coordinates. */
export function project(m: Matrix3, x: number, y: number): [number, number] {
  const z = m[6]! * x + m[7]! * y + m[8]!;
  return [(m[0]! * x + m[1]! * y + m[2]!) / z, (m[3]! * x + m[4]! * y + m[5]!) / z];
}

/** Maps a colour or a vector. */
export function apply(m: Matrix3, v: readonly number[]): [number, number, number] {
  const x = v[0]!;
  const y = v[1]!;
  const z = v[2]!;
  return [
    m[0]! * x + m[1]! * y + m[2]! * z,
    m[3]! * x + m[4]! * y + m[5]! * z,
    m[6]! * x + m[7]! * y + m[8]! * z,
  ];
}

/** The same mapping when both pictures are `scale` times as large. */
export function rescale(m: Matrix3, scale: number): number[] {
  return [
    m[0]!,
    m[1]!,
    m[2]! * scale,
    m[3]!,
    m[4]!,
    m[5]! * scale,
    m[6]! / scale,
    m[7]! / scale,
    m[8]!,
  ];
}

/** Whether a matrix is exactly the identity. */
export function isIdentity(m: Matrix3): boolean {
  return m.every((v, i) => v === IDENTITY[i]);
}

/** The longest way that a corner or the centre of a w x h picture goes, in px. */
export function longestMove(m: Matrix3, w: number, h: number): number {
  const points: [number, number][] = [
    [0, 0],
    [w, 0],
    [0, h],
    [w, h],
    [w / 2, h / 2],
  ];
  return Math.max(
    ...points.map(([x, y]) => {
      const [u, v] = project(m, x, y);
      return Math.hypot(u - x, v - y);
    }),
  );
}
/** The transpose of a 3 x 3 matrix, row-major. */
export const transpose = (m: Matrix3): number[] => [
  m[0]!,
  m[3]!,
  m[6]!,
  m[1]!,
  m[4]!,
  m[7]!,
  m[2]!,
  m[5]!,
  m[8]!,
];
