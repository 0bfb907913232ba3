import * as v from "valibot";
import { stopped } from "../../runtime/stopped";
import { change, type Put } from "../store/changes";
import { db, storageError, type Db } from "../store/db";
import { restoreDeliveries } from "../store/deliveries";
import { exclusively } from "../store/exclusive";
import { freeName } from "../store/freeName";
import { goodRecords, type BadRecord } from "../store/goodRecords";
import {
  FrameSchema,
  OwnLookSchema,
  ResultSchema,
  ShootSchema,
  StackSchema,
  StoredTakeSchema,
  type Frame,
  type Result,
  type Shoot,
  type Stack,
  type Take,
} from "../store/records";
import { tellTabs } from "../store/tabs";
import { readAppearance } from "./appearances";
import { withNewIds } from "./copyIds";
import { DELIVERIES, LOOKS, type ShootFile } from "./format";
import type { ComparedShoot, Restored, RestoreHow } from "./messages";
import type { BackedUpShoot, OpenedBackup } from "./openBackup";

/** Compares the shoots of a backup with what is here. */
export async function compareBackup({ shoots }: OpenedBackup): Promise<ComparedShoot[]> {
  const d = await db();
  const originals = new Set(await d.getAllKeys("originals"));
  const here = new Set(await d.getAllKeys("frames"));
  return Promise.all(
    shoots.map(async ({ folder, file }) => {
      const { name, id } = v.parse(ShootSchema, file.shoot);
      const isMissing = (frame: Record<string, unknown>): boolean =>
        !here.has(String(frame["id"])) || !originals.has(String(frame["hash"]));
      return {
        folder,
        name,
        frames: file.frames.length,
        stacks: file.stacks.length,
        isHere: (await d.getKey("shoots", id)) !== undefined,
        missing: file.frames.filter(isMissing).length,
      };
    }),
  );
}

/** A shoot's records as this version knows them. */
interface Records {
  shoot: Shoot;
  frames: Frame[];
  stacks: Stack[];
  takes: Take[];
}

function readRecords(file: ShootFile, bad: BadRecord[]): Records {
  return {
    shoot: v.parse(ShootSchema, file.shoot),
    frames: goodRecords("frame", FrameSchema, file.frames, bad),
    stacks: goodRecords("stack", StackSchema, file.stacks, bad),
    takes: goodRecords("take", StoredTakeSchema, file.takes, bad),
  };
}

/** Brings shoots of a backup into the storage; what is there already stays as it is. */
class Restoring {
  readonly restored: Restored = { frames: 0, stacks: 0, problems: [] };

  constructor(
    private readonly d: Db,
    private readonly backup: OpenedBackup,
    private readonly signal: AbortSignal,
    private readonly taken: (frame: Frame) => void,
  ) {}

  async shoot({ file: stored }: BackedUpShoot, how: RestoreHow): Promise<void> {
    const file = how === "copy" ? withNewIds(stored) : stored;
    const bad: BadRecord[] = [];
    const records = readRecords(file, bad);
    for (const { what, id, why } of bad)
      this.restored.problems.push(`A ${what} could not be read and was left out (${id}: ${why}).`);
    const { shoot } = records;
    const isNew = (await this.d.getKey("shoots", shoot.id)) === undefined;
    if (isNew) {
      const names = (await this.d.getAll("shoots")).map(({ name }) => name);
      // until all is there it is not called whole
      const partial = { ...shoot, name: freeName(names, shoot.name), partial: true };
      await exclusively(async () => this.d.put("shoots", partial));
    }
    for (const frame of records.frames) {
      if (this.signal.aborted) throw stopped();
      await this.keepFrame(frame, file);
      this.taken(frame);
    }
    const results = await this.results(file);
    if (isNew) await this.finish(records, results, file);
    else await this.add(records, results);
    tellTabs({ what: "changed" });
  }

  /** Keeps a frame with its files, whole. */
  private async keepFrame(frame: Frame, file: ShootFile): Promise<void> {
    const { hash, info } = frame;
    const [hasOriginal, hasThumbnail, isHere] = await Promise.all([
      this.d.getKey("originals", hash),
      this.d.getKey("thumbnails", hash),
      this.d.getKey("frames", frame.id),
    ]);
    const original = hasOriginal ? undefined : await this.fileOf(file.originals[hash], hash);
    if (!hasOriginal && !original)
      this.restored.problems.push(
        `The file of ${info.name} is missing or damaged in the backup: bring it in again.`,
      );
    const thumbnail = hasThumbnail ? undefined : await this.fileOf(file.thumbnails[hash]);
    const appearance = readAppearance(file.appearances[hash]);
    const tx = this.d.transaction(
      ["originals", "thumbnails", "appearances", "frames"],
      "readwrite",
    );
    if (original) void tx.objectStore("originals").put(original, hash);
    if (thumbnail) void tx.objectStore("thumbnails").put(thumbnail, hash);
    if (appearance) void tx.objectStore("appearances").put(appearance, hash);
    if (!isHere) void tx.objectStore("frames").put(frame);
    await tx.done.catch((e: unknown) => {
      throw storageError(e);
    });
    if (!isHere || original) this.restored.frames++;
  }

