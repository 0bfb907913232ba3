import type { FoundStack } from "../core/grouping/foundStack";
import { type ReadFrame, readFrames, listPictures } from "./readFrames";
import type { Pool } from "../pipeline/pool";
import { gapOf, parse, usage, openPool, complain, out } from "./arguments";

/** A found stack as `group` prints it: names instead of indices. */
const named = (s: FoundStack, frames: readonly ReadFrame[]): object => ({
  kind: s.kind,
  frames: s.frames.map((i) => frames[i]!.source.name),
  why: s.why,
  warnings: s.warnings,
  ...(s.rows ? { rows: s.rows } : {}),
  ...(s.members ? { members: s.members.map((m) => named(m, frames)) } : {}),
});

export const findStacks = async (
  pool: Pool,
  frames: readonly ReadFrame[],
  gap: string | undefined,
): Promise<FoundStack[]> => {
  const gapSeconds = gapOf(gap);
  return (
    await pool.run("group", {
      frames: frames.map((f) => f.info),
      signatures: frames.map((f) => f.signature),
      ...(gapSeconds === undefined ? {} : { gapSeconds }),
    })
  ).stacks;
};

export async function group(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    json: { type: "boolean" },
    gap: { type: "string" },
  });
  if (positionals.length !== 1) throw usage("group needs one folder");
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, await listPictures(positionals[0]!), true);
  failed.forEach(complain);
  const stacks = await findStacks(pool, frames, values.gap);
  if (values.json)
    out(
      JSON.stringify(
        stacks.map((s) => named(s, frames)),
        null,
        2,
      ),
    );
  else
    for (const s of stacks)
      out(
        `${s.kind}\t${s.frames.map((i) => frames[i]!.source.name).join(" ")}\t${s.why}${s.warnings.map((w) => `\t! ${w.message}`).join("")}`,
      );
}
