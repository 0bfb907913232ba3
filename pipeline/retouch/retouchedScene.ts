import { changedBy, readBy, repairScratch } from "../../core/retouch/applyRepair";
import type { PlacedRows } from "../../core/retouch/logWindow";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Scene } from "../merge/scene";
import type { Work } from "../work";
import type { KeptRepair } from "./repairSchema";
import { common, copyCommon, emptyWindow, placedRows } from "./windows";
import type { RunOptions } from "../../runtime/work";

/** Where a repair takes from, shares of the picture; undefined where that is no one place. */
export type FoundSource = { dx: number; dy: number } | undefined;

interface Applied {
  key: string;
  /** the same for the same repair over the same repairs of what it sees */
  identity: number;
  source: FoundSource;
  /** what it may change */
  region: Rectangle;
  /** what lay there before */
  before?: PlacedRows;
}
/** What came of a repair that was taken back and will be wanted again. */
interface Outcome {
  source: FoundSource;
  after: PlacedRows;
}

/**
 * A scene that is retouched in its own memory. What lay under each repair is kept, so that only
 * those repairs are made anew that came after a change.
 */
export class RetouchedScene {
  private done: Applied[] = [];
  private readonly identities = new Map<string, number>();

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
    const taken = this.done.slice(kept);
    const outcomes = await this.outcomesOf(taken, new Set(keys.slice(kept)), on);
    await this.takeBack(kept, on);
    try {
      for (const [i, repair] of repairs.entries())
        if (i >= kept) await this.add(repair, keys[i]!, outcomes, on);
    } finally {
      for (const { after } of outcomes.values()) this.work.free(after.ptr);
    }
  }

  release(): void {
    for (const { before } of this.done) if (before) this.work.free(before.ptr);
    this.done = [];
  }

  /** Copies of what came of those repairs that are wanted again and lie under no other. */
  private async outcomesOf(
    taken: readonly Applied[],
    wanted: ReadonlySet<string>,
    on: RunOptions,
  ): Promise<Map<number, Outcome>> {
    const outcomes = new Map<number, Outcome>();
    for (const one of taken) {
      const isAlone = taken.every((other) => other === one || !common(other.region, one.region));
      if (!one.before || !isAlone || !wanted.has(one.key)) continue;
      const after = emptyWindow(this.work, one.region);
      outcomes.set(one.identity, { source: one.source, after });
      await copyCommon(this.work, placedRows(this.scene), after, one.region, on);
    }
    return outcomes;
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

  /** What a repair is over those that are there: equal where it gives the same bytes. */
  private identityOf(repair: KeptRepair, key: string): number {
    const seen = readBy(repair, this.scene);
    const under = this.done.filter(({ region }) => common(region, seen));
    const name = JSON.stringify([key, under.map(({ identity }) => identity)]);
    const known = this.identities.get(name) ?? this.identities.size;
    this.identities.set(name, known);
    return known;
  }

  /** Makes a repair, or puts back what came of it before. */
  private async add(
    repair: KeptRepair,
    key: string,
    outcomes: ReadonlyMap<number, Outcome>,
    on: RunOptions,
  ): Promise<void> {
    const size = { width: this.scene.width, height: this.scene.height };
    const rows = placedRows(this.scene);
    const region = changedBy(repair, size);
    const identity = this.identityOf(repair, key);
    const noted: Applied = { key, identity, region, source: undefined };
    if (repair.on && region.width && region.height) {
      if (this.undoable) {
        noted.before = emptyWindow(this.work, region);
        await copyCommon(this.work, rows, noted.before, region, on);
      }
      const known = outcomes.get(identity);
      if (known) await copyCommon(this.work, known.after, rows, region, on);
      noted.source = known
        ? known.source
        : await this.work.run(
            "repair",
            { rows, repair, size },
            { scratch: repairScratch(repair, size), ...on },
          );
    }
    this.done.push(noted);
  }
}
