import { PRIVATE, SHARED } from "./generated/wasm";

type N = number;

/** Samples as files hold them: encoded bytes or 16 bit, or linear floats. */
export type Samples = Uint8Array | Uint16Array | Float32Array;
export type SampleType = "u8" | "u16" | "f32";
/** What `linearise` calls them. */
export const SAMPLE_KIND: Record<SampleType, number> = { u8: 0, u16: 1, f32: 2 };
export const SAMPLE_BYTES: Record<SampleType, number> = { u8: 1, u16: 2, f32: 4 };
/** The type of a frame's samples, by their array. */
export const sampleTypeOf = (s: Samples): SampleType => {
  if (s instanceof Uint8Array) return "u8";
  if (s instanceof Uint16Array) return "u16";
  return "f32";
};

/** What the compiled kernels export; pointers are byte addresses in the heap's memory. */
export interface Kernels {
  linearise(src: N, kind: N, n: N, lut: N, dst: N): void;
  clippedBlocks(src: N, stride: N, w: N, rows: N, size: N, top: N, dst: N): void;
  doubtBlocks(row: N, n: N, first: N, size: N, blocks: N): void;
  erodeValidity(tile: N, w: N, rows: N, invGain: N, read2: N, room: N): void;
  resampleSix(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    weights: N,
    dst: N,
  ): void;
  resampleBicubic(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    dst: N,
  ): void;
  isUpright(h: N): N;
  acrossTile(tile: N, tx: N, ty: N, tw: N, th: N, x0: N, n: N, h: N, dst: N): void;
  downRow(
    block: N,
    left: N,
    ty: N,
    stride: N,
    srcW: N,
    srcH: N,
    y: N,
    x0: N,
    n: N,
    h: N,
    dst: N,
  ): void;
  warpColumn(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    th: N,
    nodes: N,
    gap: N,
    n: N,
    height: N,
    gains: N,
    columns: N,
    dst: N,
    line: N,
    planes: N,
  ): void;
  shareRows(
    cells: N,
    across: N,
    x0: N,
    perX: N,
    n: N,
    y0: N,
    perY: N,
    rows: N,
    row: N,
    dst: N,
    line: N,
  ): void;
  warpRows(
    tile: N,
    tx: N,
    ty: N,
    tw: N,
    srcW: N,
    srcH: N,
    tops: N,
    lows: N,
    gap: N,
    n: N,
    down: N,
    rows: N,
    gains: N,
    dst: N,
    line: N,
    planes: N,
  ): void;
  worthwhileRuns(acc: N, plane: N, at: N, n: N, time: N, invGain: N, read2: N, runs: N): N;
  foldRow(
    src: N,
    n: N,
    ghosts: N,
    first: N,
    acc: N,
    plane: N,
    at: N,
    time: N,
    invGain: N,
    read2: N,
    floorConfidence: N,
  ): void;
  confidenceRow(a: N, b: N, gw: N, fy: N, left: N, n: N, scale: N, dst: N): N;
  finaliseRadiance(acc: N, plane: N, n: N, m: N): void;
  pyrDown(src: N, w: N, h: N, dst: N, row: N, y0: N, y1: N): void;
  pyrUp(coarse: N, w: N, h: N, base: N, dst: N, sign: N, row: N, y0: N, y1: N): void;
  boxMean(src: N, w: N, h: N, r: N, row: N, dst: N, y0: N, y1: N): void;
  smoothWeighted(src: N, confidence: N, w: N, h: N, rows: N, dst: N): void;
  guidedProducts(values: N, guide: N, weights: N, n: N, w: N, g: N, v: N, gg: N, gv: N): void;
  guidedLines(w: N, g: N, v: N, gg: N, gv: N, n: N, eps: N): void;
  guidedValues(slope: N, offset: N, guide: N, n: N, dst: N): void;
  weightedRows(rows: N, stride: N, n: N, weights: N, count: N, dst: N): void;
  resizeAcross(row: N, starts: N, weights: N, taps: N, n: N, dst: N): void;
  addGroups(row: N, by: N, n: N, dst: N): void;
  fusionWeights(src: N, w: N, h: N, y0: N, y1: N, rows: N, dst: N): void;
  packRow(src: N, n: N, factor: N, dst: N): void;
  evenCorners(at: N, w: N, y0: N, y1: N, m: N, cx: N, cy: N, perSquare: N, ev: N, slopes: N): void;
  channelOf(src: N, n: N, channel: N, dst: N): void;
  squares(src: N, n: N, dst: N): void;
  roots(at: N, n: N): void;
  addProduct(a: N, b: N, n: N, acc: N): void;
  divideBy(a: N, b: N, n: N): void;
  addPlane(a: N, n: N, acc: N): void;
  takeWhere(e: N, best: N, src: N, n: N, dst: N): void;
  maxPlane(e: N, n: N, best: N): void;
  notePeak(e: N, best: N, n: N, last: N, lower: N, upper: N): void;
  coveredSquares(own: N, weights: N, n: N, dst: N): void;
  addAlongDepth(src: N, n: N, depth: N, k: N, dst: N, planes: N): void;
  mixByTrust(to: N, sum: N, weight: N, trust: N, n: N): void;
  cornerRoom(w: N): number;
  descriptionRoom(): number;
  cornerStrength(log: N, confidence: N, w: N, h: N, room: N, dst: N): void;
  zero(at: N, bytes: N): void;
  widenRange(src: N, n: N, above: N, below: N): void;
  holdInRange(plane: N, n: N, channel: N, above: N, below: N): void;
  peaks(plane: N, w: N, h: N, rim: N, least: N, dst: N): number;
  distancesToStronger(places: N, n: N, w: N, h: N, size: N, room: N, dst: N): void;
  describeCorner(L: N, w: N, h: N, x: N, y: N, xx: N, xy: N, yy: N, room: N, dst: N): number;
  minimumCut(w: N, h: N, terminal: N, right: N, down: N, work: N, sides: N): void;
  nearestTwo(vector: N, all: N, size: N, count: N, place: N, bests: N, likenesses: N, out: N): void;
  packWeights(src: N, n: N, dst: N): void;
  unpackWeights(src: N, n: N, dst: N): void;
  toScene(planes: N, plane: N, n: N, m: N): void;
  remapAround(src: N, dst: N, n: N, g: N, sigma: N, detail: N, edges: N): void;
  selectLevel(gauss: N, lap: N, out: N, n: N, g: N, step: N, first: N, last: N): void;
  gridRow(src: N, plane: N, w: N, y0: N, y1: N, xs: N, gw: N, sums: N, floorEv: N, dst: N): void;
  histogram(src: N, n: N, from: N, perUnit: N, bins: N, counts: N): void;
  sumOfThree(a: N, x: N, b: N, y: N, c: N, z: N, n: N, dst: N): void;
  gainLine(gain: N, product: N, mean: N, variance: N, n: N, eps: N): void;
  gainRow(
    slopes: N,
    offsets: N,
    gw: N,
    gh: N,
    gx: N,
    step: N,
    gy: N,
    n: N,
    s: N,
    line: N,
    dstSlopes: N,
    dstOffsets: N,
  ): void;
  renderRow(src: N, plane: N, n: N, slopes: N, offsets: N, s: N, table: N, kind: N, dst: N): void;
  selectSamples(
    c: N,
    cw: N,
    w: N,
    h: N,
    x0: N,
    y0: N,
    x1: N,
    y1: N,
    cell: N,
    middles: N,
    block: N,
    out: N,
  ): N;
  bestShift(
    places: N,
    turnedX: N,
    turnedY: N,
    count: N,
    c: N,
    cw: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    reach: N,
    rolled: N,
    best: N,
  ): N;
  similarityEquations(
    samples: N,
    count: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    scale: N,
    out: N,
  ): void;
  normalEquations(
    samples: N,
    count: N,
    l: N,
    lw: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    scale: N,
    out: N,
  ): void;
  logRow(src: N, n: N, logs: N, confidences: N, steps: N, ev: N, log: N, confidence: N): void;
  lightOf(log: N, n: N, gain: N, dst: N): void;
  blockSlopes(
    a: N,
    va: N,
    b: N,
    vb: N,
    w: N,
    h: N,
    m: N,
    rim: N,
    side: N,
    blocks: N,
    lines: N,
    least: N,
    out: N,
  ): void;
  foldLog(
    c: N,
    cv: N,
    l: N,
    lv: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    ghosts: N,
    gw: N,
    gh: N,
    step: N,
  ): void;
  brightest(plane: N, w: N, h: N, out: N): void;
  disagreement(
    c: N,
    cv: N,
    l: N,
    lv: N,
    w: N,
    h: N,
    m: N,
    offset: N,
    ev: N,
    trusted: N,
    clipped: N,
    slack: N,
    reduced: N,
    ringing: N,
    blocksC: N,
    blocksL: N,
    score: N,
  ): void;
}

