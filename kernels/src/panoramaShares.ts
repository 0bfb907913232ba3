import { mixed } from "./resample";

/**
 * A frame's shares of n px by `rows`: between the middles of cells of 0 or 1 they are lines. The
 * first px lies at x0, y0 among the cells at `cells`, `across` to a row, and each next px `perX`,
 * each next row `perY` on; `row` holds as many floats as there are cells across. Rows of `dst` are
 * `line` bytes apart.
 */
export function shareRows(
  cells: usize,
  across: i32,
  x0: f32,
  perX: f32,
  n: i32,
  y0: f32,
  perY: f32,
  rows: i32,
  row: usize,
  dst: usize,
  line: usize,
): void {
  const end = x0 + <f32>(n - 1) * perX;
  for (let r = 0; r < rows; r++, dst += line) {
    const v = y0 + <f32>r * perY;
    const top = floor<f32>(v);
    const t = v - top;
    let above = cells + <usize>(<i32>top * across);
    let i = 0;
    for (let c = row; i < across; i++, c += 4, above++) {
      const a = <f32>load<u8>(above);
      store<f32>(c, a + (<f32>load<u8>(above + <usize>across) - a) * t);
    }
    i = 0;
    const whole = evenShare(row, x0, end);
    if (whole >= 0)
      for (; i + 4 <= n; i += 4) v128.store(dst + ((<usize>i) << 2), f32x4.splat(whole));
    for (; i < n; i++) store<f32>(dst + ((<usize>i) << 2), shareAt(row, x0 + <f32>i * perX));
  }
}

/** What lies between a node and the next. */
// @ts-ignore: decorator
@inline
export function nodeAt(node: usize, u: f32): v128 {
  return mixed(v128.load(node), v128.load(node, 16), u);
}

// @ts-ignore: decorator
@inline
function shareAt(shares: usize, u: f32): f32 {
  const cell = floor<f32>(u);
  const s = shares + ((<usize>cell) << 2);
  return load<f32>(s) + (load<f32>(s, 4) - load<f32>(s)) * (u - cell);
}

/** The share all the way from u to v, if it is the same, or less than 0. */
// @ts-ignore: decorator
@inline
function evenShare(shares: usize, u: f32, v: f32): f32 {
  let s = shares + ((<usize>floor<f32>(u)) << 2);
  let end = shares + ((<usize>floor<f32>(v)) << 2) + 4;
  const share = load<f32>(s);
  for (; s < end; s += 4) if (load<f32>(s, 4) != share) return -1;
  return share;
}
