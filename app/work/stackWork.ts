import { RhizomeError } from "../../core/error";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { NestableFrame } from "../../pipeline/memberResults";
import type { Frame } from "../store/records";
import { type WorkFrame, keepResult, readStack } from "../store/shoots";
import { startJob } from "./jobs";
import { StackSession } from "./session";

export function stackFrames(
  frames: readonly WorkFrame[],
  originals: Map<string, Blob>,
): NestableFrame[] {
  return frames.map((f) => {
    const blob = originals.get(f.hash);
    return {
      id: f.id,
      content: f.hash,
      info: f.info,
      source: { name: f.info.name, ...(blob ? { blob } : {}) },
      ...(f.merged
        ? { merged: { frames: stackFrames(f.merged.frames, originals), recipe: f.merged.recipe } }
        : {}),
    };
  });
}

/** What a result was made from: equal keys, equal picture. */
export const resultKey = (frames: readonly Frame[], recipe: Recipe): string =>
  JSON.stringify([frames.map((f) => f.hash), { ...recipe, deliver: undefined }]);

/** Longer side of the pictures on shelf and board, px. */
const PICTURE_EDGE = 720;

/** Keeps the small picture of a session's present state for shelf and board. */
export async function keepPicture(
  session: StackSession,
  shootId: string,
  stackId: string,
  frames: readonly Frame[],
  recipe: Recipe,
): Promise<void> {
  const { preview, statistics, aligned, layout, size } = session.state;
  if (!preview || !statistics || !(aligned || layout)) return;
  const region = session.keptOf(recipe.edges)?.region ?? { x: 0, y: 0, ...size };
  const view = await session.view({
    region,
    zoom: Math.min(1, PICTURE_EDGE / Math.max(region.width, region.height)),
    recipe,
    clipped: false,
  });
  if (!view) return;
  const small = new OffscreenCanvas(view.width, view.height);
  small.getContext("2d")!.putImageData(new ImageData(view.pixels, view.width, view.height), 0, 0);
  await keepResult({
    id: stackId,
    shootId,
    key: resultKey(frames, recipe),
    size: { width: region.width, height: region.height },
    picture: await small.convertToBlob({ type: "image/jpeg", quality: 0.85 }),
    rangeEv: statistics.rangeEv,
    residualPx: Math.max(...(aligned?.frames.map((f) => f.residualPx ?? 0) ?? layout!.rmsPx)),
  });
}

/** Merges a stack at preview size from the board, in the tray. */
export function mergeInBackground(
  shootId: string,
  stackId: string,
  name: string,
  done: () => void,
): void {
  void startJob(
    `Merge ${name}`,
    async ({ progress }, signal) => {
      const data = await readStack(shootId, stackId);
      const session = new StackSession(stackFrames(data.frames, data.originals));
      try {
        await new Promise<void>((resolve, reject) => {
          signal.addEventListener(
            "abort",
            () => {
              session.stop();
              reject(new RhizomeError("stopped", "The work was stopped.", ""));
            },
            { once: true },
          );
          session.store.subscribe(() => {
            progress(session.state.share, session.state.doing);
            if (session.state.phase === "ready") resolve();
            if (session.state.phase === "failed") reject(session.state.error);
          });
          session.update(data.take.recipe);
        });
        await keepPicture(session, shootId, stackId, data.frames, data.take.recipe);
      } finally {
        session.close();
      }
      done();
      return undefined;
    },
    { about: stackId, shoot: shootId },
  );
}
