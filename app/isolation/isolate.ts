const TRIED = "rhizome:isolation-tried";

/**
 * Makes sure that the page may share memory between workers. Served without the headers for it, the
 * page installs a service worker that adds them and loads once more; where that is not possible
 * either (no secure context), it goes on, and what needs shared memory says so.
 */
export async function isolate(): Promise<void> {
  if (
    globalThis.crossOriginIsolated ||
    !globalThis.isSecureContext ||
    !("serviceWorker" in navigator) ||
    sessionStorage.getItem(TRIED)
  )
    return;
  sessionStorage.setItem(TRIED, "1");
  await navigator.serviceWorker.register("/isolate.js");
  await navigator.serviceWorker.ready;
  location.reload();
}