  private fileOf(path: string | undefined, sha256?: string): Promise<Blob | undefined> {
    return path === undefined ? Promise.resolve(undefined) : this.backup.read(path, sha256);
  }

  private async results(file: ShootFile): Promise<Result[]> {
    const read: Result[] = [];
    for (const stored of file.results) {
      const content = await this.fileOf(String(stored["picture"]));
      const picture = content && new Blob([content], { type: "image/jpeg" });
      const result = v.safeParse(ResultSchema, { ...stored, picture });
      // a result is made again when its stack is merged
      if (result.success) read.push(result.output);
    }
    return read;
  }

  /** The last of a shoot that was not here. */
  private async finish(
    { shoot, frames, stacks, takes }: Records,
    results: readonly Result[],
    file: ShootFile,
  ): Promise<void> {
    const here = new Set(frames.map(({ id }) => id));
    await exclusively(async () => {
      const tx = this.d.transaction(
        ["shoots", "stacks", "takes", "results", "history"],
        "readwrite",
      );
      for (const stack of stacks)
        void tx.objectStore("stacks").put({
          ...stack,
          frameIds: stack.frameIds.filter((id) => here.has(id)),
        });
      for (const take of takes) void tx.objectStore("takes").put(take);
      for (const result of results) void tx.objectStore("results").put(result);
      for (const { id: _id, ...entry } of file.history)
        void tx.objectStore("history").add(entry as never);
      const { partial: _partial, ...whole } = (await tx.objectStore("shoots").get(shoot.id))!;
      void tx.objectStore("shoots").put(whole);
      await tx.done;
    }).catch((e: unknown) => {
      throw storageError(e);
    });
    this.restored.stacks += stacks.length;
  }

  /** What a shoot that is here has not: one change, which can be taken back. */
  private async add({ shoot, stacks, takes }: Records, results: readonly Result[]): Promise<void> {
    const now = await this.d.getAllFromIndex("stacks", "shootId", shoot.id);
    const known = new Set(now.map(({ id }) => id));
    const placed = new Set(now.flatMap(({ frameIds }) => frameIds));
    // a frame that stands elsewhere by now stays there
    const missing = stacks.filter(
      ({ id, frameIds }) => !known.has(id) && !frameIds.some((frame) => placed.has(frame)),
    );
    const ids = new Set(missing.map(({ id }) => id));
    const puts: Put[] = [
      ...missing.map((value): Put => ({ store: "stacks", value })),
      ...takes
        .filter(({ stackId }) => ids.has(stackId))
        .map((value): Put => ({ store: "takes", value })),
    ];
    await exclusively(async (writer) => {
      if (puts.length) await change(writer, shoot.id, "Restore what was missing", puts);
      for (const result of results) if (ids.has(result.id)) await this.d.put("results", result);
      const stored = await this.d.get("shoots", shoot.id);
      if (stored?.partial) {
        const { partial: _partial, ...whole } = stored;
        await this.d.put("shoots", whole);
      }
    });
    this.restored.stacks += missing.length;
  }

  /** Own looks and deliveries that are not here. */
  async own(): Promise<void> {
    const stored = await this.backup.json(LOOKS);
    const looks = goodRecords("look", OwnLookSchema, Array.isArray(stored) ? stored : [], []);
    const known = new Set(await this.d.getAllKeys("looks"));
    await exclusively(async () => {
      for (const look of looks) if (!known.has(look.id)) await this.d.put("looks", look);
    });
    await restoreDeliveries(await this.backup.json(DELIVERIES));
  }
}

/**
 * Restores shoots of a backup. Each frame is kept whole as soon as it is read; when it is stopped,
 * what is in stays, and restoring again adds the rest.
 *
 * @param choices  by the folder in the backup; those that are not named are left out
 * @throws RhizomeError `stopped`, `storage-full`
 */
export async function restoreBackup(
  backup: OpenedBackup,
  choices: Readonly<Record<string, RestoreHow>>,
  report: (share: number, doing: string) => void,
  signal: AbortSignal,
): Promise<Restored> {
  const wanted = backup.shoots.filter(({ folder }) => (choices[folder] ?? "nothing") !== "nothing");
  const total = wanted.reduce((sum, { file }) => sum + file.frames.length, 0);
  let done = 0;
  const restoring = new Restoring(await db(), backup, signal, ({ info }) => {
    done++;
    report(done / Math.max(1, total), info.name);
  });
  for (const shoot of wanted) await restoring.shoot(shoot, choices[shoot.folder]!);
  await restoring.own();
  restoring.restored.problems.unshift(...backup.problems);
  return restoring.restored;
}
