import type { HelperStart } from "./helperThreads";

/** A thread of a library that belongs to a worker: it hears that worker, and not the page. */
const scope = self as unknown as {
  onmessage: ((event: MessageEvent) => void) | null;
  postMessage: (message: unknown, transfer?: Transferable[]) => void;
};

scope.onmessage = async ({ data: { url, port } }: MessageEvent<HelperStart>) => {
  scope.onmessage = null;
  scope.postMessage = (message, transfer = []) => port.postMessage(message, transfer);
  await import(/* @vite-ignore */ url);
  // what was said meanwhile has waited
  port.onmessage = (event) => scope.onmessage?.(event);
};
