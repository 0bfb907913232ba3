import { planeBytesOf } from "../../core/raster/accumulator";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { MaskStyle } from "../../core/finish/paintMask";
import type { Finish, GridLines, SceneNoise } from "../../core/finish/finish";
import {
  neighbourhoodPlan,
  neighbourhoodPlanes,
  neighbourhoodScratch,
} from "../../core/finish/neighbourhood";
import type { KnownNeighbourhoods } from "../../core/finish/renderFinished";
import type { Planes } from "../../core/tone/renderStrip";
import type { ToneField } from "../../core/tone/toneField";
import type { Piece, Pieces } from "../../pipeline/finish/pieces";
import { PieceMaker, type PreparedFinish } from "../../pipeline/finish/prepareFinish";
import { finishStep } from "../../pipeline/finish/step";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { toneOf, weighsNoise, type Recipe } from "../../pipeline/recipe/recipe";
import { toneStep, type AllocatedField } from "../../pipeline/tone/step";
import type { JudgedPicture } from "../../pipeline/tone/tasks";
import type { Tasks } from "../../pipeline/worker/tasks";
import { leaseOf, type Lease } from "../../runtime/lease";
import { LeaseCache } from "../../runtime/leaseCache";
import type { Readers } from "../../runtime/readers";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf } from "../../runtime/work";
import { pool } from "./pool";
import { renderBright } from "./brightView";
import { render, type Drawing, type Drawn, type SeenPart, type Toning } from "./renderSeen";
import type { View } from "./sessionState";

/** Tone fields, pieces of finishes, reduced parts and their neighbourhoods that are kept. */
const FIELDS = 12;
const PIECES = 48;
const PARTS = 3;
const NEIGHBOURHOODS = 3;
/** A part is drawn from a reduced one where it is seen smaller than this. */
const REDUCED_BELOW = 0.99;

/** A part of a scene at the size it is seen, and its region to render: all of it. */
type Reduced = Required<Planes> & Lease & { part: Rectangle };

/** A part of a scene at another size, to be drawn at once. */
async function resized(
  scene: Scene,
  part: Rectangle,
  { width, height }: { width: number; height: number },
): Promise<Reduced> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const planeBytes = planeBytesOf(width, height);
  const to = { ptr: scope.allocate(planeBytes * 4 + 64), planeBytes, width, height };
  await Promise.all(
    rowsOf(height, scope.threads).map(([y0, y1]) =>
      scope.run(
        "resize",
        { scene: plain(scene), part, to, y0, y1 },
        { scratch: (scene.width + scene.height) * 16 + (width + height) * 16 + (1 << 16) },
      ),
    ),
  );
  scope.keep(to.ptr);
  return {
    ...to,
    lies: {
      x: part.x / scene.width,
      y: part.y / scene.height,
      width: part.width / scene.width,
      height: part.height / scene.height,
    },
    part: { x: 0, y: 0, width, height },
    ...leaseOf(() => pool().free(to.ptr)),
  };
}

/** Draws parts of scenes, and keeps what the next drawing may need as well. */
export class SceneDrawing {
  private readonly fields: LeaseCache<AllocatedField>;
  private readonly parts: LeaseCache<Reduced>;
  private readonly pieces: LeaseCache<Piece>;
  private readonly neighbourhoods: LeaseCache<Known>;
  private readonly noises = new WeakMap<Scene, Promise<SceneNoise>>();
  /**
   * Tells scenes apart: one that is drawn while it is replaced must not pass for the one that
   * follows it.
   */
  private readonly numbers = new WeakMap<Scene, number>();
  private scenes = 0;

  /**
   * Nothing is drawn yet.
   *
   * @param readers  who look at the scenes and at what is made of them
   */
  constructor(readers: Readers) {
    this.fields = new LeaseCache(readers, FIELDS);
    this.parts = new LeaseCache(readers, PARTS);
    this.pieces = new LeaseCache(readers, PIECES);
    this.neighbourhoods = new LeaseCache(readers, NEIGHBOURHOODS);
  }

