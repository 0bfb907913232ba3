/**
 * Stands in for the headers that a plain web server does not send: with them the page may share
 * memory between its workers. Where the server sends them itself this is never installed. Pages
 * that such a server does not know are answered with the application, which knows them.
 */
const scope = self as unknown as {
  addEventListener(
    type: string,
    listener: (e: {
      request: Request;
      respondWith(r: Promise<Response>): void;
      waitUntil(p: Promise<unknown>): void;
    }) => void,
  ): void;
  skipWaiting(): Promise<void>;
  clients: { claim(): Promise<void> };
  location: Location;
};

scope.addEventListener("install", () => void scope.skipWaiting());
scope.addEventListener("activate", (e) => e.waitUntil(scope.clients.claim()));
scope.addEventListener("fetch", (e) => {
  const { request } = e;
  if (
    new URL(request.url).origin !== scope.location.origin ||
    (request.cache === "only-if-cached" && request.mode !== "same-origin")
  )
    return;
  e.respondWith(answer(request));
});

async function answer(request: Request): Promise<Response> {
  let response = await fetch(request);
  if (request.mode === "navigate" && response.status === 404) response = await fetch("/");
  if (response.status === 0) return response;
  const headers = new Headers(response.headers);
  headers.set("Cross-Origin-Opener-Policy", "same-origin");
  headers.set("Cross-Origin-Embedder-Policy", "require-corp");
  headers.set("Cross-Origin-Resource-Policy", "same-origin");
  const empty = [101, 204, 205, 304].includes(response.status);
  return new Response(empty ? null : response.body, {
    status: response.status,
    statusText: response.statusText,
    headers,
  });
}
