import { safeName } from "../../pipeline/deliver/fileName";
import { bytesText } from "../ui/bytesText";
import { counted } from "../ui/format";
import { startJob } from "../work/jobs";
import { askWorker } from "./askWorker";
import { chooseTarget } from "./backupFile";
import type { BackupAnswer, Restored, RestoreHow } from "./messages";

export type Compared = Extract<BackupAnswer, { what: "compared" }>;

const DAY_DIGITS = 10;

/**
 * Backs up shoots, in the tray. Called while a click or key is handled: the browser asks where it is
 * to go.
 */
export async function backUp(
  shoots: readonly { id: string; name: string }[],
  withHistory: boolean,
): Promise<void> {
  const day = new Date().toISOString().slice(0, DAY_DIGITS);
  const [only, ...others] = shoots;
  if (!only) return;
  const about = others.length ? counted(shoots.length, "shoot") : only.name;
  const target = await chooseTarget(`${safeName(about)} ${day} backup.zip`);
  if (!target) return;
  const order = {
    what: "write" as const,
    shoots: shoots.map(({ id }) => id),
    withHistory,
    withOwn: true,
    target: target.handle,
  };
  await startJob(
    `Backup of ${about}`,
    async ({ progress }, signal) => {
      try {
        const { bytes } = await askWorker(order, "written", progress, signal);
        await target.done();
        return bytesText(bytes);
      } catch (e) {
        await target.drop();
        throw e;
      }
    },
    { kind: "delivery" },
  );
}

/** Compares a backup with what is here. @throws RhizomeError as it is opened */
export const compareWith = (file: File, signal: AbortSignal): Promise<Compared> =>
  askWorker({ what: "compare", file, name: file.name }, "compared", () => undefined, signal);

/** Restores shoots of a backup, in the tray. @returns undefined where it failed or was stopped */
export async function restoreFrom(
  file: File,
  choices: Record<string, RestoreHow>,
): Promise<Restored | undefined> {
  let restored: Restored | undefined;
  await startJob(
    `Restore from ${file.name}`,
    async ({ progress }, signal) => {
      const order = { what: "restore" as const, file, name: file.name, choices };
      restored = await askWorker(order, "restored", progress, signal);
      const { frames, stacks } = restored;
      return `${counted(frames, "frame")} and ${counted(stacks, "stack")} restored`;
    },
    { kind: "delivery" },
  );
  return restored;
}
