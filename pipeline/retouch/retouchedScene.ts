import { changedBy, repairScratch } from "../../core/retouch/applyRepair";
import type { PlacedRows } from "../../core/retouch/logWindow";
import type { Scene } from "../merge/scene";
import type { Work } from "../work";
import type { KeptRepair } from "./repairSchema";
import { copyCommon, emptyWindow, placedRows } from "./windows";
import type { RunOptions } from "../../runtime/work";

/** Where a repair takes from, shares of the picture; undefined where that is no one place. */
export type FoundSource = { dx: number; dy: number } | undefined;

interface Applied {
  key: string;
  source: FoundSource;
  /** what lay there before */
  before?: PlacedRows;
}

/**
 * A scene that is retouched in its own memory. What lay under each repair is kept, so that only
 * those repairs are made anew that came after a change.
 */
export class RetouchedScene {
  private done: Applied[] = [];

  /**
   * Nothing is retouched yet.
   *
   * @param undoable  whether repairs will change: what lay under them is kept until `release`
   */
  constructor(
    private readonly work: Work,
    private readonly scene: Pick<Scene, "ptr" | "planeBytes" | "width" | "height">,
    private readonly undoable: boolean,
  ) {}

  /** Where each of the repairs takes from. */
  get sources(): FoundSource[] {
    return this.done.map(({ source }) => source);
  }

  /** Whether the scene is as these repairs make it. */
  isAt(repairs: readonly KeptRepair[]): boolean {
    const keys = repairs.map((repair) => JSON.stringify(repair));
    return keys.length === this.done.length && keys.every((key, i) => key === this.done[i]!.key);
  }

  /**
   * Makes the scene what these repairs make of it. Nobody else may look at it meanwhile.
   *
   * @throws RhizomeError `stopped`, `memory-full`; the scene is then as after some of the repairs
   */
  async bringTo(repairs: readonly KeptRepair[], on: RunOptions): Promise<void> {
    const keys = repairs.map((repair) => JSON.stringify(repair));
    let kept = 0;
    while (kept < this.done.length && this.done[kept]!.key === keys[kept]) kept++;
    await this.takeBack(kept, on);
    for (const [i, repair] of repairs.entries())
      if (i >= kept) await this.add(repair, keys[i]!, on);
  }

  release(): void {
    for (const { before } of this.done) if (before) this.work.free(before.ptr);
    this.done = [];
  }

  private async takeBack(kept: number, on: RunOptions): Promise<void> {
    const rows = placedRows(this.scene);
    while (this.done.length > kept) {
      const { before } = this.done.at(-1)!;
      if (before) {
        await copyCommon(this.work, before, rows, before, on);
        this.work.free(before.ptr);
      }
      this.done.pop();
    }
  }

  private async add(repair: KeptRepair, key: string, on: RunOptions): Promise<void> {
    const rows = placedRows(this.scene);
    const size = { width: rows.width, height: rows.height };
    const region = changedBy(repair, size);
    if (!repair.on || !region.width || !region.height) {
      this.done.push({ key, source: undefined });
      return;
    }
    const before = this.undoable ? emptyWindow(this.work, region) : undefined;
    if (before) await copyCommon(this.work, rows, before, region, on);
    const scratch = repairScratch(repair, size);
    const source = await this.work.run("repair", { rows, repair, size }, { scratch, ...on });
    this.done.push({ key, source, ...(before ? { before } : {}) });
  }
}
