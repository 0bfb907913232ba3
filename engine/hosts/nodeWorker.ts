import { readFile } from "node:fs/promises";
import { parentPort } from "node:worker_threads";
import { vipsCodec } from "../../codecs/vipsCodec";
import { RhizomeError } from "../../core/error";
import { serve } from "../worker/serve";

// damaged files are answered with errors; the library need not warn of them as well
const handle = serve(
  (reply, transfer) => parentPort!.postMessage(reply, transfer),
  async () => vipsCodec(await (await import("wasm-vips")).default({ dynamicLibraries: [], preRun: (m) => { (m as unknown as { ENV: Record<string, string> }).ENV["VIPS_WARNING"] = "1"; } })),
  async (source) => {
    try {
      return new Uint8Array(await readFile(source.path!));
    } catch (e) {
      throw new RhizomeError("unreadable", `${source.name} cannot be opened: ${(e as NodeJS.ErrnoException).code ?? "unknown reason"}.`, "check the path and the rights to it");
    }
  },
);
parentPort!.on("message", handle);
