import { preparedRows } from "../core/frame/preparedRows";
import { prepareInto } from "./prepare/prepareInto";
import { sizeAt } from "./step";
import { decodedBytes, type LoadedFrame, type StackFrame, type Work } from "./work";
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
  const size = sizeAt(info, downscale);
  return prepareInto(
    work,
    await decodeAsItIs(
      work,
      frame,
      downscale,
      signal,
      rows && preparedRows(preparation, size, rows, downscale),
    ),
    preparation,
    size,
    rows,
    downscale,
    signal,
  );
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
  const bytes = decodedBytes(frame.info, downscale, rows && rows[1] - rows[0]);
  const ptr = work.allocate(bytes);
  const { result, ended } = work.start(
    "decode",
    {
      source: frame.source,
      downscale,
      dst: ptr,
      bytes,
      width: sizeAt(frame.info, downscale).width,
      ...(rows ? { rows } : {}),
    },
    {
      subject: frame.source.name,
      allowanceMs: decodingAllowance(frame.info),
      ...(signal ? { signal } : {}),
    },
  );
  try {
    const block =
      frame.info.format === "jpeg" ? { block: Math.max(1, JPEG_BLOCK / downscale) } : {};
    return { ptr, ...block, ...(await result) };
  } catch (e) {
    void ended.then(() => work.free(ptr));
    throw e;
  }
}

/** Reads all frames reduced. When one fails, none is held and its error is thrown. */
export async function decodeReduced(
  work: Work,
  frames: readonly StackFrame[],
  downscale: number,
  { progress, signal }: Watch,
): Promise<LoadedFrame[]> {
  const reading = new TaskScope(work);
  let done = 0;
  const results = await Promise.allSettled(
    frames.map(async (f) => {
      const loaded = await decodeInto(reading, f, downscale, signal);
      progress(++done / frames.length, `Reading frames, ${done} of ${frames.length}`);
      return loaded;
    }),
  );
  const failed = results.find((r) => r.status === "rejected");
  if (failed) {
    await reading.idle();
    for (const r of results) if (r.status === "fulfilled") work.free(r.value.ptr);
    throw failed.reason;
  }
  return results.map((r) => (r as PromiseFulfilledResult<LoadedFrame>).value);
}
