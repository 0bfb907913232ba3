import { cleanupOutdatedCaches, matchPrecache, precache } from "workbox-precaching";
import { keepShared, SHARED_ADDRESS } from "./shared";
import { USE_NOW } from "./update";

/**
 * Keeps the application, so that it starts without its server: the page, its modules, the wasm of
 * the codecs and the fonts; not the demo's frames. It also stands in for the headers that a plain
 * web server does not send: with them the page may share memory between its workers. A new version
 * waits until the user takes it.
 */
const scope = self as unknown as {
  addEventListener(type: "activate", listener: (e: ExtendableEvent) => void): void;
  addEventListener(type: "message", listener: (e: MessageEvent) => void): void;
  addEventListener(type: "fetch", listener: (e: FetchEvent) => void): void;
  skipWaiting(): Promise<void>;
  clients: { claim(): Promise<void> };
  location: Location;
};
interface ExtendableEvent {
  waitUntil(work: Promise<unknown>): void;
}
interface FetchEvent extends ExtendableEvent {
  request: Request;
  respondWith(response: Promise<Response>): void;
}

/** Every file of the application with a mark that changes with it; filled in when it is built. */
declare const APPLICATION_FILES: { url: string; revision: string | null }[];

const PAGE = "/index.html";

precache(APPLICATION_FILES);
cleanupOutdatedCaches();

scope.addEventListener("activate", (e) => e.waitUntil(scope.clients.claim()));
scope.addEventListener("message", ({ data }) => {
  if (data === USE_NOW) void scope.skipWaiting();
});
scope.addEventListener("fetch", (e) => {
  const { request } = e;
  const { origin, pathname } = new URL(request.url);
  if (origin !== scope.location.origin) return;
  if (request.cache === "only-if-cached" && request.mode !== "same-origin") return;
  if (request.method === "POST" && pathname === SHARED_ADDRESS) e.respondWith(keepShared(request));
  else if (request.method === "GET") e.respondWith(answer(request));
});

async function answer(request: Request): Promise<Response> {
  const address = request.mode === "navigate" ? PAGE : request.url;
  const response = (await matchPrecache(address)) ?? (await fromServer(request));
  return response.status === 0 ? response : isolated(response);
}

async function fromServer(request: Request): Promise<Response> {
  const response = await fetch(request);
  // a page that a plain server does not know is the application's, which knows it
  if (request.mode === "navigate" && response.status === 404) return fetch("/");
  return response;
}

/** Statuses whose answers have no body. */
const EMPTY = [101, 204, 205, 304];

/** The same answer with the headers by which the page may share memory. */
function isolated(response: Response): Response {
  const headers = new Headers(response.headers);
  headers.set("Cross-Origin-Opener-Policy", "same-origin");
  headers.set("Cross-Origin-Embedder-Policy", "require-corp");
  headers.set("Cross-Origin-Resource-Policy", "same-origin");
  const { status, statusText } = response;
  const body = EMPTY.includes(status) ? null : response.body;
  return new Response(body, { status, statusText, headers });
}
