import { createStore, type StoreApi } from "zustand/vanilla";
import type { DustSpot } from "../../../core/frame/preparation";
import type { MaskStyle } from "../../../core/finish/paintMask";
import type { RepairKind } from "../../../core/retouch/repair";
import type { Joining } from "../../../core/finish/part";
import type { AdjustmentGroup } from "../../../pipeline/finish/adjustmentFields";
import type { MapKind } from "../../../core/maps/maps";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { StepName } from "../../../pipeline/registry";
import type { PictureNumbers } from "../../../core/tone/pictureNumbers";
import type { Overlay } from "../picture/cropShape";
import type { Size, Viewport } from "../picture/viewport";
import type { Area } from "../picture/area";
import type { ToolName } from "../tools/tool";

/** Dust that was found and is not decided on yet, and over how many frames it was looked for. */
export interface DustSearch {
  spots?: DustSpot[];
  frames: number;
  busy: boolean;
}

/** What lies over the workspace. */
export type OpenDialog =
  | { kind: "relief" | "sphere" }
  /** places among the frames that take part */
  | { kind: "ties"; pair: readonly [number, number] };

/**
 * How a stack is looked at and what is in hand: nothing of it is kept or changes the picture that
 * goes out.
 */
export interface View {
  /** the step whose controls are shown */
  open: StepName | undefined;
  viewport: Viewport;
  /** the room that the picture has on screen, px */
  box: Size;
  /** marks what is clipped */
  clipped: boolean;
  /** the picture is seen as bright as this display goes */
  beyondWhite: boolean;
  /** straight lines over the picture */
  grid: boolean;
  /** a frame left, the merge right */
  wipe: boolean;
  /** a frame is shown as long as a key is held */
  held: boolean;
  /** the frame that is shown in place of the merge, by its place in the stack */
  pinned: number | undefined;
  /** the frame that the merge is compared with; the reference frame unless another was chosen */
  before: number | undefined;
  map: MapKind | undefined;
  /** the panorama frame whose outline is shown, by its place among those that take part */
  plate: number | undefined;
  /** the suspect that is looked at, by its place in their list */
  suspect: number | undefined;
  tool: ToolName | undefined;
  /** the area of local white balance that a neutral is picked for; else it is the whole picture */
  pickFor: string | undefined;
  /** the part whose adjustments are shown; none is the whole picture */
  part: string | undefined;
  /** groups of adjustments whose rows are shown */
  groups: readonly AdjustmentGroup[];
  /** what the next shape does: begins a part, or changes the one that is shown */
  joining: "new" | Joining;
  /** how the mask of the part that is shown is seen over the picture */
  mask: MaskStyle | undefined;
  /** left out of the picture as long as a key is held */
  without: "part" | "finish" | undefined;
  /** how one paints a part */
  stroke: { softness: number; flow: number; edgeAware: boolean };
  /** the repair that is shown, by its place in their list */
  repair: number | undefined;
  /** what the next repair does */
  repairKind: RepairKind;
  /** looks that are tried on: the chosen one, how far each goes, and what came of each */
  trying:
    | {
        chosen: string;
        amounts: Readonly<Record<string, number>>;
        numbers: Readonly<Record<string, PictureNumbers>>;
      }
    | undefined;
  /** the recipe of each take when it was opened first, or last confirmed, by its id */
  opened: Readonly<Record<string, Recipe>>;
  /** radius of what one paints with, in shares of the picture's width */
  brush: number;
  /** radius of what one repairs with, in shares of the picture's width */
  repairBrush: number;
  /** lines to compose by */
  overlay: Overlay;
  /** how the picture is being turned by hand, until that is kept */
  turning: Partial<Pick<Recipe["edges"], "roll" | "pitch" | "yaw">> | undefined;
  /** what was drawn and waits to be given to a frame */
  area: Area | undefined;
  /** the frame that strokes are given to at once, by its place in the stack */
  retouchFrom: number | undefined;
  dust: DustSearch;
  dialog: OpenDialog | undefined;
  /** on a narrow screen the evidence is open over the picture */
  evidence: boolean;
  /** what could not be done, to be read and closed */
  note: string | undefined;
}

/** The view of a stack that was opened just now. @param size  of its picture, px */
export const createView = (size: Size): StoreApi<View> =>
  createStore<View>(() => ({
    open: "tone",
    viewport: { zoom: "fit", cx: size.width / 2, cy: size.height / 2 },
    box: { width: 700, height: 600 },
    clipped: false,
    beyondWhite: false,
    grid: false,
    wipe: false,
    held: false,
    pinned: undefined,
    before: undefined,
    map: undefined,
    plate: undefined,
    suspect: undefined,
    tool: undefined,
    pickFor: undefined,
    part: undefined,
    groups: ["light"],
    joining: "new",
    mask: undefined,
    without: undefined,
    stroke: { softness: 0.5, flow: 1, edgeAware: true },
    trying: undefined,
    opened: {},
    repair: undefined,
    repairKind: "heal",
    brush: 0.03,
    repairBrush: 0.008,
    overlay: "thirds",
    turning: undefined,
    area: undefined,
    retouchFrom: undefined,
    dust: { frames: 0, busy: false },
    dialog: undefined,
    evidence: false,
    note: undefined,
  }));

/**
 * What is read under the pointer. It changes with every move, so only the line that shows it
 * listens to it.
 */
export interface Reading {
  /** place in the full-size picture, px */
  at: { x: number; y: number } | undefined;
  /** scene radiance there */
  rgb: readonly number[] | undefined;
  /** the frame that gave most to it, by its place in the stack */
  frame: number | undefined;
}

/** Nothing is under the pointer yet. */
export const createReading = (): StoreApi<Reading> =>
  createStore<Reading>(() => ({ at: undefined, rgb: undefined, frame: undefined }));
