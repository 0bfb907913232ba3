import { readdir, readFile, stat } from "node:fs/promises";
import { basename, extname, join } from "node:path";
import { parseArgs, type ParseArgsConfig } from "node:util";
import { isPictureName } from "../codecs/format";
import type { OutputFormat } from "../codecs/codec";
import type { Parts } from "../codecs/stream";
import { RhizomeError } from "../core/error";
import { ev100, exposureEv } from "../core/frame/frame";
import { byName } from "../core/grouping/captureOrder";
import type { FoundStack } from "../core/grouping/foundStack";
import type { FrameSignature } from "../core/grouping/signature";
import {
  defaultRecipe,
  isMerged,
  parseRecipe,
  withSetting,
  type Recipe,
} from "../core/recipe/recipe";
import { toReference } from "../core/steps/align/step";
import { downscaleTo, WORK_EDGE, type StackFrame as Member } from "../core/steps/work";
import { deliverStack, type Delivered } from "../engine/deliver";
import { deliveryBytes } from "../engine/memory";
import { nodeResultCache } from "../engine/hosts/nodeResultCache";
import { nodeHost } from "../engine/hosts/node";
import { writeWhole } from "../engine/hosts/writeWhole";
import { Pool } from "../engine/pool";
import type { FileSource } from "../engine/worker/tasks";

/** Depth of a file by its format where none is given; of others 16. */
const USUAL_DEPTH: Record<string, string> = { jpg: "8", hdr: "32f" };

type StackFrame = Member<FileSource>;

const VERSION = "0.1.0";
/** What a folder of kept merges may take when nothing is said. */
const CACHE_MIB = 4096;
const out = (text: string): void => {
  process.stdout.write(`${text}\n`);
};
const usage = (message: string): RhizomeError =>
  new RhizomeError("usage", message, "see the README for the calls");
const openPool = (threads?: number, memoryMiB?: number): Pool =>
  new Pool(
    nodeHost(new URL("./worker.js", import.meta.url), threads),
    memoryMiB ? memoryMiB * 2 ** 20 : undefined,
  );

function parse<T extends NonNullable<ParseArgsConfig["options"]>>(args: string[], options: T) {
  try {
    return parseArgs({ args, options, allowPositionals: true });
  } catch (e) {
    throw usage((e as Error).message.split("\n")[0]!);
  }
}

interface ReadFrame extends StackFrame {
  signature?: FrameSignature;
}

async function readFrames(
  pool: Pool,
  files: string[],
  signature = false,
): Promise<{ frames: ReadFrame[]; failed: RhizomeError[] }> {
  const results = await Promise.all(
    files.map(async (path): Promise<ReadFrame | RhizomeError> => {
      try {
        const {
          info,
          hash,
          signature: seen,
        } = await pool.run("inspect", {
          source: { name: basename(path), path },
          thumbnail: 0,
          signature,
        });
        return {
          id: path,
          content: hash,
          ...(seen ? { signature: seen } : {}),
          source: { name: basename(path), path },
          info,
        };
      } catch (e) {
        return RhizomeError.from(e);
      }
    }),
  );
  return {
    frames: results.filter((r): r is ReadFrame => !(r instanceof RhizomeError)),
    failed: results.filter((r) => r instanceof RhizomeError),
  };
}

const complain = (e: RhizomeError): void => {
  process.stderr.write(`rhizome: ${e.code}: ${e.message} (${e.remedy})\n`);
};

