import { parse, usage, openPool, complain, out } from "./arguments";
import { readFrames, listPictures } from "./readFrames";
import { findStacks } from "./group";
import { defaultRecipe } from "../pipeline/recipe/recipe";
import { isMerged, type RecipeKind } from "../pipeline/recipe/kinds";
import { basename, join } from "node:path";
import { deliverEach } from "../pipeline/deliverStack";
import { batchLog, saveRecipe, deliveriesOf, missing, namedFiles, timeLeft } from "./batchFiles";
import { lookOf } from "./look";
import { save } from "./merge";
import type { Parts } from "../codecs/stream";
import { RhizomeError } from "../core/error";

export async function batch(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    out: { type: "string" },
    shard: { type: "string" },
    resume: { type: "boolean" },
    gap: { type: "string" },
    look: { type: "string" },
    amount: { type: "string" },
    delivery: { type: "string", multiple: true },
    log: { type: "string" },
    progress: { type: "boolean" },
  });
  if (positionals.length !== 1 || !values.out) throw usage("batch needs one folder and --out DIR");
  const shard = /^(\d+)\/(\d+)$/.exec(values.shard ?? "1/1");
  if (!shard || Number(shard[1]) < 1 || Number(shard[1]) > Number(shard[2]))
    throw usage("--shard is written I/N, from 1/N to N/N");
  const withLook = await lookOf(values);
  const deliveries = await deliveriesOf(values.delivery ?? []);
  const log = batchLog(values.log);
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, await listPictures(positionals[0]!), true);
  failed.forEach(complain);
  let broken = failed.length;
  const stacks = (await findStacks(pool, frames, values.gap))
    .flatMap((s) => s.members ?? [s])
    .filter((s) => isMerged(s.kind))
    .filter((_, i) => i % Number(shard[2]) === Number(shard[1]) - 1);
  const planned = namedFiles(
    stacks.map((s) => ({ kind: s.kind, frames: s.frames.map((i) => frames[i]!) })),
    deliveries,
    basename(positionals[0]!),
  );
  const show = values.progress || process.stderr.isTTY;
  const began = performance.now();
  for (const [index, stack] of stacks.entries()) {
    const members = stack.frames.map((i) => frames[i]!);
    const files = planned[index]!.map((name) => join(values.out!, name));
    const wanted = await missing(files, values.resume ?? false);
    for (const file of files.filter((_, k) => !wanted.includes(k))) {
      out(`kept\t${file}`);
      await log({ state: "kept", file });
    }
    if (!wanted.length) continue;
    const left = timeLeft(performance.now() - began, index, stacks.length);
    if (show) process.stderr.write(`${index + 1} of ${stacks.length}${left}\n`);
    const done = new Set<number>();
    try {
      const recipe = withLook(defaultRecipe(stack.kind as RecipeKind));
      await deliverEach(
        pool,
        members,
        recipe,
        wanted.map((k) => deliveries[k]!.settings),
        { now: () => performance.now(), progress: () => undefined },
        async ({ index: place, file: parts, timingsMs, width, height }) => {
          const k = wanted[place]!;
          // first, so that no picture is there without it
          await saveRecipe(
            files[k]!,
            { ...recipe, deliver: { ...deliveries[k]!.settings, also: [] } },
            members,
          );
          await save(files[k]!, parts as Parts);
          done.add(k);
          out(`merged\t${files[k]}\t${stack.why}\t${(timingsMs.total / 1000).toFixed(1)} s`);
          await log({ state: "merged", file: files[k]!, width, height, timingsMs });
        },
      );
    } catch (e) {
      broken++;
      const { code, message } = RhizomeError.from(e);
      for (const k of wanted.filter((place) => !done.has(place))) {
        out(`failed\t${files[k]}\t${code}: ${message}`);
        await log({ state: "failed", file: files[k]!, code, message });
      }
    }
  }
  if (broken)
    throw new RhizomeError("some-failed", `${broken} files or stacks failed.`, "see above");
}
