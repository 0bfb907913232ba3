import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { stopped } from "../../runtime/stopped";
import { BackupAnswerSchema, type BackupAnswer, type BackupOrder } from "./messages";

type AnswerTo<What extends BackupAnswer["what"]> = Extract<BackupAnswer, { what: What }>;

/**
 * Has a worker of its own make, compare or restore a backup.
 *
 * @param expected  the answer that ends it
 * @throws RhizomeError what the work throws; `backup-failed` when the worker ends; `stopped`
 */
export function askWorker<What extends "written" | "compared" | "restored">(
  order: BackupOrder,
  expected: What,
  progress: (share: number, doing: string) => void,
  signal: AbortSignal,
): Promise<AnswerTo<What>> {
  const worker = new Worker(new URL("./backupWorker.ts", import.meta.url), { type: "module" });
  return new Promise<AnswerTo<What>>((resolve, reject) => {
    worker.onerror = (e) => {
      e.preventDefault();
      const why = e.message || "its worker ended";
      reject(new RhizomeError("backup-failed", `This did not work: ${why}.`, "try again"));
    };
    worker.onmessage = ({ data }) => {
      const answer = v.parse(BackupAnswerSchema, data);
      if (answer.what === "progress") progress(answer.share, answer.doing);
      else if (answer.what === "failed")
        reject(new RhizomeError(answer.code, answer.message, answer.remedy));
      else if (answer.what === expected) resolve(answer as AnswerTo<What>);
    };
    signal.addEventListener("abort", () => reject(stopped()));
    worker.postMessage(order);
  }).finally(() => worker.terminate());
}
