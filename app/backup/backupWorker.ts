import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { storageError } from "../store/db";
import { BackupOrderSchema, type BackupAnswer, type BackupOrder } from "./messages";
import { openBackup } from "./openBackup";
import { compareBackup, restoreBackup } from "./restore";
import { writeBackup } from "./writeBackup";

const scope = self as unknown as {
  postMessage(answer: BackupAnswer): void;
  onmessage: ((e: MessageEvent) => void) | null;
};
/** How often progress is told, ms. */
const TELL_MS = 100;

// whoever stops it ends the worker
const { signal } = new AbortController();

function teller(): (share: number, doing: string) => void {
  let toldAt = 0;
  return (share, doing) => {
    const now = performance.now();
    if (now - toldAt < TELL_MS) return;
    toldAt = now;
    scope.postMessage({ what: "progress", share, doing });
  };
}

async function answerTo(order: BackupOrder): Promise<BackupAnswer> {
  if (order.what === "write") {
    const sink = await order.target.createWritable();
    try {
      await writeBackup(order, sink, teller(), signal);
    } catch (e) {
      await sink.abort().catch(() => undefined);
      throw e;
    }
    return { what: "written", bytes: (await order.target.getFile()).size };
  }
  const backup = await openBackup(order.file, order.name);
  if (order.what === "compare") {
    const { madeAt, problems } = backup;
    const shoots = await compareBackup(backup);
    return { what: "compared", shoots, problems, ...(madeAt === undefined ? {} : { madeAt }) };
  }
  return { what: "restored", ...(await restoreBackup(backup, order.choices, teller(), signal)) };
}

scope.onmessage = ({ data }) => {
  void answerTo(v.parse(BackupOrderSchema, data))
    .catch((e: unknown): BackupAnswer => {
      const error = e instanceof DOMException ? storageError(e) : RhizomeError.from(e);
      const { code, message, remedy } = error;
      return { what: "failed", code, message, remedy };
    })
    .then((answer) => scope.postMessage(answer));
};
