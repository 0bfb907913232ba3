import { anyCodec } from "../../codecs/anyCodec";
import type { LibRaw } from "../../codecs/rawCodec";
import { vipsCodec } from "../../codecs/vipsCodec";
import { RhizomeError } from "../../core/error";
import { pageWorker } from "../../runtime/hosts/helperThreads";
import { sharesMemory } from "../../runtime/hosts/sharesMemory";
import { serveTasks } from "./serveTasks";

const scope = self as unknown as {
  postMessage(m: unknown, t: Transferable[]): void;
  onmessage: ((e: MessageEvent) => void) | null;
};
const quiet = { print: () => undefined, printErr: () => undefined };

/**
 * A library that is served beside the application as it is: it finds its own parts from its own
 * address.
 */
async function beside<T>(path: string): Promise<(options: object) => Promise<T>> {
  if (!sharesMemory()) {
    throw new RhizomeError(
      "not-isolated",
      "This browser lets no threads of a page share memory, which reading and writing pictures needs.",
      "open Rhizome from its own server, in a current Chrome, Edge or Firefox",
    );
  }
  const url = new URL(path, self.location.origin).href;
  return ((await import(/* @vite-ignore */ url)) as { default: (options: object) => Promise<T> })
    .default;
}

// libraries start threads by this name
globalThis.Worker = pageWorker((request, transfer) =>
  scope.postMessage(request, transfer),
) as unknown as typeof Worker;

const codec = anyCodec({
  vips: async (modules) => {
    const load = await beside<never>("/vips/vips-es6.js");
    const options = { ...quiet, dynamicLibraries: [...modules] };
    return vipsCodec(await load(options));
  },
  libraw: async () => {
    const load = await beside<LibRaw>("/libraw/libraw.js");
    return load(quiet);
  },
});
const handle = serveTasks(
  (reply, transfer) => scope.postMessage(reply, transfer),
  codec,
  async (source) => {
    if (!source.blob)
      throw new RhizomeError(
        "unreadable",
        `${source.name} is no longer in storage.`,
        "bring it in again",
      );
    return new Uint8Array(await source.blob.arrayBuffer());
  },
  (parts) => new Blob(parts),
);
scope.onmessage = (e) => handle(e.data);
