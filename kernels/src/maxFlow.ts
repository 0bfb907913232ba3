// The minimum cut of a grid graph with four neighbours. Search trees grow from source and sink, and
// are repaired after each augmentation (Boykov and Kolmogorov, "An experimental comparison of
// min-cut/max-flow algorithms for energy minimization in vision", TPAMI 2004).

const FREE: u8 = 0;
const SOURCE: u8 = 1;
const SINK: u8 = 2;
/** A parent is one of the four directions, or one of these. */
const ROOT: u8 = 4;
const ORPHAN: u8 = 5;
const NONE: u8 = 6;
/** Capacities below this are none. */
const EPS: f32 = 1e-6;

// the graph: cells across, cells in all, and where its arrays lie
let across = 0;
let cells = 0;
let caps: usize = 0;
let rests: usize = 0;
let trees: usize = 0;
let parents: usize = 0;
let stamps: usize = 0;
let distances: usize = 0;
let queued: usize = 0;
let active: usize = 0;
let orphans: usize = 0;
let time = 0;
let head = 0;
let waiting = 0;
let orphaned = 0;

/** Cells from one to its neighbour: right, left, below, above. */
// @ts-ignore: decorator
@inline
function way(d: i32): i32 {
  return d < 2 ? 1 - 2 * d : d == 2 ? across : -across;
}
/** The direction back. */
// @ts-ignore: decorator
@inline
function back(d: i32): i32 {
  return d ^ 1;
}
/** Address of what is left of the capacity from a cell. */
// @ts-ignore: decorator
@inline
function cap(d: i32, i: i32): usize {
  return caps + ((<usize>(d * cells + i)) << 2);
}
// @ts-ignore: decorator
@inline
function four(array: usize, i: i32): usize {
  return array + ((<usize>i) << 2);
}
// @ts-ignore: decorator
@inline
function tree(i: i32): u8 {
  return load<u8>(trees + <usize>i);
}
// @ts-ignore: decorator
@inline
function parent(i: i32): u8 {
  return load<u8>(parents + <usize>i);
}

/** Puts a cell in the queue of those that may grow: a ring that holds each once. */
function wake(i: i32): void {
  if (load<u8>(queued + <usize>i)) return;
  store<u8>(queued + <usize>i, 1);
  const place = head + waiting++;
  store<i32>(four(active, place < cells ? place : place - cells), i);
}

function orphan(i: i32): void {
  store<u8>(parents + <usize>i, ORPHAN);
  store<i32>(four(orphans, orphaned++), i);
}

/** Steps from a cell to the terminal it hangs on, or -1 where it hangs on none. */
function stepsToRoot(i: i32): i32 {
  let steps = 0;
  let j = i;
  while (load<i32>(four(stamps, j)) != time) {
    const p = parent(j);
    steps++;
    if (p == ROOT) {
      store<i32>(four(stamps, j), time);
      store<i32>(four(distances, j), 1);
      return steps;
    }
    if (p > ROOT) return -1;
    j += way(p);
  }
  return steps + load<i32>(four(distances, j));
}

/** Finds the orphans new parents in their tree, or sets them free. */
function adopt(): void {
  while (orphaned) {
    const i = load<i32>(four(orphans, --orphaned));
    const own = tree(i);
    let best = -1;
    let least = i32.MAX_VALUE;
    for (let d = 0; d < 4; d++) {
      const k = i + way(d);
      if (k < 0 || k >= cells || tree(k) != own || parent(k) > ROOT) continue;
      // from the neighbour to this one in the source's tree, from this one to it in the sink's
      if (load<f32>(own == SOURCE ? cap(back(d), k) : cap(d, i)) <= 0) continue;
      const steps = stepsToRoot(k);
      if (steps < 0) continue;
      if (steps < least) {
        least = steps;
        best = d;
      }
      for (let m = k, left = steps; load<i32>(four(stamps, m)) != time; m += way(parent(m))) {
        store<i32>(four(stamps, m), time);
        store<i32>(four(distances, m), left--);
      }
    }
    if (best >= 0) {
      store<u8>(parents + <usize>i, <u8>best);
      store<i32>(four(stamps, i), time);
      store<i32>(four(distances, i), least + 1);
      continue;
    }
    for (let d = 0; d < 4; d++) {
      const k = i + way(d);
      if (k < 0 || k >= cells || tree(k) != own) continue;
      if (load<f32>(own == SOURCE ? cap(back(d), k) : cap(d, i)) > 0) wake(k);
      const p = parent(k);
      if (p < ROOT && k + way(p) == i) orphan(k);
    }
    store<u8>(trees + <usize>i, FREE);
    store<u8>(parents + <usize>i, NONE);
  }
}

