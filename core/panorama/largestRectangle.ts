export interface Rectangle { x: number; y: number; width: number; height: number }

/** The rectangle of most cells that lies wholly within a mask of w x h cells (stack of open bars in each row's histogram). */
export function largestRectangle(mask: ArrayLike<number>, w: number, h: number): Rectangle {
  const heights = new Int32Array(w + 1), best = { x: 0, y: 0, width: 0, height: 0 };
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) heights[x] = mask[y * w + x] ? heights[x]! + 1 : 0;
    const open: number[] = [];
    for (let x = 0; x <= w; x++) {
      while (open.length && heights[open.at(-1)!]! >= heights[x]!) {
        const height = heights[open.pop()!]!, from = open.length ? open.at(-1)! + 1 : 0;
        if (height * (x - from) > best.width * best.height) Object.assign(best, { x: from, y: y - height + 1, width: x - from, height });
      }
      open.push(x);
    }
  }
  return best;
}
