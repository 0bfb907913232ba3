import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import type { Report } from "../work/jobs";
import { SheetAnswerSchema, type SheetOrder } from "./messages";

/**
 * Draws a contact sheet in a worker of its own.
 *
 * @returns a PDF, or a JPEG for each page
 * @throws RhizomeError `sheet-failed`, `stopped`
 */
export function makeSheet(
  order: SheetOrder,
  { progress }: Pick<Report, "progress">,
  signal: AbortSignal,
): Promise<Blob[]> {
  const worker = new Worker(new URL("./sheetWorker.ts", import.meta.url), { type: "module" });
  const failed = (why: string): RhizomeError =>
    new RhizomeError("sheet-failed", `The contact sheet was not made: ${why}.`, "try again");
  return new Promise<Blob[]>((resolve, reject) => {
    worker.onerror = (e) => reject(failed(e.message));
    worker.onmessage = ({ data }) => {
      const answer = v.parse(SheetAnswerSchema, data);
      if (answer.what === "done") resolve(answer.files);
      else if (answer.what === "failed") reject(failed(answer.message));
      else progress(answer.page / answer.of, `Page ${answer.page + 1} of ${answer.of}`);
    };
    signal.addEventListener("abort", () =>
      reject(new RhizomeError("stopped", "The work was stopped.", "")),
    );
    worker.postMessage(order);
  }).finally(() => worker.terminate());
}
