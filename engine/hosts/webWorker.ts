import { RhizomeError } from "../../core/error";
import { vipsCodec } from "../../codecs/vipsCodec";
import { serve } from "../worker/serve";

const scope = self as unknown as { postMessage(m: unknown, t: Transferable[]): void; onmessage: ((e: MessageEvent) => void) | null };

const handle = serve(
  (reply, transfer) => scope.postMessage(reply, transfer),
  async () => {
    if (!globalThis.crossOriginIsolated) {
      throw new RhizomeError("not-isolated", "This browser page may not share memory between threads, which reading and writing pictures needs.", "open Rhizome from its own server, in a current browser");
    }
    // served beside the application as it is: it starts threads from its own file
    const url = new URL("/vips/vips-es6.js", self.location.origin).href;
    const load = (await import(/* @vite-ignore */ url)) as { default: (o: object) => Promise<never> };
    return vipsCodec(await load.default({ dynamicLibraries: [], print: () => undefined, printErr: () => undefined }));
  },
  async (source) => {
    if (!source.blob) throw new RhizomeError("unreadable", `${source.name} is no longer in storage.`, "bring it in again");
    return new Uint8Array(await source.blob.arrayBuffer());
  },
);
scope.onmessage = (e) => handle(e.data);
