import { readFile } from "node:fs/promises";
import { parentPort } from "node:worker_threads";
import { anyCodec } from "../../codecs/anyCodec";
import type { LibRaw } from "../../codecs/rawCodec";
import { vipsCodec } from "../../codecs/vipsCodec";
import { RhizomeError } from "../../core/error";
import { serveTasks } from "./serveTasks";

// what libraries remark on odd or damaged files is no output of the command: what matters is
// answered with errors
console.warn = () => undefined;

const codec = anyCodec({
  // damaged files are answered with errors; the library need not warn of them as well
  vips: async (modules) =>
    vipsCodec(
      await (
        await import("wasm-vips")
      ).default({
        dynamicLibraries: [...modules],
        preRun: (m) => {
          (m as unknown as { ENV: Record<string, string> }).ENV["VIPS_WARNING"] = "1";
        },
      }),
    ),
  async libraw() {
    const script = import.meta.resolve("libraw-wasm/dist/libraw.js");
    const { default: load } = (await import(script)) as { default: (o: object) => Promise<LibRaw> };
    return load({
      wasmBinary: await readFile(new URL("libraw.wasm", script)),
      print: () => undefined,
      printErr: () => undefined,
    });
  },
});
const handle = serveTasks(
  (reply, transfer) => parentPort!.postMessage(reply, transfer),
  codec,
  async (source) => {
    try {
      return new Uint8Array(await readFile(source.path!));
    } catch (e) {
      throw new RhizomeError(
        "unreadable",
        `${source.name} cannot be opened: ${(e as NodeJS.ErrnoException).code ?? "unknown reason"}.`,
        "check the path and the rights to it",
      );
    }
  },
);
parentPort!.on("message", handle);
