/** What the browser says about what it stores: kept, kept as long as there is room, or nothing. */
export type Promised = "kept" | "asLongAsThereIsRoom" | "unknown";

/** Whether the browser promised to keep what is stored. */
export async function promised(): Promise<Promised> {
  if (!navigator.storage?.persisted) return "unknown";
  return (await navigator.storage.persisted()) ? "kept" : "asLongAsThereIsRoom";
}

/** Asks the browser to keep what is stored, whatever else needs room. */
export async function askToKeep(): Promise<Promised> {
  const { storage } = navigator;
  if (!storage?.persist) return "unknown";
  return (await storage.persist().catch(() => false)) ? "kept" : promised();
}

/** Bytes that are used and granted; undefined where the browser does not tell. */
export async function storageEstimate(): Promise<{ used: number; granted: number } | undefined> {
  const estimate = await navigator.storage?.estimate?.().catch(() => undefined);
  const { usage, quota } = estimate ?? {};
  return usage === undefined || quota === undefined ? undefined : { used: usage, granted: quota };
}
