import * as v from "valibot";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import { leaseOf, type Lease } from "../../runtime/lease";
import type { RunOptions } from "../../runtime/work";
import type { Coming } from "../deliver/step";
import { analyse } from "../merge/finish";
import type { Scene } from "../merge/scene";
import { data, settingsOf } from "../settings/fields";
import { defineStep } from "../step";
import type { Work } from "../work";
import { retouchedBands } from "./retouchedBands";
import { RetouchedScene } from "./retouchedScene";
import { RepairSchema } from "./repairSchema";

/** Nobody repairs more by hand. */
const MOST_REPAIRS = 400;

const settings = settingsOf({
  repairs: data({
    label: "Repairs",
    help: "Places that are put right on the merged picture: healed, cloned or filled.",
    schema: v.pipe(v.array(RepairSchema), v.maxLength(MOST_REPAIRS)),
    default: [],
  }),
});
export type RetouchSettings = v.InferOutput<typeof settings.schema>;

/** The repairs that do something. */
export const repairsOn = ({ repairs }: RetouchSettings): RetouchSettings["repairs"] =>
  repairs.filter(({ on }) => on);

/** A merge as far as retouching knows it. */
interface Retouchable {
  scene: Scene;
  coming?: Coming;
}

/** A retouched scene's analysis for toning: grid and basis are a lease of their own. */
export async function analysedAnew(
  work: Work,
  scene: Scene,
  on: RunOptions,
): Promise<{ scene: Scene } & Lease> {
  const noise = 2 ** scene.grid.floorEv;
  const { grid, basis } = await analyse(work, scene, { basisParts: BASIS_PARTS, noise }, on);
  return { scene: { ...scene, grid, basis }, ...leaseOf(() => work.free(grid.ptr)) };
}

/** Puts places of the merged picture right, before it is toned. */
export const retouchStep = defineStep({
  settings,
  key: ({ retouch }: { retouch: RetouchSettings }) => retouch,
  /**
   * Retouches a merge in its own memory, and the bands that it may come in.
   *
   * @returns the same merge retouched; the lease is of what came to it, and ends before the scene's
   */
  async run(
    work: Work,
    { scene, coming }: Retouchable,
    retouch: RetouchSettings,
    on: { signal?: AbortSignal },
  ): Promise<Retouchable & Lease> {
    const repairs = repairsOn(retouch);
    if (!repairs.length)
      return { scene, ...(coming ? { coming } : {}), ...leaseOf(() => undefined) };
    await new RetouchedScene(work, scene, false).bringTo(repairs, on);
    const analysed = await analysedAnew(work, scene, on);
    try {
      const bands = coming && (await retouchedBands(work, coming, repairs, on));
      return {
        scene: analysed.scene,
        ...(bands ? { coming: bands } : {}),
        ...leaseOf(() => {
          analysed.release();
          bands?.release();
        }),
      };
    } catch (e) {
      analysed.release();
      throw e;
    }
  },
});
