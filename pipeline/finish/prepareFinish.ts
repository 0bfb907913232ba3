import { REST, type Adjustments } from "../../core/finish/adjustments";
import { colourGridBytes, colourGridSize, type ColourGrid } from "../../core/finish/colourGrid";
import {
  hasLocalLight,
  type Finish,
  type FinishedPart,
  type GridLines,
} from "../../core/finish/finish";
import { glowBytes } from "../../core/finish/glow";
import { linesBytes } from "../../core/finish/lines";
import type { Part } from "../../core/finish/part";
import { leaseOf } from "../../runtime/lease";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf, type RunOptions } from "../../runtime/work";
import { plain, type Scene } from "../merge/scene";
import type { AllocatedField } from "../tone/step";
import type { Work } from "../work";
import type { Piece, Pieces } from "./pieces";

/** A finish without its noise, which is measured on the light that is rendered. */
export type PreparedFinish = Omit<Finish, "noise"> & {
  /** whether the merge says what each pixel is worth */
  noiseByWeights: boolean;
};

/** What a finish is prepared from. */
export interface FinishInput {
  scene: Scene;
  tone: AllocatedField;
  /** what the tone field was made from, so that what depends on it can be kept by it */
  toneKey: string;
  /** EV by which the picture lies higher than the field says */
  exposure: number;
  /** of the full-size picture, px */
  size: { width: number; height: number };
  noiseByWeights: boolean;
}

/** A part that changes something. */
interface ActivePart {
  adjustments: Adjustments;
  amount: number;
  /** absent for the whole picture */
  part?: Part;
}

/** Bytes of scratch for what is found on the grids. */
export const gridScratch = ({ width, height }: { width: number; height: number }): number =>
  width * height * 4 * 20 + (1 << 20);

type On = Pick<RunOptions, "signal" | "priority">;

/** Makes what each part needs on the grids: masks, light fields, air, glow. */
export async function prepareFinish(
  work: Work,
  input: FinishInput,
  parts: readonly ActivePart[],
  pieces: Pieces,
  on: On,
): Promise<PreparedFinish | undefined> {
  if (!parts.length) return undefined;
  const maker = new PieceMaker(work, input, pieces, on);
  const whole = parts.find(({ part }) => !part)?.adjustments ?? REST;
  const prepared = await Promise.all(
    parts.map(async ({ adjustments, amount, part }): Promise<FinishedPart> => {
      const [mask, light, glow] = await Promise.all([
        part && maker.mask(part),
        hasLocalLight(adjustments)
          ? maker.light(adjustments, part ? whole.exposure : 0)
          : undefined,
        adjustments.glow > 0 ? maker.glow(adjustments, whole.exposure) : undefined,
      ]);
      return {
        adjustments,
        amount,
        ...(mask ? { mask } : {}),
        ...(light ? { light } : {}),
        ...(glow ? { glow } : {}),
      };
    }),
  );
  const needsAir = parts.some(({ adjustments }) => adjustments.haze !== 0);
  const { size, noiseByWeights } = input;
  return {
    scale: 1,
    aspect: size.width / size.height,
    parts: prepared,
    noiseByWeights,
    ...(needsAir ? { air: await maker.air() } : {}),
  };
}

/** Makes the pieces of one scene's finish. */
export class PieceMaker {
  constructor(
    private readonly work: Work,
    private readonly input: Pick<FinishInput, "scene" | "tone" | "toneKey" | "exposure">,
    private readonly pieces: Pieces,
    private readonly on: On,
  ) {}

  async mask({
    shapes,
    inverted,
    feather,
  }: Pick<Part, "shapes" | "inverted" | "feather">): Promise<GridLines> {
    const key = JSON.stringify(["mask", shapes, inverted, feather]);
    return this.onColours(key, linesBytes, (scope, grid, at) =>
      scope.run(
        "partMask",
        { grid, part: { shapes, inverted, feather }, at },
        { scratch: gridScratch(grid), ...this.on },
      ),
    );
  }

  async air(): Promise<NonNullable<Finish["air"]>> {
    return this.onColours("air", linesBytes, (scope, grid, at) =>
      scope.run("findAir", { grid, at }, { scratch: gridScratch(grid), ...this.on }),
    );
  }

  async glow(
    { glowThreshold: threshold, glowRadius: reach }: Adjustments,
    moved: number,
  ): Promise<NonNullable<FinishedPart["glow"]>> {
    const { tone, toneKey, exposure } = this.input;
    const key = JSON.stringify(["glow", threshold, reach, moved, exposure, toneKey]);
    return this.onColours(key, glowBytes, (scope, grid, at) =>
      scope.run(
        "spreadLight",
        { grid, tone: tone.field, moved: moved + exposure, spread: { threshold, reach }, at },
        { scratch: gridScratch(grid), ...this.on },
      ),
    );
  }

  async light(adjustments: Adjustments, moved: number): Promise<GridLines> {
    const { scene, tone, toneKey, exposure } = this.input;
    const { darks, lights, zones, medium, coarse } = adjustments;
    const key = JSON.stringify([
      "light",
      [darks, lights, zones, medium, coarse, moved, exposure],
      toneKey,
    ]);
    const piece = await this.pieces.get(key, async () => {
      await using scope = new TaskScope(this.work);
      const at = scope.allocate(linesBytes(scene.grid));
      const value = await scope.run(
        "lightField",
        {
          grid: scene.grid,
          basis: scene.basis,
          tone: tone.field,
          moved: moved + exposure,
          adjustments,
          at,
        },
        { scratch: gridScratch(scene.grid), ...this.on },
      );
      scope.keep(at);
      return this.piece(value, at);
    });
    return piece.value as GridLines;
  }

  /** A piece that is found on the colour grid, with memory of its own. */
  private async onColours<T>(
    key: string,
    bytes: (grid: { width: number; height: number }) => number,
    make: (scope: Work, grid: ColourGrid, at: number) => Promise<T>,
  ): Promise<T> {
    const grid = await this.colours();
    const piece = await this.pieces.get(key, async () => {
      await using scope = new TaskScope(this.work);
      const at = scope.allocate(bytes(grid));
      const value = await make(scope, grid, at);
      scope.keep(at);
      return this.piece(value, at);
    });
    return piece.value as T;
  }

  /** The scene's light, colour and texture on the grid on which parts are found. */
  async colours(): Promise<ColourGrid> {
    const piece = await this.pieces.get("colours", () =>
      colourGridOf(this.work, this.input.scene, this.on),
    );
    return piece.value as ColourGrid;
  }

  private piece(value: unknown, at: number): Piece {
    return { value, ...leaseOf(() => this.work.free(at)) };
  }
}

/** A scene's colour grid, as a piece. */
export async function colourGridOf(work: Work, scene: Scene, on: On): Promise<Piece> {
  await using scope = new TaskScope(work);
  const size = colourGridSize(scene.width, scene.height);
  const at = scope.allocate(colourGridBytes(size));
  const grid: ColourGrid = { ...size, at };
  const lowest = 2 ** scene.grid.floorEv;
  await Promise.all(
    rowsOf(grid.height, scope.threads * 2).map(([g0, g1]) =>
      scope.run("reduceColour", { scene: plain(scene), grid, lowest, g0, g1 }, on),
    ),
  );
  await scope.run("measureTexture", { grid }, { scratch: gridScratch(grid), ...on });
  scope.keep(at);
  return { value: grid, ...leaseOf(() => work.free(at)) };
}
