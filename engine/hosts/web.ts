import { createMemory } from "../../kernels/heap";
import type { Host } from "../pool";
import { clamp } from "../../core/math/clamp";

/**
 * Web workers; with cross-origin isolation they share one memory, without it there is one worker
 * with its own.
 */
export function webHost(): Host {
  const isolated = globalThis.crossOriginIsolated === true;
  return {
    threads: isolated ? clamp(navigator.hardwareConcurrency || 2, 1, 8) : 1,
    ...(isolated ? { memory: createMemory(true) } : {}),
    spawn() {
      const w = new Worker(new URL("./webWorker.ts", import.meta.url), { type: "module" });
      return {
        post: (m) => w.postMessage(m),
        onReply: (f) => {
          w.onmessage = (e) => f(e.data);
        },
        onLost: (f) => {
          w.onerror = (e) => {
            e.preventDefault();
            f(e.message || "the worker could not be started");
          };
        },
        close: () => w.terminate(),
      };
    },
  };
}
