import { registered } from "./update";

const TRIED = "rhizome:isolation-tried";

/**
 * Makes sure that the page may share memory between workers. Served without the headers for it, the
 * page waits for its service worker, which adds them, and loads once more; where that is not
 * possible either (no secure context), it goes on, and what needs shared memory says so.
 */
export async function isolate(): Promise<void> {
  if (globalThis.crossOriginIsolated || sessionStorage.getItem(TRIED)) return;
  if (!(await registered())) return;
  sessionStorage.setItem(TRIED, "1");
  await navigator.serviceWorker.ready;
  location.reload();
}
