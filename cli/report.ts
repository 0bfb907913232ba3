import { type StackFrame, VERSION } from "./arguments";
import type { Delivered } from "../pipeline/deliverStack";
import type { Recipe } from "../pipeline/recipe/recipe";
import { deliveryBytes } from "../pipeline/memory";
import { exposureEv } from "../core/frame/frame";
import { toReference } from "../pipeline/align/step";

export function reportOf(
  frames: StackFrame[],
  done: Delivered,
  file: string,
  r: Recipe,
  budget: number,
) {
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

/** How a picture was set upright: what said so, and the way from its px to the reference frame's. */
function straightenedReport({ straightening }: NonNullable<Delivered["aligned"]>) {
  if (!straightening) return {};
  const { by, upright, corrected, fromPicture, focalPx } = straightening;
  return {
    straightened: {
      by,
      ...(upright ? { found: upright } : {}),
      ...(corrected ? { corrected } : {}),
      focalPx,
      toReference: fromPicture,
    },
  };
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
  warnings.push(...(aligned.warnings ?? []));
  return {
    ...straightenedReport(aligned),
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
    ...straightenedReport(aligned),
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
