import { rm, stat } from "node:fs/promises";
import { basename, join } from "node:path";
import type { Parts } from "../../codecs/stream";
import { RhizomeError } from "../../core/error";
import { deliverEach, type DeliveredFile } from "../../pipeline/deliverStack";
import { deliveryBytes } from "../../pipeline/memory";
import { locatePanorama } from "../../pipeline/run/runPipeline";
import type { Pool } from "../../pipeline/pool";
import { nodeResultCache } from "../../runtime/hosts/nodeResultCache";
import type { ResultCache } from "../../runtime/resultCache";
import { spanOf, type Watch } from "../../runtime/work";
import type { StackFrame } from "../arguments";
import { save } from "../merge";
import { recipeFile, saveRecipe } from "./batchFiles";
import { isMember, type JobFrame, type MemberFrame, type StackJob, type WantedFile } from "./job";
import { isWhole, readManifest, saveManifest, sha256Of, type MadeFile } from "./manifest";

/** Bytes of found places that are kept between the jobs of a batch. */
const PLACES_BYTES = 4 * 2 ** 30;
/** Share of a nested stack's time in which its members are merged, where that was not done before. */
const MEMBERS = 0.5;

/** A file as a job leaves it. */
export interface Outcome extends MadeFile {
  path: string;
  /** it was there already, as this job makes it */
  kept: boolean;
}

const now = (): number => performance.now();

/** A frame of a job as the pipeline reads it. */
const stackFrame = ({ id, content, path, info }: JobFrame): StackFrame => ({
  id,
  content,
  source: { name: info.name, path },
  info,
});

/** Sees that all frames are there as they were when the job was made. */
async function checkFrames(frames: readonly JobFrame[]): Promise<void> {
  for (const frame of frames) {
    if (isMember(frame)) continue;
    const found = await stat(frame.path).catch(() => undefined);
    if (found?.size === frame.size) continue;
    throw new RhizomeError(
      found ? "frame-changed" : "frame-gone",
      `${basename(frame.path)} ${found ? "was changed after its stack was found" : "is not there any more"}.`,
      found ? "start the batch again" : `put it back at ${frame.path}, on every machine`,
    );
  }
}

/** Bytes of the frames' files that a job reads. */
export const bytesRead = (frames: readonly JobFrame[]): number =>
  frames.reduce((sum, frame) => sum + (isMember(frame) ? 0 : frame.size), 0);

/** Memory that a job takes, bytes. @param canvas  of a panorama, where it is known, px */
export const memoryOf = (
  budget: number,
  { task, frames, recipe }: StackJob,
  canvas?: { width: number; height: number },
): number =>
  // locating a panorama draws nothing of it
  deliveryBytes(
    budget,
    frames.map(stackFrame),
    recipe,
    task === "locate" ? { width: 1, height: 1 } : canvas,
  );

/** What a job is run with. */
export interface JobOptions extends Watch {
  /** its identity, by which what it made is known; without one nothing is noted */
  id?: string;
  /** is told of each file as soon as it is there */
  made?: (file: Outcome) => Promise<void> | void;
}

/** Where the places of a panorama's frames are kept for other jobs. */
const placesIn = (between: string): ResultCache =>
  nodeResultCache(join(between, "places"), PLACES_BYTES);

/** Finds where a panorama's frames lie, for the job that joins them. @returns its size, px */
export async function locateFrames(
  pool: Pool,
  { frames, recipe, between }: StackJob,
  watch: Watch,
): Promise<{ width: number; height: number }> {
  await checkFrames(frames);
  if (recipe.kind !== "panorama")
    throw new RhizomeError(
      "recipe-invalid",
      `Only a panorama's frames are located by themselves, not a ${recipe.kind}'s.`,
      "correct the job's recipe",
    );
  const options = { ...watch, placesIn: placesIn(between), now };
  return locatePanorama(pool, frames.map(stackFrame), recipe, options);
}

/**
 * Makes a job's files, those that are not there already as it makes them: each is written beside
 * and renamed, and what was made is noted with sums.
 *
 * @throws RhizomeError what reading, merging and writing throw; files that were made before stay
 */
