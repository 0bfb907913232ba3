import { prepareInto } from "./prepare/prepareInto";
import { decodedBytes, type HeldSamples, type StackFrame, type Watch, type Work } from "./work";

/** Reads a frame at 1/shrink of its size into the workers' memory, prepared as it asks for; give its address back. */
export async function decodeInto(work: Work, frame: StackFrame, shrink: number, signal?: AbortSignal): Promise<HeldSamples> {
  const held = await decodeAsItIs(work, frame, shrink, signal);
  return frame.preparation ? prepareInto(work, held, frame.preparation, shrink, signal) : held;
}

/** Px of the blocks in which JPEG packs brightness. */
const JPEG_BLOCK = 8;

async function decodeAsItIs(work: Work, frame: StackFrame, shrink: number, signal?: AbortSignal): Promise<HeldSamples> {
  const bytes = decodedBytes(frame.info, shrink), ptr = work.take(bytes);
  try {
    return { ptr, ...(frame.info.format === "jpeg" ? { block: Math.max(1, JPEG_BLOCK / shrink) } : {}), ...(await work.run("decode", { source: frame.source, shrink, dst: ptr, bytes }, { ...(signal ? { signal } : {}) })) };
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
