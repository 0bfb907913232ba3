import { plainGround } from "../../simulate/plainGround";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulateFocusRun } from "../../simulate/focusRun";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep } from "../../simulate/sweep";
import { inProcess, type MemoryFrame } from "../../tests/inProcess";
import { renderScratch } from "../deliver/step";
import { renderSettings } from "../deliver/renderSettings";
import { plain } from "../merge/scene";
import { defaultRecipe, toneOf, withSetting, type Recipe, type RecipeOf } from "../recipe/recipe";
import { retouchStep } from "../retouch/step";
import { toneStep } from "../tone/step";
import { runPipeline } from "./runPipeline";

const W = 480;
const H = 320;
/** The preview is made from frames that are read at a half of their size. */
const BY = 2;
/** px at the borders of the picture that are not compared: what lies beyond them differs. */
const MARGIN = 6;

const bracket: MemoryFrame[] = [0, 2, -2].map((ev, i) => ({
  name: `b${i}.png`,
  width: W,
  height: H,
  exif: { exposureTime: 0.1 * 2 ** ev },
  samples: takeFrame(simulatedRoom(W + 40, H + 40, 3), {
    width: W,
    height: H,
    ev,
    toScene: [1, 0, 20 + 5 * i, 0, 1, 20 - 3 * i, 0, 0, 1],
    seed: 70 + i,
    response: srgbResponse,
    gain: 60000,
    read: 4e-4,
  }) as Uint8Array,
}));

const focusRun: MemoryFrame[] = simulateFocusRun(plainGround(W, H, 14), {
  width: W,
  height: H,
  count: 4,
  blur: W / 50,
  breathing: 0.01,
  shift: 2,
  roll: 0.2,
  flicker: 0,
  seed: 14,
}).frames.map(({ samples }, i) => ({ name: `f${i}.png`, samples, width: W, height: H }));

const FOCAL_PX = 500;
const sweep: MemoryFrame[] = simulateSweep(
  { ...simulatedRoom(1400, 840, 21), piece: { across: 120, down: 70 } },
  {
    directions: [
      [-14, 0],
      [14, 0],
    ],
    width: W,
    height: H,
    focalPx: FOCAL_PX,
    seed: 4,
  },
).map(({ samples }, i) => ({
  name: `p${i}.png`,
  samples,
  width: W,
  height: H,
  exif: { focalLength35: (FOCAL_PX / W) * 36 },
}));

interface Seen {
  pixels: Uint8Array;
  width: number;
  height: number;
}

/** A stack's picture as it is seen at 1/scale of its size. */
async function seen(stack: MemoryFrame[], recipe: Recipe, scale: number): Promise<Seen> {
  const { pool, frames } = inProcess(stack);
  const merged = await runPipeline(pool, frames, recipe, { scale, progress: () => undefined });
  const { scene } = await retouchStep.run(pool, merged, recipe.retouch, {});
  const { field } = await toneStep.run(pool, scene, toneOf(recipe), {});
  const { width, height } = scene;
  const dst = pool.allocate(width * height * 4 + 64);
  const region = { x: 0, y: 0, width, height };
  const settings = renderSettings(recipe, "srgb");
  const how = { scene: plain(scene), field, settings, region, kind: "rgba8" as const, dst };
  await pool.run("render", { ...how, y0: 0, y1: height }, { scratch: renderScratch(width) });
  return { pixels: await pool.read(dst, width * height * 4), width, height };
}

/** A picture averaged in blocks, as large as its preview. */
function reduced({ pixels, width }: Seen, to: Pick<Seen, "width" | "height">): Seen {
  const small = new Uint8Array(to.width * to.height * 4);
  for (let y = 0; y < to.height; y++)
    for (let x = 0; x < to.width; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let j = 0; j < BY; j++)
          for (let i = 0; i < BY; i++)
            sum += pixels[4 * ((y * BY + j) * width + x * BY + i) + c] ?? 0;
        small[4 * (y * to.width + x) + c] = Math.round(sum / BY ** 2);
      }
  return { pixels: small, width: to.width, height: to.height };
}

