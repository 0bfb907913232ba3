import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import { RhizomeError } from "../../core/error";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { deliverEach } from "../../pipeline/deliverStack";
import { filesOfStack, safeName, withoutClashes } from "../../pipeline/deliver/fileName";
import { filesOf } from "../../pipeline/deliver/settings";
import { recipeText, RECIPE_ENDING } from "../../pipeline/recipe/recipeFile";
import { asDownload, intoFolder } from "./results";
import { openFolder } from "./resultFolder";
import { mergeMembers, type NestableFrame } from "../../pipeline/memberResults";
import type { Frame, Stack } from "../store/records";
import { type WorkFrame, keepResult, readStack } from "../store/shoots";
import { resultCache } from "../store/resultCache";
import { taskOf } from "./expected";
import { startJob } from "./jobs";
import { keepTaken } from "./pace";
import { pool } from "./pool";
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
    async (progress, signal) => {
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

/** What a stack's files are named after, beside the stack. */
export interface Naming {
  take: string;
  shoot: string;
  /** place of the stack among those that are delivered together, from 1 */
  number?: number;
}

/** The names of all files that a stack's recipe asks for; none twice. */
export function namesOfFiles(
  name: string,
  frames: readonly NestableFrame[],
  recipe: Recipe,
  { take, shoot, number = 1 }: Naming,
): string[] {
  const infos = frames.map((frame) => frame.info);
  const stack = { name, kind: recipe.kind, infos, take, shoot, number };
  return withoutClashes(filesOfStack(stack, filesOf(recipe.deliver)));
}

/**
 * Renders a stack at full size and hands its files out: into the shoot's folder, or as a download,
 * one as it is and several as a zip.
 */
export function deliver(
  { id, shootId, name, rating, label }: Pick<Stack, "id" | "shootId" | "name" | "rating" | "label">,
  frames: NestableFrame[],
  recipe: Recipe,
  naming: Naming,
): void {
  const files = filesOf(recipe.deliver);
  const names = namesOfFiles(name, frames, recipe, naming);
  // a click or key is handled now, without which the browser would not ask
  const opening = openFolder(shootId);
  opening.catch(() => undefined);
  const title = names.length > 1 ? `${safeName(name)}, ${names.length} files` : names[0]!;
  void startJob(
    `Deliver ${title}`,
    async (progress, signal) => {
      // tried once more when the job is
      const folder = await opening.catch(() => openFolder(shootId));
      await mergeMembers(
        pool(),
        frames,
        { progress: (share, doing) => progress(share * 0.5, doing), signal },
        resultCache,
        () => performance.now(),
      );
      const out = folder ? intoFolder(folder) : asDownload(safeName(name));
      let said = "";
      await deliverEach(
        pool(),
        frames,
        recipe,
        files.map((file) => file.settings),
        {
          progress,
          signal,
          priority: "asked",
          placesIn: resultCache,
          now: () => performance.now(),
          marks: { rating, label: label === "none" ? "" : label },
        },
        async (done) => {
          const { format } = files[done.index]!.settings;
          const type = OUTPUT_FORMATS[format].mime;
          const content = new Blob([done.file as Blob], { type });
          await out.take({ name: names[done.index]!, content });
          if (done.index === 0) keepTaken(taskOf(frames, recipe, done), done.timingsMs.total);
          said = `${done.width} × ${done.height} px, in ${(done.timingsMs.total / 1000).toFixed(1)} s`;
        },
      );
      if (signal.aborted) throw new RhizomeError("stopped", "The work was stopped.", "");
      const recipeFile = {
        name: `${safeName(name)}${RECIPE_ENDING}`,
        content: new Blob([recipeText(recipe, frames)]),
      };
      return `${await out.end(recipeFile)}; ${said}`;
    },
    { kind: "delivery", about: id, shoot: shootId },
  );
}
