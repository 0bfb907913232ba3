import { availableParallelism } from "node:os";
import { Worker } from "node:worker_threads";
import { createMemory } from "../../kernels/heap";
import type { Host } from "../worker";

/** Worker threads of Node with one shared memory. @param script  file URL of the built worker */
export function nodeHost(script: URL, threads = availableParallelism()): Host {
  return {
    threads,
    memory: createMemory(true),
    spawn() {
      const w = new Worker(script);
      return {
        post: (m) => w.postMessage(m),
        onReply: (f) => {
          w.on("message", f);
        },
        onLost: (f) => {
          w.on("error", (e) => f(e.message));
          w.on("exit", (code) => {
            if (code) f(`exit ${code}`);
          });
        },
        async close() {
          await w.terminate();
        },
      };
    },
  };
}
