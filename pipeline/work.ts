import type { FrameInfo } from "../core/frame/frame";
import type { Preparation } from "../core/frame/preparation";
import type { LoadedFrame } from "./loadedFrame";
import type { StepTasks } from "./tasks";
import type { Runtime } from "../runtime/work";
import { RhizomeError } from "../core/error";

/** Where a frame's bytes are; the host knows more of it. */
export interface Source {
  name: string;
}
export interface StackFrame<S extends Source = Source> {
  id: string;
  /** hash of its bytes */
  content: string;
  source: S;
  info: FrameInfo;
  /** what is done to it as it is read */
  preparation?: Preparation;
}
/** What tells one frame, as it is read, from every other. */
export const frameKey = (f: Pick<StackFrame, "content" | "preparation">): string =>
  f.preparation ? `${f.content} ${JSON.stringify(f.preparation)}` : f.content;

/** What the host does for the steps besides their own tasks: reading files. */
export interface HostTasks {
  decode(
    context: never,
    a: {
      source: Source;
      downscale: number;
      dst: number;
      bytes: number;
      /** of the frame at this size, px */
      width: number;
      rows?: readonly [number, number];
    },
  ): Promise<Omit<LoadedFrame, "ptr">>;
}

/** The workers as the steps see them. */
export type WorkTasks = StepTasks & HostTasks;
export type Work = Runtime<WorkTasks>;

/**
 * Long edge of the frames as they are aligned, and of the picture that is shown while one works on
 * it.
 */
export const WORK_EDGE = 1600;

/**
 * The power of two by which a frame is reduced so that it is at most `longEdge` px long; 8 at most.
 */
export function downscaleTo(info: FrameInfo, longEdge: number): number {
  let s = 1;
  while (s < 8 && Math.max(info.width, info.height) / s > longEdge) s *= 2;
  return s;
}

/**
 * Bytes that a sample takes once it is decoded: half floats become floats, and a table profile is
 * turned to 16 bit.
 */
const decodedSample = ({ format, depth, profile }: FrameInfo): number => {
  if (depth === 32 || format === "exr") return 4;
  if (depth === 16 || profile === "embedded profile") return 2;
  return 1;
};
/** The decoder rounds a reduced size up. @param rows  how many are read, if not all */
export const decodedBytes = (
  info: FrameInfo,
  downscale: number,
  rows = Math.ceil(info.height / downscale + 1),
): number => Math.ceil(info.width / downscale + 1) * rows * 3 * decodedSample(info);

/**
 * Refuses frames of another size than the reference frame's.
 *
 * @throws RhizomeError `size-mismatch`, naming the frame
 */
export function checkSizes(frames: readonly StackFrame[], reference: number): void {
  const r = frames[reference]!.info;
  for (const f of frames)
    if (f.info.width !== r.width || f.info.height !== r.height) {
      throw new RhizomeError(
        "size-mismatch",
        `${f.info.name} is ${f.info.width} x ${f.info.height} px, ${r.name} is ${r.width} x ${r.height}.`,
        "leave that frame out, or put it into a stack of its own",
      );
    }
}
