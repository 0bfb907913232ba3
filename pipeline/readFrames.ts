import { preparedRows } from "../core/frame/preparedRows";
import { prepareInto } from "./prepare/prepareInto";
import { sizeAt } from "./step";
import { decodedBytes, type StackFrame, type Work } from "./work";
import { type LoadedFrame } from "./loadedFrame";
import { type Watch } from "../runtime/work";
import { decodingAllowance } from "./allowance";
import { TaskScope } from "../runtime/taskScope";

/**
 * Reads a frame at 1/downscale of its size into the workers' memory, prepared as it asks for; give
 * its address back.
 *
 * @param rows  all that is wanted of it
 */
export async function decodeInto(
  work: Work,
  frame: StackFrame,
  downscale: number,
  signal?: AbortSignal,
  rows?: readonly [number, number],
): Promise<LoadedFrame> {
  const { preparation, info } = frame;
  if (!preparation) return decodeAsItIs(work, frame, downscale, signal, rows);
  await using scope = new TaskScope(work);
  const size = sizeAt(info, downscale);
  const needed = rows && preparedRows(preparation, size, rows, downscale);
  const loaded = await decodeAsItIs(scope, frame, downscale, signal, needed);
  const prepared = await prepareInto(scope, loaded, preparation, size, rows, downscale, signal);
  scope.keep(prepared.ptr);
  return prepared;
}

/** Px of the blocks in which JPEG packs brightness. */
const JPEG_BLOCK = 8;

async function decodeAsItIs(
  work: Work,
  frame: StackFrame,
  downscale: number,
  signal?: AbortSignal,
  rows?: readonly [number, number],
): Promise<LoadedFrame> {
  await using scope = new TaskScope(work);
  const { info, source } = frame;
  const bytes = decodedBytes(info, downscale, rows && rows[1] - rows[0]);
  const ptr = scope.allocate(bytes);
  const decoded = await scope.run(
    "decode",
    {
      source,
      downscale,
      dst: ptr,
      bytes,
      width: sizeAt(info, downscale).width,
      ...(rows ? { rows } : {}),
    },
    {
      subject: source.name,
      allowanceMs: decodingAllowance(info),
      ...(signal ? { signal } : {}),
    },
  );
  scope.keep(ptr);
  const block = info.format === "jpeg" ? { block: Math.max(1, JPEG_BLOCK / downscale) } : {};
  return { ptr, ...block, ...decoded };
}

/** Reads all frames reduced. When one fails, none is held and its error is thrown. */
export async function decodeReduced(
  work: Work,
  frames: readonly StackFrame[],
  downscale: number,
  { progress, signal }: Watch,
): Promise<LoadedFrame[]> {
  await using scope = new TaskScope(work);
  let done = 0;
  const loaded = await Promise.all(
    frames.map(async (f) => {
      const frame = await decodeInto(scope, f, downscale, signal);
      progress(++done / frames.length, `Reading frames, ${done} of ${frames.length}`);
      return frame;
    }),
  );
  scope.keep(...loaded.map(({ ptr }) => ptr));
  return loaded;
}