export async function inspect(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, { json: { type: "boolean" } });
  if (!positionals.length) throw usage("inspect needs at least one file");
  const pool = openPool();
  const { frames, failed } = await readFrames(pool, positionals);
  const rows = await Promise.all(
    frames.map(async (f) => {
      const clip = await pool.run("clipping", {
        source: f.source,
        downscale: downscaleTo(f.info, WORK_EDGE),
      });
      return {
        file: f.id,
        format: f.info.format,
        width: f.info.width,
        height: f.info.height,
        depth: f.info.depth,
        profile: f.info.profile,
        ...(f.info.pages ? { pages: f.info.pages } : {}),
        ...f.info.exif,
        ev100: ev100(f.info.exif),
        clippedBright: clip.bright,
        clippedDark: clip.dark,
      };
    }),
  );
  if (values.json) out(JSON.stringify(rows, null, 2));
  else
    for (const r of rows) {
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
        `${r.file}: ${r.format}, ${r.width} x ${r.height} px, ${r.depth} bit, ${r.profile}${"pages" in r ? `, the first of ${r.pages} pages` : ""}${e ? `, ${e}` : ""}, clipped ${(r.clippedBright * 100).toFixed(2)} % bright, ${(r.clippedDark * 100).toFixed(2)} % dark`,
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

async function listPictures(dir: string): Promise<string[]> {
  let names: string[];
  try {
    names = await readdir(dir);
  } catch {
    throw new RhizomeError("unreadable", `${dir} is no folder that can be read.`, "check the path");
  }
  return names
    .filter(isPictureName)
    .sort(byName)
    .map((n) => join(dir, n));
}

/** A found stack as `group` prints it: names instead of indices. */
const named = (s: FoundStack, frames: readonly ReadFrame[]): object => ({
  kind: s.kind,
  frames: s.frames.map((i) => frames[i]!.source.name),
  why: s.why,
  warnings: s.warnings,
  ...(s.rows ? { rows: s.rows } : {}),
  ...(s.members ? { members: s.members.map((m) => named(m, frames)) } : {}),
});

const findStacks = async (
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

function gapOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const n = Number(text);
  if (!(n >= 0)) throw usage(`--gap is in seconds, not "${text}"`);
  return n;
}

export async function recipe(args: string[]): Promise<void> {
  out(JSON.stringify(defaultRecipe(args[0] ?? ""), null, 2));
}

const ENDINGS: Record<string, OutputFormat> = {
  ".tif": "tif",
  ".tiff": "tif",
  ".jpg": "jpg",
  ".jpeg": "jpg",
  ".png": "png",
  ".exr": "exr",
  ".hdr": "hdr",
};

export async function merge(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    as: { type: "string" },
    out: { type: "string" },
    recipe: { type: "string" },
    set: { type: "string", multiple: true },
    report: { type: "string" },
    threads: { type: "string" },
    memory: { type: "string" },
    cache: { type: "string" },
    "cache-size": { type: "string" },
    depth: { type: "string" },
    space: { type: "string" },
    progress: { type: "boolean" },
  });
  if (!positionals.length) throw usage("merge needs frames");
  if (!values.out) throw usage("merge needs --out FILE");
  const format = ENDINGS[extname(values.out).toLowerCase()];
  if (!format)
    throw usage(`"${values.out}" has no ending that can be written: .tif .jpg .png .exr .hdr`);
  let r: Recipe = values.recipe
    ? parseRecipe(
        JSON.parse(
          await readFile(values.recipe, "utf8").catch(() => {
            throw new RhizomeError(
              "unreadable",
              `${values.recipe} cannot be opened.`,
              "check the path",
            );
          }),
        ),
      )
    : defaultRecipe(values.as ?? "");
  if (values.as && values.as !== r.kind)
    throw usage(`the recipe is for a ${r.kind}, not a ${values.as}`);
  r = withSetting(r, `deliver.format=${format}`);
  r = withSetting(r, `deliver.depth=${values.depth ?? USUAL_DEPTH[format] ?? "16"}`);
  // a file without a curve of its own is linear unless another space is asked for
  r = withSetting(
    r,
    `deliver.space=${values.space ?? (format === "hdr" || format === "exr" ? "linear" : "srgb")}`,
  );
  for (const s of values.set ?? []) r = withSetting(r, s);
  const number = (name: string, text: string | undefined): number | undefined => {
    if (text === undefined) return undefined;
    const n = Number(text);
    if (!(n >= 1)) throw usage(`--${name} needs a number, not "${text}"`);
    return n;
  };
  const pool = openPool(number("threads", values.threads), number("memory", values.memory));
  const { frames, failed } = await readFrames(pool, positionals);
  if (failed.length) throw failed[0]!;
  const show = values.progress || process.stderr.isTTY;
  const done = await deliverStack(pool, frames, r, {
    ...(values.cache
      ? {
          whole: nodeResultCache(
            values.cache,
            (number("cache-size", values["cache-size"]) ?? CACHE_MIB) * 2 ** 20,
          ),
        }
      : {}),
    now: () => performance.now(),
    progress: (share, doing) => {
      if (show) process.stderr.write(`${Math.round(share * 100)} % ${doing}\n`);
    },
  });
  await save(values.out, done.file as Parts);
  if (values.report)
    await save(values.report, [
      new TextEncoder().encode(
        `${JSON.stringify(reportOf(frames, done, values.out, r, pool.budget), null, 2)}\n`,
      ),
    ]);
}

