/** A vector of three numbers. */
export type Vector = [number, number, number];
/** A vector of length 1 along another. */
export const unit = ([x, y, z]: readonly number[]): Vector => {
  const n = Math.sqrt(x! * x! + y! * y! + z! * z!) || 1;
  return [x! / n, y! / n, z! / n];
};
/** The cross product of two vectors. */
export const cross = (a: readonly number[], b: readonly number[]): Vector => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];
/** The dot product of two vectors. */
export const dot = (a: readonly number[], b: readonly number[]): number =>
  a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
