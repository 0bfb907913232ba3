/**
 * The minimum cut of a grid graph with four neighbours: which cells end on the source's side.
 *
 * Capacities are symmetric between neighbours. Search trees grow from both ends and are mended after each augmentation.
 *
 * @param terminal  per cell capacity from the source less capacity to the sink
 * @param right     per cell capacity to its right neighbour; `down` to the one below
 * @see Boykov and Kolmogorov, "An experimental comparison of min-cut/max-flow algorithms for energy minimization in
 *      vision", TPAMI 2004
 */
export function minimumCut(w: number, h: number, terminal: Float32Array, right: Float32Array, down: Float32Array): Uint8Array {
  const n = w * h, rest = terminal.slice(), OFFSET = [1, -1, w, -w], BACK = [1, 0, 3, 2];
  // residual capacities in the four directions; none leads from the end of a row to the next
  const cap = new Float32Array(4 * n);
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) { if (x < w - 1) cap[i] = cap[n + i + 1] = right[i]!; if (y < h - 1) cap[2 * n + i] = cap[3 * n + i + w] = down[i]!; }
  const FREE = 0, S = 1, T = 2, NONE = -1, ROOT = 4, ORPHAN = 5;
  const tree = new Uint8Array(n), parent = new Int8Array(n).fill(NONE), stamp = new Int32Array(n), distance = new Int32Array(n), queued = new Uint8Array(n);
  let time = 0, head = 0;
  const active: number[] = [], orphans: number[] = [];
  const wake = (i: number): void => { if (!queued[i]) { queued[i] = 1; active.push(i); } };
  for (let i = 0; i < n; i++) if (rest[i] !== 0) { tree[i] = rest[i]! > 0 ? S : T; parent[i] = ROOT; distance[i] = 1; wake(i); }
  const reach = (i: number, d: number, of: number): number => (of === S ? cap[d * n + i]! : cap[BACK[d]! * n + i + OFFSET[d]!]!);

  const adopt = (): void => {
    for (let i = orphans.pop(); i !== undefined; i = orphans.pop()) {
      let best = NONE, least = Infinity;
      for (let d = 0; d < 4; d++) {
        const k: number = i + OFFSET[d]!;
        if (k < 0 || k >= n || tree[k] !== tree[i] || parent[k] === NONE || parent[k] === ORPHAN) continue;
        // residual from the neighbour to this one (source tree) or from this to it (sink tree)
        if ((tree[i] === S ? cap[BACK[d]! * n + k]! : cap[d * n + i]!) <= 0) continue;
        // does it hang on its terminal still
        let steps = 0, j = k;
        for (;;) {
          if (stamp[j] === time) { steps += distance[j]!; break; }
          const p = parent[j]!;
          steps++;
          if (p === ROOT) { stamp[j] = time; distance[j] = 1; break; }
          if (p === ORPHAN || p === NONE) { steps = Infinity; break; }
          j += OFFSET[p]!;
        }
        if (steps === Infinity) continue;
        if (steps < least) { least = steps; best = d; }
        for (let m = k, left = steps; stamp[m] !== time; m += OFFSET[parent[m]!]!) { stamp[m] = time; distance[m] = left--; }
      }
      if (best !== NONE) { parent[i] = best; stamp[i] = time; distance[i] = least + 1; continue; }
      for (let d = 0; d < 4; d++) {
        const k: number = i + OFFSET[d]!;
        if (k < 0 || k >= n || tree[k] !== tree[i]) continue;
        if ((tree[i] === S ? cap[BACK[d]! * n + k]! : cap[d * n + i]!) > 0) wake(k);
        if (parent[k]! >= 0 && parent[k]! < 4 && k + OFFSET[parent[k]!]! === i) { parent[k] = ORPHAN; orphans.push(k); }
      }
      tree[i] = FREE;
      parent[i] = NONE;
    }
  };

  while (head < active.length) {
    const i = active[head++]!;
    queued[i] = 0;
    if (head > 1e6) { active.splice(0, head); head = 0; }
    if (tree[i] === FREE || parent[i] === NONE) continue;
    for (let d = 0; d < 4 && tree[i] !== FREE; d++) {
      const k: number = i + OFFSET[d]!;
      if (k < 0 || k >= n || reach(i, d, tree[i]!) <= 0) continue;
      if (tree[k] === FREE) { tree[k] = tree[i]!; parent[k] = BACK[d]!; stamp[k] = stamp[i]!; distance[k] = distance[i]! + 1; wake(k); continue; }
      if (tree[k] === tree[i]) continue;
      // the trees meet: push as much as the way bears
      const [from, to, over] = tree[i] === S ? [i, k, d] : [k, i, BACK[d]!];
      let flow = cap[over * n + from]!, a = from, b = to;
      for (let p = parent[a]!; p !== ROOT; p = parent[a]!) { a += OFFSET[p]!; const c = cap[BACK[p]! * n + a]!; if (c < flow) flow = c; }
      for (let p = parent[b]!; p !== ROOT; p = parent[b]!) { const c = cap[p * n + b]!; if (c < flow) flow = c; b += OFFSET[p]!; }
      flow = Math.min(flow, rest[a]!, -rest[b]!);
      cap[over * n + from]! -= flow;
      cap[BACK[over]! * n + to]! += flow;
      const EPS = 1e-6;
      for (let j = from; ;) {
        const p = parent[j]!;
        if (p === ROOT) { rest[j]! -= flow; if (rest[j]! <= EPS) { rest[j] = 0; parent[j] = ORPHAN; orphans.push(j); } break; }
        const up = j + OFFSET[p]!;
        cap[BACK[p]! * n + up]! -= flow;
        cap[p * n + j]! += flow;
        if (cap[BACK[p]! * n + up]! <= EPS) { cap[BACK[p]! * n + up] = 0; parent[j] = ORPHAN; orphans.push(j); }
        j = up;
      }
      for (let j = to; ;) {
        const p = parent[j]!;
        if (p === ROOT) { rest[j]! += flow; if (rest[j]! >= -EPS) { rest[j] = 0; parent[j] = ORPHAN; orphans.push(j); } break; }
        const up = j + OFFSET[p]!;
        cap[p * n + j]! -= flow;
        cap[BACK[p]! * n + up]! += flow;
        if (cap[p * n + j]! <= EPS) { cap[p * n + j] = 0; parent[j] = ORPHAN; orphans.push(j); }
        j = up;
      }
      if (cap[over * n + from]! <= EPS) cap[over * n + from] = 0;
      time++;
      adopt();
      // the same neighbour may bear more
      d--;
      if (tree[i] === FREE) break;
    }
    if (tree[i] !== FREE && parent[i] === NONE) tree[i] = FREE;
  }
  for (let i = 0; i < n; i++) tree[i] = tree[i] === S ? 1 : 0;
  return tree;
}
