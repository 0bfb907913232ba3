import { parse, usage, openPool, complain, out } from "./arguments";
import { readFrames, listPictures } from "./readFrames";
import { findStacks } from "./group";
import { defaultRecipe } from "../pipeline/recipe/recipe";
import { isMerged } from "../pipeline/recipe/kinds";
import { join, basename, extname } from "node:path";
import { stat } from "node:fs/promises";
import { deliverStack } from "../pipeline/deliverStack";
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
  });
  if (positionals.length !== 1 || !values.out) throw usage("batch needs one folder and --out DIR");
  const shard = /^(\d+)\/(\d+)$/.exec(values.shard ?? "1/1");
  if (!shard || Number(shard[1]) < 1 || Number(shard[1]) > Number(shard[2]))
    throw usage("--shard is written I/N, from 1/N to N/N");
  const withLook = await lookOf(values);
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, await listPictures(positionals[0]!), true);
  failed.forEach(complain);
  let broken = failed.length;
  const stacks = (await findStacks(pool, frames, values.gap))
    .flatMap((s) => s.members ?? [s])
    .filter((s) => isMerged(s.kind))
    .filter((_, i) => i % Number(shard[2]) === Number(shard[1]) - 1);
  for (const s of stacks) {
    const members = s.frames.map((i) => frames[i]!);
    const file = join(
      values.out,
      `${basename(members[0]!.source.name, extname(members[0]!.source.name))}-merged.jpg`,
    );
    if (values.resume && (await stat(file).catch(() => undefined))) {
      out(`kept\t${file}`);
      continue;
    }
    try {
      const done = await deliverStack(pool, members, withLook(defaultRecipe(s.kind)), {
        now: () => performance.now(),
        progress: () => undefined,
      });
      await save(file, done.file as Parts);
      out(`merged\t${file}\t${s.why}\t${(done.timingsMs.total / 1000).toFixed(1)} s`);
    } catch (e) {
      broken++;
      const error = RhizomeError.from(e);
      out(`failed\t${file}\t${error.code}: ${error.message}`);
    }
  }
  if (broken)
    throw new RhizomeError("some-failed", `${broken} files or stacks failed.`, "see above");
}
