import * as v from "valibot";
import { CameraSettingsSchema, type CameraSettings } from "../../simulate/programme";
import type { DemoScene } from "../store/demo";

/**
 * Lenses that may be set for a kind of scene, mm on 36 mm. A room's picture can be cut, but not
 * widened.
 */
export const LENSES: Record<DemoScene["kind"], readonly number[]> = {
  bracket: [20, 24, 28, 35],
  panorama: [24, 35, 50],
  focus: [100],
};
export const ISOS = [100, 200, 400, 800, 1600, 3200] as const;
/** Bracketings that are compared: frames and EV from one to the next. */
export const BRACKETS = [
  [1, 1],
  [3, 1],
  [3, 2],
  [5, 1],
  [5, 2],
  [7, 1],
  [9, 1],
] as const;

const start = (scene: DemoScene): CameraSettings => ({
  scene: scene.id,
  focal: scene.focal,
  iso: 100,
  hand: false,
  moving: "nothing",
  frames: scene.kind === "bracket" ? 5 : 1,
  step: 2,
  rows: 1,
  overlap: 0.3,
  turned: "portrait",
  near: 0,
  far: scene.frames.length - 1,
  gap: 2,
});

/**
 * The camera's settings from the page's address; what is missing, or no setting, is as it begins
 * for the scene.
 */
export function readSettings(
  params: URLSearchParams,
  scenes: readonly DemoScene[],
): { scene: DemoScene; settings: CameraSettings } {
  const scene = scenes.find((s) => s.id === params.get("scene")) ?? scenes[0]!;
  const settings = start(scene);
  for (const [key, schema] of Object.entries(CameraSettingsSchema.entries)) {
    const text = params.get(key);
    const was = settings[key as keyof CameraSettings];
    if (text === null || key === "scene") continue;
    let value: number | boolean | string;
    if (typeof was === "number") value = Number(text);
    else if (typeof was === "boolean") value = text === "true";
    else value = text;
    if (v.is(schema as v.GenericSchema, value)) Object.assign(settings, { [key]: value });
  }
  if (!LENSES[scene.kind].includes(settings.focal)) settings.focal = scene.focal;
  return { scene, settings };
}

export const writeSettings = (settings: CameraSettings): URLSearchParams =>
  new URLSearchParams(
    Object.entries(settings).map(([k, value]): [string, string] => [k, String(value)]),
  );
