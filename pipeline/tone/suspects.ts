import type { Suspect } from "../../core/suspects/suspect";
import type { ToneField } from "../../core/tone/toneField";
import type { Scene } from "../merge/scene";
import type { Threads } from "../pool";

/** Looks for halos that toning draws. @param width  of the full-size picture, px */
export const toneSuspects = (
  threads: Threads,
  { grid }: Pick<Scene, "grid">,
  field: ToneField,
  width: number,
  on: { signal?: AbortSignal } = {},
): Promise<Suspect[]> =>
  threads.run(
    "haloSuspects",
    { grid, field, scale: width / grid.width },
    { scratch: 1 << 16, ...on },
  );
