/** What a service worker that waits is told, so that it takes over. */
export const USE_NOW = "use the new version now";
const SERVICE_WORKER = "/serviceWorker.js";

/** The service worker; undefined where there is none: while developing, or without HTTPS. */
export async function registered(): Promise<ServiceWorkerRegistration | undefined> {
  if (!import.meta.env.PROD || !globalThis.isSecureContext) return undefined;
  if (!("serviceWorker" in navigator)) return undefined;
  return navigator.serviceWorker.register(SERVICE_WORKER);
}

/**
 * Watches for a new version.
 *
 * @param onReady  is told each version that waits
 * @returns watches no more
 */
export function watchUpdates(onReady: (waiting: ServiceWorker) => void): () => void {
  let isOver = false;
  let registration: ServiceWorkerRegistration | undefined;
  const tell = (): void => {
    const waiting = registration?.waiting;
    // at the very first visit nothing is new
    if (waiting && navigator.serviceWorker.controller && !isOver) onReady(waiting);
  };
  const look = (): void => {
    if (document.visibilityState === "visible") void registration?.update().catch(() => undefined);
  };
  void registered()
    .then((own) => {
      registration = own;
      tell();
      own?.addEventListener("updatefound", () =>
        own.installing?.addEventListener("statechange", tell),
      );
    })
    .catch(() => undefined);
  document.addEventListener("visibilitychange", look);
  return () => {
    isOver = true;
    document.removeEventListener("visibilitychange", look);
  };
}

/** Lets a version that waits take over, and opens the page with it. */
export function takeVersion(waiting: ServiceWorker): void {
  navigator.serviceWorker.addEventListener("controllerchange", () => location.reload(), {
    once: true,
  });
  waiting.postMessage(USE_NOW);
}