const PAGE = 65536;
const compiled = new Map<boolean, WebAssembly.Module>();

function moduleFor(shared: boolean): WebAssembly.Module {
  let found = compiled.get(shared);
  if (!found) {
    const bytes = Uint8Array.from(atob(shared ? SHARED : PRIVATE), (c) => c.charCodeAt(0));
    compiled.set(shared, (found = new WebAssembly.Module(bytes)));
  }
  return found;
}

/** A linear memory of up to 4 GiB that grows; shared between threads when asked for. */
export function createMemory(shared: boolean): WebAssembly.Memory {
  return new WebAssembly.Memory({ initial: 2, maximum: 65536, shared });
}

/**
 * One thread's hold on the memory that the kernels work in. Rasters live at addresses given from
 * outside; short-lived buffers come from the scratch block, which `mark` and `release` use like a
 * stack.
 */
export class Heap {
  readonly k: Kernels;
  private top = PAGE;
  private end = PAGE;

  constructor(
    readonly memory: WebAssembly.Memory,
    shared: boolean,
  ) {
    this.k = new WebAssembly.Instance(moduleFor(shared), {
      env: {
        memory,
        abort() {
          throw new Error("kernel abort");
        },
      },
    }).exports as unknown as Kernels;
  }

  /** A heap of its own whose whole memory is scratch: for tests and for work on one thread. */
  static local(bytes: number): Heap {
    const heap = new Heap(createMemory(false), false);
    heap.useScratch(PAGE, bytes);
    return heap;
  }