/** Pushes flow on from one cell to the next. */
function push(d: i32, from: i32, to: i32, flow: f32): void {
  const there = cap(d, from);
  const here = cap(back(d), to);
  const left = load<f32>(there) - flow;
  store<f32>(there, left <= EPS ? 0 : left);
  store<f32>(here, load<f32>(here) + flow);
}

/**
 * Pushes as much as the way bears from the source through the two trees, which meet from one cell
 * to the next, to the sink.
 */
function augment(d: i32, from: i32, to: i32): void {
  let flow = load<f32>(cap(d, from));
  let a = from;
  let b = to;
  for (let p = parent(a); p != ROOT; p = parent(a)) {
    a += way(p);
    flow = min(flow, load<f32>(cap(back(p), a)));
  }
  for (let p = parent(b); p != ROOT; p = parent(b)) {
    flow = min(flow, load<f32>(cap(p, b)));
    b += way(p);
  }
  flow = min(min(flow, load<f32>(four(rests, a))), -load<f32>(four(rests, b)));
  push(d, from, to, flow);
  for (let j = from; j != a;) {
    const p = parent(j);
    const up = j + way(p);
    push(back(p), up, j, flow);
    if (load<f32>(cap(back(p), up)) == 0) orphan(j);
    j = up;
  }
  drain(a, -flow);
  for (let j = to; j != b;) {
    const p = parent(j);
    const up = j + way(p);
    push(p, j, up, flow);
    if (load<f32>(cap(p, j)) == 0) orphan(j);
    j = up;
  }
  drain(b, flow);
}

/** Takes flow from what a cell has of its terminal. */
function drain(i: i32, flow: f32): void {
  const left = load<f32>(four(rests, i)) + flow;
  const none = abs(left) <= EPS || left > 0 == flow > 0;
  store<f32>(four(rests, i), none ? 0 : left);
  if (none) orphan(i);
}

/**
 * Which cells of a w x h grid end on the source's side of its minimum cut: 1 or 0 to `sides`,
 * bytes.
 *
 * `terminal` holds per cell capacity from the source less capacity to the sink, and is changed;
 * `right` what lies between it and its right neighbour either way, `down` between it and the one
 * below. `work` holds 34 bytes a cell, and is not shared.
 */
export function minimumCut(
  w: i32,
  h: i32,
  terminal: usize,
  right: usize,
  down: usize,
  work: usize,
  sides: usize,
): void {
  const n = w * h;
  const size = <usize>n;
  across = w;
  cells = n;
  rests = terminal;
  trees = sides;
  caps = work;
  stamps = caps + 16 * size;
  distances = stamps + 4 * size;
  active = distances + 4 * size;
  orphans = active + 4 * size;
  parents = orphans + 4 * size;
  queued = parents + size;
  memory.fill(work, 0, 34 * size);
  memory.fill(parents, NONE, size);
  memory.fill(sides, FREE, size);
  time = head = waiting = orphaned = 0;
  // what is left in the four directions; none leads from the end of a row to the next
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (x < w - 1) {
        const c = load<f32>(four(right, i));
        store<f32>(cap(0, i), c);
        store<f32>(cap(1, i + 1), c);
      }
      if (y < h - 1) {
        const c = load<f32>(four(down, i));
        store<f32>(cap(2, i), c);
        store<f32>(cap(3, i + w), c);
      }
    }
  for (let i = 0; i < n; i++) {
    const rest = load<f32>(four(rests, i));
    if (rest == 0) continue;
    store<u8>(trees + <usize>i, rest > 0 ? SOURCE : SINK);
    store<u8>(parents + <usize>i, ROOT);
    store<i32>(four(distances, i), 1);
    wake(i);
  }
  while (waiting) {
    const i = load<i32>(four(active, head));
    head = head + 1 < n ? head + 1 : 0;
    waiting--;
    store<u8>(queued + <usize>i, 0);
    for (let d = 0; d < 4 && tree(i) != FREE;) {
      const k = i + way(d);
      const own = tree(i);
      if (
        k < 0 ||
        k >= n ||
        load<f32>(own == SOURCE ? cap(d, i) : cap(back(d), k)) <= 0 ||
        tree(k) == own
      ) {
        d++;
        continue;
      }
      if (tree(k) == FREE) {
        store<u8>(trees + <usize>k, own);
        store<u8>(parents + <usize>k, <u8>back(d));
        store<i32>(four(stamps, k), load<i32>(four(stamps, i)));
        store<i32>(four(distances, k), load<i32>(four(distances, i)) + 1);
        wake(k);
        d++;
        continue;
      }
      // the same neighbour may bear more after that
      if (own == SOURCE) augment(d, i, k);
      else augment(back(d), k, i);
      time++;
      adopt();
    }
  }
  for (let i: usize = 0; i < size; i++) store<u8>(sides + i, load<u8>(sides + i) == SOURCE ? 1 : 0);
}
