import { createMemory } from "../../kernels/heap";
import type { Host } from "../worker";
import { clamp } from "../../core/math/clamp";
import { isHelperRequest, type HelperStart } from "./helperThreads";
import { sharesMemory } from "./sharesMemory";

/** How long a worker that was ended may still be at its last instructions, ms. */
const ENDING_MS = 100;

/** A thread for a library of a worker; libraries know theirs by this name. */
const startHelper = (): Worker =>
  new Worker(new URL("./helperWorker.ts", import.meta.url), { type: "module", name: "em-pthread" });

/**
 * Web workers; where they may share memory they have one, elsewhere there is one worker with its own.
 *
 * @param start  starts one with the application's tasks
 */
export function webHost(start: () => Worker): Host {
  const isShared = sharesMemory();
  return {
    threads: isShared ? clamp(navigator.hardwareConcurrency || 2, 1, 8) : 1,
    ...(isShared ? { memory: createMemory(true) } : {}),
    spawn() {
      const w = start();
      const helpers: Worker[] = [];
      const help = ({ url, port }: HelperStart): void => {
        const helper = startHelper();
        helpers.push(helper);
        helper.postMessage({ url, port } satisfies HelperStart, [port]);
      };
      return {
        post: (m) => w.postMessage(m),
        onReply: (f) => {
          w.onmessage = ({ data }: MessageEvent) => (isHelperRequest(data) ? help(data) : f(data));
        },
        onLost: (f) => {
          w.onerror = (e) => {
            e.preventDefault();
            f(e.message || "the worker could not be started");
          };
        },
        async close() {
          for (const thread of [w, ...helpers]) thread.terminate();
          // nothing tells when its thread has really ended
          await new Promise((ended) => setTimeout(ended, ENDING_MS));
        },
      };
    },
  };
}
