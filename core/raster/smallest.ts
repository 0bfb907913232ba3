/** The smallest value of the square of 2 r + 1 around each cell. */
export function smallest(values: Float32Array, w: number, h: number, r: number): Float32Array {
  const across = new Float32Array(values.length);
  const out = new Float32Array(values.length);
  slideMinimum(values, across, w, 1, h, w, r);
  slideMinimum(across, out, h, w, w, 1, r);
  return out;
}

/** Running minimum along lines, by a queue of candidates (van Herk's problem, in one pass). */
function slideMinimum(
  from: Float32Array,
  to: Float32Array,
  length: number,
  step: number,
  lines: number,
  stride: number,
  r: number,
): void {
  const queue = new Int32Array(length + 1);
  for (let l = 0; l < lines; l++) {
    const at = l * stride;
    let head = 0;
    let tail = 0;
    for (let i = 0; i < length + r; i++) {
      if (i < length) {
        const value = from[at + i * step]!;
        while (tail > head && from[at + queue[tail - 1]! * step]! >= value) tail--;
        queue[tail++] = i;
      }
      const centre = i - r;
      if (centre < 0) continue;
      while (queue[head]! < centre - r) head++;
      to[at + centre * step] = from[at + queue[head]! * step]!;
    }
  }
}
