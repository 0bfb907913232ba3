/** A side up to which a hole is solved outright, and its sweeps; sweeps at each finer size. */
const COARSEST = 12;
const COARSEST_SWEEPS = 60;
const SWEEPS = 10;
/** Over-relaxation of the sweeps. */
const RELAXATION = 1.6;

/**
 * Fills the unknown cells of a plane with the membrane that is spanned by the known ones round them
 * (Laplace's equation; nothing flows over the plane's own border), in place.
 *
 * @param known  1 where the plane is known; other values of the plane are not read
 * @see Perez, Gangnet, Blake, "Poisson image editing", SIGGRAPH 2003; solved from coarse to fine
 */
export function spanMembrane(
  plane: Float32Array,
  known: Uint8Array,
  width: number,
  height: number,
): void {
  if (!known.includes(1)) {
    plane.fill(0);
    return;
  }
  if (!known.includes(0)) return;
  if (Math.max(width, height) <= COARSEST) {
    startFromMean(plane, known);
    relax(plane, known, width, height, COARSEST_SWEEPS);
    return;
  }
  const coarse = halve(plane, known, width, height);
  spanMembrane(coarse.plane, coarse.known, coarse.width, coarse.height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      if (!known[i]) plane[i] = coarse.plane[(y >> 1) * coarse.width + (x >> 1)]!;
  relax(plane, known, width, height, SWEEPS);
}

function startFromMean(plane: Float32Array, known: Uint8Array): void {
  let sum = 0;
  let count = 0;
  known.forEach((k, i) => {
    if (k) {
      sum += plane[i]!;
      count++;
    }
  });
  const mean = sum / count;
  known.forEach((k, i) => {
    if (!k) plane[i] = mean;
  });
}

/** The plane at half its size: a cell is known where anything in it is. */
function halve(
  plane: Float32Array,
  known: Uint8Array,
  width: number,
  height: number,
): { plane: Float32Array; known: Uint8Array; width: number; height: number } {
  const w = (width + 1) >> 1;
  const h = (height + 1) >> 1;
  const sums = new Float32Array(w * h);
  const counts = new Uint8Array(w * h);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      if (known[i]) {
        const cell = (y >> 1) * w + (x >> 1);
        sums[cell]! += plane[i]!;
        counts[cell]!++;
      }
  for (let i = 0; i < sums.length; i++) if (counts[i]) sums[i]! /= counts[i]!;
  return { plane: sums, known: counts.map((n) => (n ? 1 : 0)), width: w, height: h };
}

function relax(
  plane: Float32Array,
  known: Uint8Array,
  width: number,
  height: number,
  sweeps: number,
): void {
  for (let sweep = 0; sweep < sweeps; sweep++)
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        if (known[i]) continue;
        const own = plane[i]!;
        const left = x ? plane[i - 1]! : own;
        const right = x < width - 1 ? plane[i + 1]! : own;
        const above = y ? plane[i - width]! : own;
        const below = y < height - 1 ? plane[i + width]! : own;
        plane[i] = own + RELAXATION * ((left + right + above + below) / 4 - own);
      }
}