  /** Forgets what was made of scenes that are no longer shown. */
  clear(): void {
    this.fields.clear();
    this.parts.clear();
    this.pieces.clear();
    this.neighbourhoods.clear();
  }

  /** How a recipe tones the scene that is shown. Exposure comes after it. */
  field(scene: Scene, recipe: Recipe): Promise<AllocatedField> {
    const tone = toneOf(recipe);
    const key = JSON.stringify([this.numberOf(scene), { ...tone, exposure: 0 }]);
    return this.fields.get(key, () => toneStep.run(pool(), scene, tone, { priority: "screen" }));
  }

  /** How a recipe finishes the scene that is shown; undefined where it changes nothing. */
  async finish(
    scene: Scene,
    recipe: Recipe,
    size: { width: number; height: number },
  ): Promise<PreparedFinish | undefined> {
    const tone = await this.field(scene, recipe);
    const toneKey = JSON.stringify({ ...toneOf(recipe), exposure: 0 });
    return finishStep.run(
      pool(),
      {
        scene,
        tone,
        toneKey,
        exposure: recipe.tone.exposure,
        size,
        noiseByWeights: weighsNoise(recipe),
      },
      recipe.finish,
      this.piecesOf(scene),
      { priority: "screen" },
    );
  }

  /** Makes the pieces of a scene's finish one by one: its masks and colours are asked for so. */
  async piecesFor(scene: Scene, recipe: Recipe): Promise<PieceMaker> {
    const tone = await this.field(scene, recipe);
    const input = { scene, tone, toneKey: "", exposure: recipe.tone.exposure };
    return new PieceMaker(pool(), input, this.piecesOf(scene), { priority: "screen" });
  }

  /** A part's mask over a part of a scene as it is seen. */
  async mask(
    scene: Scene,
    part: Rectangle,
    scale: number,
    lines: GridLines,
    style: MaskStyle,
  ): Promise<Pick<View, "pixels" | "width" | "height">> {
    const smaller = await this.reducedPart(scene, part, Math.min(1, scale));
    const { width, height, lies } = smaller;
    const lowest = 2 ** scene.grid.floorEv;
    const pixels = await pool().run(
      "paintMask",
      { scene: { ...plain(smaller), lies }, lines, lowest, style },
      { scratch: width * height * 4 + (1 << 18), priority: "screen" },
    );
    return { pixels: new Uint8ClampedArray(pixels.buffer), width, height };
  }

  /** Measures a picture at a size against the scene that it shows. */
  async judge(
    scene: Scene,
    part: Rectangle,
    scale: number,
    drawing: Drawing,
  ): Promise<JudgedPicture> {
    const far = Math.min(scale, REDUCED_BELOW / 2);
    const smaller = await this.reducedPart(scene, part, far);
    const { pixels } = await this.draw(scene, part, far, drawing);
    return pool().run("judgePicture", { scene: plain(smaller), pixels }, { priority: "screen" });
  }

  private piecesOf(scene: Scene): Pieces {
    const number = this.numberOf(scene);
    return { get: (key, make) => this.pieces.get(`${number} ${key}`, make) };
  }

  /**
   * A part of a scene as it is seen.
   *
   * @param scale  device px that a px of the scene takes
   */
  async draw(scene: Scene, part: Rectangle, scale: number, drawing: Drawing): Promise<Drawn> {
    return render(await this.seen(scene, part, scale, drawing), drawing);
  }

  /**
   * A part of a scene as a display shows it that goes beyond white.
   *
   * @param bright  how it is toned for such a display, and how far that goes, EV
   * @returns a PNG
   */
  async drawBright(
    scene: Scene,
    part: Rectangle,
    scale: number,
    drawing: Toning,
    bright: { field: ToneField; headroom: number },
  ): Promise<Blob> {
    return renderBright(await this.seen(scene, part, scale, drawing), drawing, bright);
  }

