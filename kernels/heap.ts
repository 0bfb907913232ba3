import { PRIVATE, SHARED } from "./generated/wasm";

type N = number;

/** What the compiled kernels export; pointers are byte addresses in the heap's memory. */
export interface Kernels {
  linearise(src: N, wide: N, n: N, lut: N, dst: N): void;
  foldUntouched(src: N, n: N, ghosts: N, acc: N, plane: N, at: N, time: N, invGain: N, read2: N, floorVote: N): void;
  foldWarped(src: N, srcW: N, srcH: N, srcY0: N, srcRows: N, y: N, n: N, h: N, ghosts: N, acc: N, plane: N, at: N,
    time: N, invGain: N, read2: N, floorVote: N): void;
  finaliseRadiance(acc: N, plane: N, n: N, m: N): void;
  pyrDown(src: N, w: N, h: N, dst: N, row: N): void;
  pyrUp(coarse: N, w: N, h: N, base: N, dst: N, sign: N, row: N): void;
  logLuminance(src: N, plane: N, n: N, wr: N, wg: N, wb: N, floorEv: N, dst: N): void;
  remapAround(src: N, dst: N, n: N, g: N, sigma: N, detail: N, edges: N): void;
  selectLevel(gauss: N, lap: N, out: N, n: N, g: N, step: N, first: N, last: N): void;
  renderRow(src: N, plane: N, n: N, slopes: N, offsets: N, s: N, kind: N, dst: N): void;
  similarityEquations(c: N, cw: N, l: N, lw: N, w: N, h: N, m: N, offset: N, scale: N, step: N, out: N): void;
  normalEquations(c: N, cw: N, l: N, lw: N, w: N, h: N, m: N, offset: N, scale: N, step: N, out: N): void;
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
 * One thread's hold on the memory that the kernels work in. Rasters live at addresses given from outside;
 * short-lived buffers come from the scratch block, which `mark` and `release` use like a stack.
 */
export class Heap {
  readonly k: Kernels;
  private top = PAGE;
  private end = PAGE;

  constructor(readonly memory: WebAssembly.Memory, shared: boolean) {
    this.k = new WebAssembly.Instance(moduleFor(shared), { env: { memory, abort() { throw new Error("kernel abort"); } } }).exports as unknown as Kernels;
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
    if (this.top > this.end) throw new RangeError(`scratch of ${this.end} exceeded by ${this.top - this.end} bytes`);
    return ptr;
  }

  mark(): number { return this.top; }
  release(mark: number): void { this.top = mark; }

  f32(ptr: number, n: number): Float32Array { return new Float32Array(this.memory.buffer, ptr, n); }
  f64(ptr: number, n: number): Float64Array { return new Float64Array(this.memory.buffer, ptr, n); }
  u8(ptr: number, n: number): Uint8Array { return new Uint8Array(this.memory.buffer, ptr, n); }
  u16(ptr: number, n: number): Uint16Array { return new Uint16Array(this.memory.buffer, ptr, n); }

  /** Copies values into scratch and returns their address. */
  put(values: ArrayLike<number>, as: "f32" | "f64" = "f32"): number {
    const ptr = this.alloc(values.length * (as === "f32" ? 4 : 8) + 16);
    (as === "f32" ? this.f32(ptr, values.length) : this.f64(ptr, values.length)).set(values);
    return ptr;
  }
}