  useScratch(ptr: number, bytes: number): void {
    this.top = (ptr + 63) & ~63;
    if (this.top < 0) this.top = Math.ceil(ptr / 64) * 64;
    this.end = ptr + bytes;
    this.ensure(this.end);
  }

  /** Grows the memory so that `end` is inside it. */
  ensure(end: number): void {
    const missing = end - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
  }

  alloc(bytes: number): number {
    const ptr = this.top;
    this.top = Math.ceil((ptr + bytes) / 64) * 64;
    if (this.top > this.end)
      throw new RangeError(`scratch of ${this.end} exceeded by ${this.top - this.end} bytes`);
    return ptr;
  }

  mark(): number {
    return this.top;
  }
  release(mark: number): void {
    this.top = mark;
  }

  f32(ptr: number, n: number): Float32Array {
    return new Float32Array(this.memory.buffer, ptr, n);
  }
  f64(ptr: number, n: number): Float64Array {
    return new Float64Array(this.memory.buffer, ptr, n);
  }
  u8(ptr: number, n: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, ptr, n);
  }
  u16(ptr: number, n: number): Uint16Array {
    return new Uint16Array(this.memory.buffer, ptr, n);
  }

  /** Samples of a frame, `n` of them. */
  samples(ptr: number, type: SampleType, n: number): Samples {
    if (type === "u8") return this.u8(ptr, n);
    if (type === "u16") return this.u16(ptr, n);
    return this.f32(ptr, n);
  }

  /** Copies values into scratch and returns their address. */
  put(values: ArrayLike<number>, as: "f32" | "f64" = "f32"): number {
    const ptr = this.alloc(values.length * (as === "f32" ? 4 : 8) + 16);
    (as === "f32" ? this.f32(ptr, values.length) : this.f64(ptr, values.length)).set(values);
    return ptr;
  }

  /** Tables from samples to light, R then G then B, as `linearise` takes them. */
  putTables(lut: Float32Array, type: SampleType): number {
    if (type !== "u8") return this.put(lut);
    const vectors = new Float32Array(768 * 4).fill(Infinity);
    for (let i = 0; i < 768; i++) {
      vectors[i * 4 + (i >> 8)] = lut[i]!;
      vectors[i * 4 + 3] = Math.min(
        1,
        Math.max(0, Math.fround(Math.fround(Math.fround(0.97) - lut[i]!) * 5.5)),
      );
    }
    return this.put(vectors);
  }

  i32(ptr: number, n: number): Int32Array {
    return new Int32Array(this.memory.buffer, ptr, n);
  }

  putBytes(values: Uint8Array): number {
    const ptr = this.alloc(values.length);
    this.u8(ptr, values.length).set(values);
    return ptr;
  }
}
