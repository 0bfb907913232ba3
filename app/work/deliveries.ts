import { OUTPUT_FORMATS } from "../../codecs/outputFormats";
import { RhizomeError } from "../../core/error";
import { safeName } from "../../pipeline/deliver/fileName";
import { filesOf } from "../../pipeline/deliver/settings";
import { deliverEach } from "../../pipeline/deliverStack";
import { mergeMembers, type NestableFrame } from "../../pipeline/memberResults";
import { recipeText, RECIPE_ENDING } from "../../pipeline/recipe/recipeFile";
import { parseRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import { dropQueued, keepQueued, orderQueue, readQueue, updateQueued } from "../store/queue";
import type { Queued, Shoot, Stack } from "../store/records";
import { resultCache } from "../store/resultCache";
import { readStack } from "../store/shoots";
import { taskOf } from "./expected";
import { namesOfFiles, type Asked } from "./fileNames";
import { handOverRun, heldFolder, sweepHeld } from "./heldResults";
import {
  showFailed,
  startJob,
  tray,
  type JobFacts,
  type JobFile,
  type Report,
  type Tray,
} from "./jobs";
import { keepTaken } from "./pace";
import { pool } from "./pool";
import { openFolder, type Folder } from "./resultFolder";
import { asDownload, intoFolder, type Results } from "./results";
import { stackFrames } from "./stackWork";
import { keepWeight } from "./weight";

/**
 * Renders stacks at full size and hands their files out: into the shoot's folder, or as downloads.
 * They are kept until they are done, so that a reload goes on with them. It is called while a click
 * or key is handled, without which the browser would not ask for the folder.
 */
export async function deliver(shoot: Shoot, asked: readonly Asked[]): Promise<void> {
  const opening = opened(shoot.id);
  const names = namesOfFiles(shoot, asked);
  const run = { id: crypto.randomUUID(), name: shoot.name, stacks: asked.length };
  const begin = Date.now();
  const deliveries = asked.map(({ stack, recipe }, i): Queued => ({
    id: crypto.randomUUID(),
    shootId: shoot.id,
    stackId: stack.id,
    order: begin + i,
    run,
    name: stack.name,
    recipe,
    names: names[i]!,
    written: {},
  }));
  // what the storage does not take is delivered all the same, as long as the page is open
  const keeping = keepQueued(deliveries).catch(() => undefined);
  for (const [i, delivery] of deliveries.entries())
    startQueued(delivery, opening, keeping, asked[i]!.expectedMs);
  await keeping;
}

/** The folder as it is asked for now; whoever waits for it hears what is wrong with it. */
function opened(shootId: string): Promise<Folder | undefined> {
  const opening = openFolder(shootId);
  opening.catch(() => undefined);
  return opening;
}

const titleOf = ({ name, names }: Queued): string =>
  names.length > 1 ? `Deliver ${safeName(name)}, ${names.length} files` : `Deliver ${names[0]!}`;

/** What the tray shows of a delivery's files. */
const jobFiles = ({ recipe, names, written }: Queued): JobFile[] =>
  filesOf(recipe.deliver).map(({ name }, i) => ({
    delivery: name,
    name: names[i]!,
    state: written[i]?.whole ? "done" : "waiting",
  }));

/** What the tray knows of a delivery from its beginning. */
const factsOf = (delivery: Queued): JobFacts => ({
  kind: "delivery",
  about: delivery.stackId,
  shoot: delivery.shootId,
  kept: delivery.id,
  files: jobFiles(delivery),
  again: () => void tryQueuedAgain(delivery),
  onForget: () => void dropQueued(delivery.id),
});

/** Does a delivery while no other tab does it; another tab's is left to it. */
async function alone(id: string, work: () => Promise<void>): Promise<void> {
  if (!navigator.locks) return work();
  await navigator.locks.request(`rhizome-delivery ${id}`, { ifAvailable: true }, (lock) =>
    lock ? work() : undefined,
  );
}

/** Puts a delivery into the tray and keeps what becomes of it. */
function startQueued(
  delivery: Queued,
  opening: Promise<Folder | undefined>,
  keeping: Promise<void> = Promise.resolve(),
  expectedMs?: number,
): void {
  const { id } = delivery;
  const facts = { ...factsOf(delivery), ...(expectedMs === undefined ? {} : { expectedMs }) };
  void alone(id, async () => {
    let failure: RhizomeError | undefined;
    const state = await startJob(
      titleOf(delivery),
      async (report, signal) => {
        await keeping;
        return await deliverQueued(delivery, opening, report, signal).catch((e: unknown) => {
          failure = RhizomeError.from(e);
          throw e;
        });
      },
      facts,
    );
    if (state === "failed" && failure) {
      const { code, message, remedy } = failure;
      await updateQueued(id, { failed: { code, message, remedy } });
    } else await dropQueued(id);
    if (state !== "done") await endRun(delivery);
  }).catch(() => undefined);
}

/** A failed delivery begins again, with what it had written. It is called by a click or key. */
async function tryQueuedAgain(was: Queued): Promise<void> {
  const opening = opened(was.shootId);
  const kept = (await readQueue()).find(({ id }) => id === was.id) ?? was;
  const { failed: _, ...rest } = kept;
  startQueued(
    rest,
    opening,
    keepQueued([rest]).catch(() => undefined),
  );
}

/** Where a delivery's files go: the shoot's folder, or with the others of its run, or by themselves. */
async function resultsOf(
  { id, run, name, written }: Queued,
  folder: Folder | undefined,
): Promise<{ results: Results; isHeld: boolean }> {
  const keep = (now: Queued["written"]): Promise<void> => updateQueued(id, { written: now });
  if (folder) return { results: intoFolder(folder, written, keep), isHeld: false };
  const waiting = run.stacks > 1 ? await heldFolder(run) : undefined;
  if (waiting) return { results: intoFolder(waiting, written, keep), isHeld: true };
  return { results: asDownload(safeName(name)), isHeld: false };
}

/** Makes the files of a delivery that are not there yet. @returns what became of them, in words */
async function deliverQueued(
  delivery: Queued,
  opening: Promise<Folder | undefined>,
  report: Report,
  signal: AbortSignal,
): Promise<string> {
  // tried once more when the job is
  const folder = await opening.catch(() => openFolder(delivery.shootId));
  const { results, isHeld } = await resultsOf(delivery, folder);
  const { stack, frames: stored, originals } = await readStack(delivery.shootId, delivery.stackId);
  const frames = stackFrames(stored, originals);
  const recipe = parseRecipe(delivery.recipe);
  const said = await makeFiles({ delivery, stack, frames, recipe, results }, report, signal);
  if (signal.aborted) throw new RhizomeError("stopped", "The work was stopped.", "");
  const outcome = await results.end({
    name: `${safeName(stack.name)}${RECIPE_ENDING}`,
    content: new Blob([recipeText(recipe, frames)]),
  });
  if (!isHeld) return `${outcome}${said}`;
  const handed = await endRun(delivery);
  return `${handed ?? "It comes with the others"}${said}`;
}

/** A delivery with all that it is made of. */
interface Making {
  delivery: Queued;
  stack: Stack;
  frames: NestableFrame[];
  recipe: Recipe;
  results: Results;
}

/** Merges a stack and hands on each of its files. @returns what is said of the last one, in words */
async function makeFiles(
  { delivery, stack, frames, recipe, results }: Making,
  { progress, files: tell }: Report,
  signal: AbortSignal,
): Promise<string> {
  const files = filesOf(recipe.deliver);
  const due = files.flatMap((_, i) => (results.has(i) ? [] : [i]));
  if (!due.length) return "";
  const now = (): number => performance.now();
  await mergeMembers(
    pool(),
    frames,
    { progress: (share, doing) => progress(share * 0.5, doing), signal },
    resultCache,
    now,
  );
  const shown = jobFiles(delivery);
  const { rating, note: description } = stack;
  const marks = { rating, description, label: stack.label === "none" ? "" : stack.label };
  let said = "";
  await deliverEach(
    pool(),
    frames,
    recipe,
    due.map((i) => files[i]!.settings),
    { progress, signal, priority: "asked", placesIn: resultCache, now, marks },
    async (done) => {
      const i = due[done.index]!;
      const { settings } = files[i]!;
      const { width, height } = done;
      const type = OUTPUT_FORMATS[settings.format].mime;
      const content = new Blob([done.file as Blob], { type });
      await results.take(i, { name: delivery.names[i]!, content });
      shown[i] = { ...shown[i]!, state: "done", bytes: content.size, size: { width, height } };
      tell([...shown]);
      keepWeight(settings, width * height, content.size);
      if (done.index === 0) keepTaken(taskOf(frames, recipe, done), done.timingsMs.total);
      said = `; ${width} × ${height} px, in ${(done.timingsMs.total / 1000).toFixed(1)} s`;
    },
  );
  return said;
}

/**
 * Hands a run's files over once nothing of it is to come but this delivery.
 *
 * @returns what was handed over, in words
 */
async function endRun({ id, run }: Queued): Promise<string | undefined> {
  if (run.stacks < 2) return undefined;
  const queue = await readQueue();
  const isToCome = queue.some(
    (other) => other.run.id === run.id && other.id !== id && !other.failed,
  );
  return isToCome ? undefined : handOverRun(run);
}

/** Goes on with what an earlier page did not get done; what failed is shown as it failed. */
export async function resumeQueue(): Promise<void> {
  const queue = await readQueue();
  await sweepHeld(new Set(queue.map(({ run }) => run.id)));
  for (const delivery of queue) {
    const { failed, shootId } = delivery;
    if (failed) showFailed(titleOf(delivery), RhizomeError.from(failed), factsOf(delivery));
    else startQueued(delivery, opened(shootId));
  }
}

/** The kept deliveries of a tray, in its order. */
const keptOrder = ({ jobs }: Tray): string[] => jobs.flatMap(({ kept }) => kept ?? []);

/** Keeps the order of the tray's deliveries whenever it is changed. @returns keeps it no more */
export const keepTrayOrder = (): (() => void) =>
  tray.subscribe((now, before) => {
    const [order, was] = [keptOrder(now), keptOrder(before)];
    const stayed = order.filter((id) => was.includes(id));
    const isChanged = was.filter((id) => order.includes(id)).join() !== stayed.join();
    if (isChanged) void orderQueue(order).catch(() => undefined);
  });
