import type { Scene } from "../../pipeline/merge/scene";
import type { KeptRepair } from "../../pipeline/retouch/repairSchema";
import { RetouchedScene, type FoundSource } from "../../pipeline/retouch/retouchedScene";
import { analysedAnew } from "../../pipeline/retouch/step";
import type { Readers } from "../../runtime/readers";
import type { RunOptions } from "../../runtime/work";
import { pool } from "./pool";

/** A merge that is retouched in place, and what is shown of it. */
interface Entry {
  retouched: RetouchedScene;
  /** the merge as it is retouched now: another object each time, so that nothing drawn is kept */
  shown: Scene;
  /** the merge as it was when its light was analysed last: what its tone is found from */
  toned: Scene;
  /** of that analysis */
  release: () => void;
  /** the repairs changed since then */
  stale: boolean;
  settling: ReturnType<typeof setTimeout> | undefined;
  /** who looks at it now */
  looking: Set<Promise<unknown>>;
  /** comes to an end when the one before has begun to look */
  turn: Promise<unknown>;
}

const ON: RunOptions = { priority: "screen" };
/** A repair is drawn at once in the tone there was; its own light tells in it when no more come. */
const SETTLE_MS = 500;

/**
 * The scenes of an opened stack as its repairs make them. They are changed in their own memory:
 * whoever looks at one is waited for before it changes, and who comes later sees it changed.
 */
export class SceneRetouch {
  private readonly entries = new Map<Scene, Entry>();

  /**
   * Nothing is retouched yet.
   *
   * @param readers   who look at what is to be freed
   * @param onSettled  called when the tone of a scene follows its repairs
   */
  constructor(
    private readonly readers: Readers,
    private readonly onSettled: () => void,
  ) {}

  /**
   * Looks at a scene as some repairs make it.
   *
   * @param isToned  whether it is what tone is found from
   * @param act      takes the scene, what its tone is found from, and where repairs take from
   */
  async look<T>(
    scene: Scene,
    repairs: readonly KeptRepair[],
    isToned: boolean,
    act: (scene: Scene, toned: Scene, sources: readonly FoundSource[]) => Promise<T>,
  ): Promise<T> {
    const entry = this.entryOf(scene);
    const begun = entry.turn.then(async () => {
      await this.bring(scene, entry, repairs, isToned);
      const looking = act(entry.shown, entry.toned, entry.retouched.sources);
      entry.looking.add(looking);
      const done = (): void => void entry.looking.delete(looking);
      looking.then(done, done);
      return { looking };
    });
    entry.turn = begun.catch(() => undefined);
    return (await begun).looking;
  }

  /** Forgets all; what is freed is freed once nobody looks at it. */
  clear(): void {
    const entries = [...this.entries.values()];
    this.entries.clear();
    for (const { settling } of entries) clearTimeout(settling);
    this.readers.retire(() => {
      for (const { retouched, release } of entries) {
        retouched.release();
        release();
      }
    });
  }

  private entryOf(scene: Scene): Entry {
    let entry = this.entries.get(scene);
    if (!entry) {
      entry = {
        retouched: new RetouchedScene(pool(), scene, true),
        shown: scene,
        toned: scene,
        stale: false,
        settling: undefined,
        release: () => undefined,
        looking: new Set(),
        turn: Promise.resolve(),
      };
      this.entries.set(scene, entry);
    }
    return entry;
  }

  private async bring(
    scene: Scene,
    entry: Entry,
    repairs: readonly KeptRepair[],
    isToned: boolean,
  ): Promise<void> {
    if (entry.retouched.isAt(repairs)) return;
    await Promise.allSettled(entry.looking);
    await entry.retouched.bringTo(repairs, ON);
    entry.shown = { ...scene };
    if (!isToned) return;
    entry.stale = true;
    clearTimeout(entry.settling);
    if (entry.toned === scene) await this.settle(scene, entry);
    else
      entry.settling = setTimeout(() => {
        const settled = this.readers.note(entry.turn.then(() => this.settle(scene, entry)));
        entry.turn = settled.catch(() => undefined);
        settled.then(this.onSettled, () => undefined);
      }, SETTLE_MS);
  }

  /** Analyses the light of a scene as it is retouched. */
  private async settle(scene: Scene, entry: Entry): Promise<void> {
    if (!entry.stale || this.entries.get(scene) !== entry) return;
    entry.stale = false;
    const { release } = entry;
    const analysed = await analysedAnew(pool(), scene, ON);
    entry.toned = analysed.scene;
    entry.release = () => analysed.release();
    this.readers.retire(release);
  }
}