async function save(file: string, parts: Parts): Promise<void> {
  try {
    await writeWhole(file, parts);
  } catch (e) {
    throw new RhizomeError(
      "unwritable",
      `${file} cannot be written: ${(e as NodeJS.ErrnoException).code ?? "unknown reason"}.`,
      "check the path, the rights and the free space",
    );
  }
}

function reportOf(frames: StackFrame[], done: Delivered, file: string, r: Recipe, budget: number) {
  const { kind } = r;
  const common = {
    kind,
    version: VERSION,
    output: { file, width: done.width, height: done.height },
    timingsMs: Object.fromEntries(
      Object.entries(done.timingsMs).map(([k, v]) => [k, Math.round(v)]),
    ),
    peakMemoryBytes: process.resourceUsage().maxRSS * 1024,
    expectedMemoryBytes: deliveryBytes(budget, frames, r, done.panorama?.layout.canvas),
    suspects: done.suspects,
  };
  if (done.panorama)
    return {
      ...common,
      ...panoramaReport(frames, done.panorama, done.width / done.panorama.region.width),
    };
  if (kind === "focus") return { ...common, ...focusReport(frames, done.aligned!) };
  return { ...common, ...bracketReport(frames, done.aligned!) };
}

function bracketReport(frames: StackFrame[], aligned: NonNullable<Delivered["aligned"]>) {
  const warnings = aligned.frames.flatMap((a, i) =>
    a.warning
      ? [
          {
            code: a.used ? "little-overlap" : "not-aligned",
            message: `${frames[i]!.source.name} ${a.warning}`,
          },
        ]
      : [],
  );
  const apertures = new Set(frames.map((f) => f.info.exif.aperture));
  if (apertures.size > 1)
    warnings.push({
      code: "aperture-varies",
      message:
        "The aperture changed within the bracket: the depth of field differs from frame to frame",
    });
  if (frames.some((f) => exposureEv(f.info.exif) === undefined))
    warnings.push({
      code: "exposure-unknown",
      message: "Exposure times are missing; they were estimated from the pixels",
    });
  const unknown = aligned.frames.flatMap((a, i) =>
    a.used && a.residualPx === undefined ? [frames[i]!.source.name] : [],
  );
  if (unknown.length)
    warnings.push({
      code: "alignment-unknown",
      message: `How exactly ${unknown.join(", ")} lies is not known: too little of it is well exposed in the other frames as well`,
    });
  if (aligned.response)
    warnings.push({
      code: "response-estimated",
      message:
        "The files' profile contradicts the exposure times; the tone curve was estimated from the frames",
    });
  return {
    frames: aligned.frames.map((a, i) => ({
      file: frames[i]!.source.name,
      ev: a.ev,
      used: a.used,
      toReference: toReference(a),
      residualPx: a.residualPx ?? null,
    })),
    reference: aligned.reference,
    warnings,
  };
}

