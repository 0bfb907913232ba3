export interface Rectangle {
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * The rectangle of most cells that lies wholly within a mask of w x h cells (stack of open bars in
 * each row's histogram).
 */
export function largestRectangle(mask: ArrayLike<number>, w: number, h: number): Rectangle {
  const heights = new Int32Array(w + 1);
  const best = { x: 0, y: 0, width: 0, height: 0 };
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) heights[x] = mask[y * w + x] ? heights[x]! + 1 : 0;
    const open: number[] = [];
    for (let x = 0; x <= w; x++) {
      while (open.length && heights[open.at(-1)!]! >= heights[x]!) {
        const height = heights[open.pop()!]!;
        const from = open.length ? open.at(-1)! + 1 : 0;
        if (height * (x - from) > best.width * best.height)
          Object.assign(best, { x: from, y: y - height + 1, width: x - from, height });
      }
      open.push(x);
    }
  }
  return best;
}

/**
 * The cells that hold the largest rectangle of one shape that lies wholly within a mask of w x h
 * cells; of equal ones that nearest to the middle. What holds a larger one holds a smaller one:
 * sizes are halved, and each is looked for in a summed-area table (Crow, "Summed-area tables for
 * texture mapping", SIGGRAPH 1984).
 *
 * @param ratio  width over height, in cells
 */
export function largestOfRatio(
  mask: ArrayLike<number>,
  w: number,
  h: number,
  ratio: number,
): Rectangle {
  const row = w + 1;
  const sums = new Int32Array(row * (h + 1));
  for (let y = 0; y < h; y++)
    for (let x = 0, along = 0; x < w; x++)
      sums[(y + 1) * row + x + 1] = sums[y * row + x + 1]! + (along += mask[y * w + x] ? 1 : 0);
  const none = { x: 0, y: 0, width: 0, height: 0 };
  const fitting = (across: number): Rectangle => {
    const width = Math.ceil(across - 1e-9);
    const height = Math.ceil(across / ratio - 1e-9);
    const all = width * height;
    let best = none;
    let least = Infinity;
    for (let y = 0; y + height <= h; y++)
      for (let x = 0; x + width <= w; x++) {
        if (
          sums[(y + height) * row + x + width]! -
            sums[y * row + x + width]! -
            sums[(y + height) * row + x]! +
            sums[y * row + x]! !==
          all
        )
          continue;
        const far = (2 * x + width - w) ** 2 + (2 * y + height - h) ** 2;
        if (far < least) {
          least = far;
          best = { x, y, width, height };
        }
      }
    return best;
  };
  // only where its width or its height fills whole cells does a larger one need more of them
  const sizes = [
    ...Array.from({ length: w }, (_, i) => i + 1),
    ...Array.from({ length: h }, (_, i) => (i + 1) * ratio),
  ].sort((a, b) => a - b);
  let lo = 0;
  let hi = sizes.length;
  let best = none;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    const found = fitting(sizes[mid]!);
    if (found.width) {
      best = found;
      lo = mid + 1;
    } else hi = mid;
  }
  return best;
}
