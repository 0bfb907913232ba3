import { readFile } from "node:fs/promises";
import { parentPort } from "node:worker_threads";
import { vipsCodec } from "../../codecs/vipsCodec";
import { RhizomeError } from "../../core/error";
import { serve } from "../worker/serve";

const handle = serve(
  (reply, transfer) => parentPort!.postMessage(reply, transfer),
  async () => vipsCodec(await (await import("wasm-vips")).default({ dynamicLibraries: [], print: () => undefined, printErr: () => undefined })),
  async (source) => {
    try {
      return new Uint8Array(await readFile(source.path!));
    } catch (e) {
      throw new RhizomeError("unreadable", `${source.name} cannot be opened: ${(e as NodeJS.ErrnoException).code ?? "unknown reason"}.`, "check the path and the rights to it");
    }
  },
);
parentPort!.on("message", handle);