  /** What is rendered of a scene at a scale. */
  private async seen(
    scene: Scene,
    part: Rectangle,
    scale: number,
    drawing: Toning,
  ): Promise<SeenPart> {
    const { size } = drawing;
    const reduced = scale < REDUCED_BELOW;
    const smaller = reduced ? await this.reducedPart(scene, part, scale) : undefined;
    const seen: Planes = smaller ? { ...plain(smaller), lies: smaller.lies } : plain(scene);
    const region = smaller ? smaller.part : part;
    if (!drawing.finish) return { scene: seen, region };
    const perFullPx = (scene.width / size.width) * (reduced ? scale : 1);
    const noise = await this.noiseOf(scene, drawing.finish, reduced ? scale : 1);
    const { noiseByWeights: _byWeights, ...rest } = drawing.finish;
    const finish: Finish = { ...rest, scale: Math.min(1, perFullPx), ...(noise ? { noise } : {}) };
    const key = JSON.stringify([this.numberOf(scene), part, scale]);
    const known = await this.knownNeighbourhoods(key, seen, region, finish, drawing.field);
    return { scene: seen, region, finish, known };
  }

  private reducedPart(scene: Scene, part: Rectangle, scale: number): Promise<Reduced> {
    const size = {
      width: Math.max(1, Math.round(part.width * scale)),
      height: Math.max(1, Math.round(part.height * scale)),
    };
    const key = JSON.stringify([this.numberOf(scene), part, size]);
    return this.parts.get(key, () => resized(scene, part, size));
  }

  /** The noise of a scene that is seen at a scale: what is reduced has so much less. */
  private async noiseOf(
    scene: Scene,
    { parts, noiseByWeights }: PreparedFinish,
    scale: number,
  ): Promise<SceneNoise | undefined> {
    if (!neighbourhoodPlanes(neighbourhoodPlan({ parts }))) return undefined;
    const known =
      this.noises.get(scene) ??
      pool().run(
        "measureNoise",
        { scene: plain(scene), byWeights: noiseByWeights },
        { scratch: 1 << 16, priority: "screen" },
      );
    this.noises.set(scene, known);
    const noise = await known;
    return { ...noise, factor: noise.factor * scale };
  }

  /** The neighbourhoods of what is seen: a slider that only weighs them finds them there. */
  private async knownNeighbourhoods(
    view: string,
    scene: Planes,
    region: Rectangle,
    finish: Finish,
    field: ToneField,
  ): Promise<Known | undefined> {
    const plan = neighbourhoodPlan(finish);
    const count = neighbourhoodPlanes(plan);
    if (!count) return undefined;
    const key = JSON.stringify([view, plan, finish.noise, field.floor]);
    return this.neighbourhoods.get(key, () =>
      findNeighbourhoods(scene, region, finish, field, count),
    );
  }

  private numberOf(scene: Scene): number {
    const known = this.numbers.get(scene) ?? ++this.scenes;
    this.numbers.set(scene, known);
    return known;
  }
}

/** Neighbourhoods of what is seen, until they are released. */
type Known = KnownNeighbourhoods & Lease;

/** Rows of a strip in which neighbourhoods are found for the screen. */
const STRIP_ROWS = 128;

/** Finds the neighbourhoods of a region, in planes over the whole raster. */
async function findNeighbourhoods(
  scene: Planes,
  region: Rectangle,
  finish: Finish,
  field: ToneField,
  count: number,
): Promise<Known> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const planeBytes = planeBytesOf(scene.width, scene.height);
  const at = scope.allocate(planeBytes * count + 64);
  await Promise.all(
    rowsOf(region.height, Math.ceil(region.height / STRIP_ROWS)).map(([y0, y1]) => {
      const tile = { x: region.x, y: region.y + y0, width: region.width, height: y1 - y0 };
      return scope.run(
        "neighbourhoods",
        { scene, finish, lowest: field.floor, tile, at, planeBytes },
        { scratch: neighbourhoodScratch(tile.width, tile.height) },
      );
    }),
  );
  scope.keep(at);
  return { at, planeBytes, ...leaseOf(() => pool().free(at)) };
}
