import type { SampleType } from "../../kernels/heap";
import { RhizomeError } from "../error";
import type { FrameInfo } from "../frame/frame";
import type { StepTasks } from "./tasks";

/** Where a frame's bytes are; the host knows more of it. */
export interface Source { name: string }
export interface StackFrame<S extends Source = Source> { id: string; /** hash of its bytes */ content: string; source: S; info: FrameInfo }
/** Called with the share done of all work (0..1), and what is being done. */
export type Progress = (share: number, doing: string) => void;
export interface Watch { progress: Progress; signal?: AbortSignal }

/** Samples in the workers' memory. */
export interface HeldSamples { ptr: number; width: number; height: number; type: SampleType; lut: Float32Array; matrix: number[] }

/** What the host does for the steps besides their own tasks: reading files. */
export interface HostTasks { decode(context: never, a: { source: Source; shrink: number; dst: number; bytes: number }): Promise<Omit<HeldSamples, "ptr">> }
type AllTasks = StepTasks & HostTasks;

export interface RunOptions { /** bytes of scratch the task needs */ scratch?: number; /** before waiting work */ urgent?: boolean; signal?: AbortSignal }

/** The workers as the steps see them: threads over one memory that is handed out by address. */
export interface Work {
  readonly threads: number;
  /** @throws RhizomeError `memory-full` */
  take(bytes: number): number;
  give(at: number): void;
  run<K extends keyof AllTasks>(task: K, args: Parameters<AllTasks[K]>[1], options?: RunOptions): Promise<Awaited<ReturnType<AllTasks[K]>>>;
  /** Waits until no thread works, so that memory can be given back safely after a stop. */
  idle(): Promise<void>;
}

/** Rows cut into about `parts` strips of whole sixteens. */
export const rowsOf = (height: number, parts: number): [number, number][] => {
  const step = Math.max(16, Math.ceil(height / parts / 16) * 16);
  return Array.from({ length: Math.ceil(height / step) }, (_, i) => [i * step, Math.min(height, (i + 1) * step)]);
};

/** Long edge of the frames as they are aligned, and of the picture that is shown while one works on it. */
export const WORK_EDGE = 1600;

/** The power of two by which a frame is reduced so that it is at most `longEdge` px long; 8 at most. */
export function shrinkTo(info: FrameInfo, longEdge: number): number {
  let s = 1;
  while (s < 8 && Math.max(info.width, info.height) / s > longEdge) s *= 2;
  return s;
}

/** Bytes that a sample takes once it is decoded: half floats become floats, and a table profile is turned to 16 bit. */
const decodedSample = ({ format, depth, profile }: FrameInfo): number => (depth === 32 || format === "exr" ? 4 : depth === 16 || profile === "embedded profile" ? 2 : 1);
/** The decoder rounds a reduced size up. */
export const decodedBytes = (info: FrameInfo, shrink: number): number => Math.ceil(info.width / shrink + 1) * Math.ceil(info.height / shrink + 1) * 3 * decodedSample(info);

/** Reads a frame at 1/shrink of its size into the workers' memory; give its address back. */
export async function decodeInto(work: Work, frame: StackFrame, shrink: number, signal?: AbortSignal): Promise<HeldSamples> {
  const bytes = decodedBytes(frame.info, shrink), ptr = work.take(bytes);
  try {
    return { ptr, ...(await work.run("decode", { source: frame.source, shrink, dst: ptr, bytes }, { ...(signal ? { signal } : {}) })) };
  } catch (e) {
    if (!signal?.aborted) work.give(ptr);
    else void work.idle().then(() => work.give(ptr));
    throw e;
  }
}

/** Reads all frames reduced. When one fails, none is held and its error is thrown. */
export async function decodeReduced(work: Work, frames: readonly StackFrame[], shrink: number, { progress, signal }: Watch): Promise<HeldSamples[]> {
  let done = 0;
  const results = await Promise.allSettled(frames.map(async (f) => {
    const held = await decodeInto(work, f, shrink, signal);
    progress(++done / frames.length, `Reading frames, ${done} of ${frames.length}`);
    return held;
  }));
  const failed = results.find((r) => r.status === "rejected");
  if (failed) {
    await work.idle();
    for (const r of results) if (r.status === "fulfilled") work.give(r.value.ptr);
    throw failed.reason;
  }
  return results.map((r) => (r as PromiseFulfilledResult<HeldSamples>).value);
}

export function checkSizes(frames: readonly StackFrame[], reference: number): void {
  const r = frames[reference]!.info;
  for (const f of frames) if (f.info.width !== r.width || f.info.height !== r.height) {
    throw new RhizomeError("size-mismatch", `${f.info.name} is ${f.info.width} x ${f.info.height} px, ${r.name} is ${r.width} x ${r.height}.`, "leave that frame out, or put it into a stack of its own");
  }
}
