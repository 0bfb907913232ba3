import { parse, usage, openPool, out, complain } from "./arguments";
import { readFrames, type ReadFrame } from "./readFrames";
import { downscaleTo, WORK_EDGE } from "../pipeline/work";
import { ev100 } from "../core/frame/frame";
import { RhizomeError } from "../core/error";
import { decodingAllowance } from "../pipeline/allowance";
import type { Pool } from "../pipeline/pool";

/** What is said of one file, its pixels included. @throws RhizomeError what reading it throws */
async function rowOf(pool: Pool, f: ReadFrame) {
  const clip = await pool.run(
    "clipping",
    { source: f.source, downscale: downscaleTo(f.info, WORK_EDGE) },
    { subject: f.source.name, allowanceMs: decodingAllowance(f.info) },
  );
  return {
    file: f.id,
    format: f.info.format,
    width: f.info.width,
    height: f.info.height,
    depth: f.info.depth,
    profile: f.info.profile,
    ...(f.info.pages ? { pages: f.info.pages } : {}),
    ...(f.info.gainMap ? { gainMap: true } : {}),
    ...f.info.exif,
    ev100: ev100(f.info.exif),
    clippedBright: clip.bright,
    clippedDark: clip.dark,
  };
}

export async function inspect(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, { json: { type: "boolean" } });
  if (!positionals.length) throw usage("inspect needs at least one file");
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, positionals);
  // each file has an outcome of its own
  const outcomes = await Promise.allSettled(frames.map((f) => rowOf(pool, f)));
  const rows = outcomes.flatMap((o) => (o.status === "fulfilled" ? [o.value] : []));
  for (const o of outcomes) if (o.status === "rejected") failed.push(RhizomeError.from(o.reason));
  if (values.json) out(JSON.stringify(rows, null, 2));
  else
    for (const r of rows) {
      const leftAside = [
        ...("pages" in r ? [`, the first of ${r.pages} pages`] : []),
        ...("gainMap" in r ? [", its gain map for HDR displays left aside"] : []),
      ].join("");
      const e = [
        r.exposureTime &&
          (r.exposureTime < 0.4 ? `1/${Math.round(1 / r.exposureTime)} s` : `${r.exposureTime} s`),
        r.aperture && `f/${r.aperture}`,
        r.iso && `ISO ${r.iso}`,
        r.focalLength && `${r.focalLength} mm`,
        r.takenAt && new Date(r.takenAt * 1000).toISOString().slice(0, 19).replace("T", " "),
        r.ev100 !== undefined && `EV100 ${r.ev100.toFixed(1)}`,
      ]
        .filter(Boolean)
        .join(", ");
      out(
        `${r.file}: ${r.format}, ${r.width} x ${r.height} px, ${r.depth} bit, ${r.profile}${leftAside}${e ? `, ${e}` : ""}, clipped ${(r.clippedBright * 100).toFixed(2)} % bright, ${(r.clippedDark * 100).toFixed(2)} % dark`,
      );
    }
  failed.forEach(complain);
  if (failed.length)
    throw new RhizomeError(
      "some-failed",
      `${failed.length} of ${positionals.length} files could not be read.`,
      "see above",
    );
}