function focusReport(frames: StackFrame[], aligned: NonNullable<Delivered["aligned"]>) {
  const name = (i: number): string => frames[i]!.source.name;
  const used = aligned.frames.filter((f) => f.used).length;
  return {
    frames: aligned.frames.map((a, i) => ({
      file: name(i),
      ev: -(a.gainEv ?? 0),
      ...(a.cornerEv ? { cornerEv: -a.cornerEv } : {}),
      used: a.used,
      toReference: toReference(a),
      residualPx: a.residualPx ?? null,
    })),
    reference: aligned.reference,
    focus: {
      order: (aligned.order ?? []).map(name),
      coverage: used / frames.length,
      gaps: (aligned.gaps ?? []).map((k) => [
        name(aligned.order![k]!),
        name(aligned.order![k + 1]!),
      ]),
      twice: (aligned.twice ?? []).map((p) => p.map(name)),
    },
    warnings: [
      ...(aligned.warnings ?? []),
      ...(aligned.gaps ?? []).map((k) => ({
        code: "focus-gap",
        message: `The step between ${name(aligned.order![k]!)} and ${name(aligned.order![k + 1]!)} was too wide; a soft band lies between them`,
      })),
      ...aligned.frames.flatMap((a, i) =>
        a.warning ? [{ code: "left-out", message: `${name(i)} ${a.warning}` }] : [],
      ),
    ],
  };
}

/** @param size  by how much the file is smaller than the panorama */
function panoramaReport(
  frames: StackFrame[],
  { layout, region }: NonNullable<Delivered["panorama"]>,
  size: number,
) {
  const { canvas, cameras, rmsPx, leftOut, duplicates } = layout;
  const name = (i: number): string => frames[i]!.source.name;
  return {
    frames: cameras.map((c, i) => ({
      file: name(i),
      ev: -Math.log2(layout.light.gains[i]![1]),
      used: c !== undefined,
      residualPx: rmsPx[i]!,
    })),
    panorama: {
      taken: layout.flat ? "flat" : "point",
      projection: canvas.projection,
      pxPerRadian: canvas.pxPerRadian * size,
      centreX: (canvas.centreX - region.x) * size,
      centreY: (canvas.centreY - region.y) * size,
      ...(layout.levelled ? { level: layout.levelled } : {}),
      frames: cameras.flatMap((c, i) =>
        c
          ? [
              {
                file: name(i),
                rotation: c.rotation,
                focalPx: c.focalPx,
                distortion: c.distortion,
                lens: c.lens ?? "rectilinear",
                ...(c.centre ? { centrePx: c.centre } : {}),
                ...(c.circle === undefined ? {} : { circlePx: c.circle }),
                ...(c.offset
                  ? {
                      [layout.flat ? "beforePlane" : "fromBeside"]: {
                        by: c.offset.by,
                        normal: c.offset.normal,
                      },
                    }
                  : {}),
                rmsPx: rmsPx[i]!,
              },
            ]
          : [],
      ),
      leftOut: leftOut.map(name),
      duplicates: duplicates.map((d) => ({ file: name(d.frame), of: name(d.of) })),
    },
    warnings: [
      ...layout.warnings.filter((w) => w.code !== "left-out"),
      ...leftOut.map((i) => ({
        code: "left-out",
        message: `${name(i)} was not found to overlap the others; it was left out`,
      })),
      ...duplicates.map((d) => ({
        code: "duplicate",
        message: `${name(d.frame)} shows the same as ${name(d.of)}; it was left out`,
      })),
    ],
  };
}

export async function batch(args: string[]): Promise<void> {
  const { values, positionals } = parse(args, {
    out: { type: "string" },
    shard: { type: "string" },
    resume: { type: "boolean" },
    gap: { type: "string" },
  });
  if (positionals.length !== 1 || !values.out) throw usage("batch needs one folder and --out DIR");
  const shard = /^(\d+)\/(\d+)$/.exec(values.shard ?? "1/1");
  if (!shard || Number(shard[1]) < 1 || Number(shard[1]) > Number(shard[2]))
    throw usage("--shard is written I/N, from 1/N to N/N");
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
      const done = await deliverStack(pool, members, defaultRecipe(s.kind), {
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