/** How alike two pictures of one size are, dB. */
function likeness(a: Seen, b: Seen): number {
  let sum = 0;
  let count = 0;
  for (let y = MARGIN; y < a.height - MARGIN; y++)
    for (let x = MARGIN; x < a.width - MARGIN; x++)
      for (let c = 0; c < 3; c++) {
        const at = 4 * (y * a.width + x) + c;
        sum += (a.pixels[at]! - b.pixels[at]!) ** 2;
        count++;
      }
  return 10 * Math.log10((255 ** 2 * count) / sum);
}

type Kind = Recipe["kind"];
const STACKS: Record<Kind, MemoryFrame[]> = { bracket, focus: focusRun, panorama: sweep };

/**
 * The recipe that the cases differ from. The local operator looks at smaller neighbourhoods than
 * the grid of so small a preview has; core/tone/toneField.test.ts holds it at sizes that are seen.
 */
const usual: { [K in Kind]: RecipeOf<K> } = {
  bracket: withSetting(defaultRecipe("bracket"), "tone.operator=base"),
  focus: defaultRecipe("focus"),
  panorama: defaultRecipe("panorama"),
};
const set = (kind: Kind, ...settings: string[]): Recipe =>
  settings.reduce<Recipe>(withSetting, usual[kind]);

const repaired = (kind: "heal" | "clone"): Recipe => ({
  ...usual.bracket,
  retouch: {
    repairs: [
      {
        kind,
        shape: { type: "spot", x: 0.4, y: 0.5, radius: 0.05 },
        source: { dx: 0.3, dy: -0.1 },
        softness: 0.3,
        on: true,
      },
    ],
  },
});
const patched: Recipe = {
  ...usual.bracket,
  ghosts: {
    patches: [
      {
        id: "a",
        frame: "b1.png",
        on: true,
        shape: "outline",
        points: [
          [0.2, 0.2],
          [0.6, 0.2],
          [0.6, 0.7],
        ],
        radius: 0,
        soft: 0.01,
      },
    ],
  },
};

/** Least likeness of a preview and the picture that goes out, dB. */
const USUAL_DB = 36;
/** The same where pixels are interpolated: that makes a small picture softer than a large one. */
const RESAMPLED_DB = 33;

const usualPreviews = new Map<Kind, Promise<Seen>>();
function usualPreview(kind: Kind): Promise<Seen> {
  const known = usualPreviews.get(kind) ?? seen(STACKS[kind], usual[kind], BY);
  usualPreviews.set(kind, known);
  return known;
}

test.each<[string, Recipe, leastDb?: number]>([
  ["prepare: distortion", set("bracket", "prepare.distortion=0.08"), RESAMPLED_DB],
  ["prepare: vignetting", set("bracket", "prepare.vignetting=0.5")],
  ["prepare: temperature", set("bracket", "prepare.temperature=4000")],
  ["align: none", set("bracket", "align.motion=none")],
  // what it takes for contrast is noise, too, of which a reduced frame has less
  ["merge: fusion", set("bracket", "merge.method=fusion"), 26],
  ["merge: pyramid", set("focus", "merge.method=pyramid")],
  ["ghosts: a patch", patched],
  ["panorama: projection", set("panorama", "panorama.projection=stereographic")],
  ["panorama: turned", set("panorama", "panorama.yaw=8")],
  ["retouch: healed", repaired("heal")],
  ["retouch: cloned", repaired("clone")],
  ["edges: rolled", set("bracket", "edges.roll=4"), RESAMPLED_DB],
  ["tone: global", set("bracket", "tone.operator=global")],
  ["tone: plain", set("bracket", "tone.operator=plain")],
  ["tone: zones", set("bracket", "tone.lifts=0.5,0.5,0,0,-0.5")],
])("%s: what is seen small is what goes out, reduced", async (_, recipe, leastDb = USUAL_DB) => {
  const stack = STACKS[recipe.kind];
  const preview = await seen(stack, recipe, BY);
  expect(preview).not.toEqual(await usualPreview(recipe.kind));
  const full = await seen(stack, recipe, 1);
  expect(likeness(preview, reduced(full, preview))).toBeGreaterThan(leastDb);
});
