import { PRIVATE, SHARED } from "./generated/wasm";
import type { Kernels } from "./kernels";

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