export async function runJob(pool: Pool, job: StackJob, watch: JobOptions): Promise<Outcome[]> {
  const { between, frames, recipe } = job;
  const { kept, due } = await madeBefore(job, watch.id);
  for (const file of kept) await watch.made?.(file);
  if (!due.length) return kept;
  await checkFrames(frames);
  await mergeMembers(pool, frames, between, spanOf(watch, 0, MEMBERS));
  const files = [...kept];
  const hasMembers = frames.some(isMember);
  await deliverEach(
    pool,
    frames.map(stackFrame),
    recipe,
    due.map(({ settings }) => settings),
    {
      ...(hasMembers ? spanOf(watch, MEMBERS, 1) : watch),
      now,
      ...(watch.id === undefined ? {} : { placesIn: placesIn(between) }),
    },
    async (delivered) => {
      watch.signal?.throwIfAborted();
      const made = await write(job, due[delivered.index]!, delivered, watch.id !== undefined);
      files.push(made);
      if (watch.id !== undefined) await note(job, watch.id, files);
      await watch.made?.(made);
    },
  );
  return files;
}

/** Writes one of a job's files, and its recipe. @param isSummed  whether it is to have its sum */
async function write(
  { task, recipe, frames }: StackJob,
  { path, name, settings }: WantedFile,
  { file, width, height, timingsMs }: DeliveredFile,
  isSummed: boolean,
): Promise<Outcome> {
  const parts = file as Parts;
  // first, so that no picture is there without it
  if (task === "deliver")
    await saveRecipe(
      path,
      { ...recipe, deliver: { ...settings, also: [] } },
      frames.map(stackFrame),
    );
  await save(path, parts).catch(async (e: unknown) => {
    // a recipe alone is of no use
    const isThere = await stat(path).catch(() => undefined);
    if (task === "deliver" && !isThere) await rm(recipeFile(path), { force: true });
    throw e;
  });
  return {
    path,
    kept: false,
    name,
    size: parts.reduce((sum, part) => sum + part.length, 0),
    sha256: isSummed ? sha256Of(parts) : "",
    width,
    height,
    timingsMs,
  };
}

/** Which of a job's files are there as it makes them, and which are due. */
async function madeBefore(
  { between, files }: StackJob,
  id: string | undefined,
): Promise<{ kept: Outcome[]; due: WantedFile[] }> {
  const noted = id === undefined ? undefined : await readManifest(between, id);
  const kept: Outcome[] = [];
  const due: WantedFile[] = [];
  for (const file of files) {
    const made = noted?.files.find(({ name }) => name === file.name);
    if (made && (await isWhole(file.path, made)))
      kept.push({ ...made, path: file.path, kept: true });
    else due.push(file);
  }
  return { kept, due };
}

/** Notes what a job made so far. */
const note = ({ between, name, frames }: StackJob, job: string, files: Outcome[]): Promise<void> =>
  saveManifest(between, {
    job,
    name,
    frames: frames.map(({ content, info }) => ({ name: info.name, content })),
    files: files.map(({ name: file, size, sha256, width, height, timingsMs }) => ({
      name: file,
      size,
      sha256,
      width,
      height,
      timingsMs,
    })),
  });

/** The job that merges a nested stack's member. */
export const memberJob = ({ path, info, member }: MemberFrame, between: string): StackJob => ({
  task: "member",
  name: info.name,
  why: "",
  frames: member.frames,
  recipe: member.recipe,
  files: [{ path, name: basename(path), settings: member.recipe.deliver }],
  between,
});

/** Merges the members that were not merged before. */
async function mergeMembers(
  pool: Pool,
  frames: readonly JobFrame[],
  between: string,
  watch: Watch,
): Promise<void> {
  const members = frames.filter(isMember);
  for (const [k, frame] of members.entries()) {
    const own = spanOf(watch, k / members.length, (k + 1) / members.length);
    await runJob(pool, memberJob(frame, between), { ...own, id: frame.id });
  }
}
