import * as v from "valibot";

/** What one tab tells the others. */
const MessageSchema = v.variant("what", [
  v.object({ what: v.literal("changed") }),
  v.object({ what: v.literal("shoot deleted"), shoot: v.string() }),
]);
export type TabMessage = v.InferOutput<typeof MessageSchema>;

let opened: BroadcastChannel | undefined;
/** Opened when it is first needed; undefined where there are no other tabs. */
const channel = (): BroadcastChannel | undefined =>
  typeof BroadcastChannel === "undefined"
    ? undefined
    : (opened ??= new BroadcastChannel("rhizome"));

/** Tells all other tabs. */
export const tellTabs = (message: TabMessage): void => channel()?.postMessage(message);

/** Hears what other tabs tell. @returns hears it no more */
export function onTabMessage(listener: (message: TabMessage) => void): () => void {
  const hear = ({ data }: MessageEvent): void => {
    const read = v.safeParse(MessageSchema, data);
    if (read.success) listener(read.output);
  };
  channel()?.addEventListener("message", hear);
  return () => channel()?.removeEventListener("message", hear);
}
