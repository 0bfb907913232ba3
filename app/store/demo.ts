import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { db } from "./db";
import { exclusively } from "./exclusive";

/**
 * A scene of the demo that the stand-in camera takes frames of: those it is known from and how they
 * were taken; distances in mm.
 */
const SceneSchema = v.object({
  id: v.string(),
  title: v.string(),
  kind: v.picklist(["bracket", "panorama", "focus"]),
  frames: v.array(v.string()),
  focal: v.number(),
  time: v.number(),
  aperture: v.number(),
  near: v.optional(v.number()),
  far: v.optional(v.number()),
  /** steps of focus over which things look sharp */
  sharpSteps: v.optional(v.number()),
});
export type DemoScene = v.InferOutput<typeof SceneSchema>;
const ManifestSchema = v.object({
  shoot: v.string(),
  frames: v.array(v.string()),
  scenes: v.array(SceneSchema),
});

async function get(path: string): Promise<Response> {
  const r = await fetch(`/demo/${path}`).catch(() => undefined);
  if (!r?.ok)
    throw new RhizomeError(
      "demo-missing",
      "The demo frames could not be read from the server.",
      "start Rhizome with `npm run demo`",
    );
  return r;
}

/** What the demo consists of, from our own server. @throws RhizomeError `demo-missing` */
export async function demoManifest(): Promise<v.InferOutput<typeof ManifestSchema>> {
  return v.parse(ManifestSchema, await (await get("shoot.json")).json());
}

/** Some of the demo's frames. @throws RhizomeError `demo-missing` */
export async function fetchFrames(
  names: readonly string[],
  report: (share: number) => void,
): Promise<File[]> {
  const files: File[] = [];
  for (const n of names) {
    files.push(new File([await (await get(n)).blob()], n, { type: "image/jpeg" }));
    report(files.length / names.length);
  }
  return files;
}

/** The whole demo shoot. @throws RhizomeError `demo-missing` */
export async function fetchDemo(
  report: (share: number) => void,
): Promise<{ name: string; files: File[] }> {
  const { shoot, frames } = await demoManifest();
  return { name: shoot, files: await fetchFrames(frames, report) };
}

const SEEDED = "demo-brought-in";
/** The shoot that the demo comes into; it may be there in part. */
const DEMO_SHOOT = "demo shoot";

/** Whether the demo was never in this browser whole. */
export async function demoWanted(): Promise<boolean> {
  return !(await (await db()).get("settings", SEEDED));
}
export async function demoDone(): Promise<void> {
  await exclusively(async () => (await db()).put("settings", true, SEEDED));
}

/** The shoot for the demo: the one in which a part of it is, or a new one. */
export async function demoShoot(): Promise<string> {
  const d = await db();
  const known = await d.get("settings", DEMO_SHOOT);
  if (typeof known === "string" && (await d.getKey("shoots", known))) return known;
  const id = crypto.randomUUID();
  await exclusively(async () => (await db()).put("settings", id, DEMO_SHOOT));
  return id;
}
