import type { FrameInfo } from "../../core/frame/frame";
import { fileLayout, type FileLayout } from "../../pipeline/deliver/fileLayout";
import { unknownFields } from "../../pipeline/deliver/fileName";
import { filesOf, type Delivery } from "../../pipeline/deliver/settings";
import { deliveryBytes } from "../../pipeline/memory";
import { isMerged } from "../../pipeline/recipe/kinds";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { framesOf } from "../../pipeline/run/runPipeline";
import { MAIN_FILE } from "../store/changeDelivery";
import type { Stack, Take } from "../store/records";
import { memberFrames, type BoardData, type WorkFrame } from "../store/shoots";
import { taskOf } from "../work/expected";
import { clashingNames, namesOfFiles, type Asked } from "../work/fileNames";
import { expectedMs, type Pace } from "../work/pace";
import type { Ratios } from "../work/ratios";
import { stackFrames } from "../work/stackWork";
import { expectedBytes } from "../work/weight";

/** A file that a stack is delivered as, or could be. */
export interface Cell {
  delivery: Delivery;
  layout: FileLayout;
  /** what it weighs, bytes, about */
  bytes: number;
  /** its name; empty while it is off */
  name: string;
  /** fields of its pattern that nobody knows */
  unknown: string[];
}

/** A stack that goes out. */
export interface PlannedStack {
  stack: Stack;
  take: Take;
  infos: readonly FrameInfo[];
  picture: Blob | undefined;
  /** it was merged, so that its size is known and not supposed */
  isMerged: boolean;
  /** what all its files take: memory at most, bytes, and time, ms, about */
  expected: { bytes: number; ms: number };
  /** by the name of the delivery; undefined where the stack does not have it */
  cells: ReadonlyMap<string, Cell>;
}

/** What goes out: stacks as rows, their deliveries as columns. */
export interface Plan {
  stacks: readonly PlannedStack[];
  /** names of all deliveries, the main file first */
  columns: readonly string[];
  /** how many files are made */
  files: number;
  /** names that several files ask for; these get numbers */
  clashes: readonly string[];
}

/** What this machine has, and what was measured on it. */
export interface Machine {
  /** memory that merges may take, bytes */
  budget: number;
  pace: Pace;
  weights: Ratios;
}

/** The frames of a stack as they are merged: its own, or its members' results. */
function framesIn(board: BoardData, stackId: string): WorkFrame[] {
  const frameIds = board.stacks.find(({ id }) => id === stackId)?.frameIds ?? [];
  const byId = new Map(board.frames.map((frame) => [frame.id, frame]));
  const own = (ids: readonly string[]) => ids.flatMap((id) => byId.get(id) ?? []);
  const members = board.stacks.filter(({ parentId }) => parentId === stackId);
  return [
    ...own(frameIds),
    ...members.flatMap((member) =>
      memberFrames({
        stack: member,
        frames: own(member.frameIds),
        take: board.takes.get(member.takeId),
      }),
    ),
  ];
}

/** The stacks of a shoot that can go out, in their order. */
const deliverable = (board: BoardData): Stack[] =>
  board.stacks.filter(
    (stack) => isMerged(stack.kind) && !stack.parentId && board.takes.has(stack.takeId),
  );

/** All files that a stack has, those that are off among them. */
const allFiles = ({ also, ...own }: Recipe["deliver"]): Delivery[] => [
  { name: MAIN_FILE, on: true, settings: own },
  ...also,
];

/**
 * What goes out of chosen stacks.
 *
 * @param chosen   their ids; all if undefined
 * @param leftOut  those that are shown, but stay at home this time
 */
export function planOf(
  board: BoardData,
  chosen: ReadonlySet<string> | undefined,
  leftOut: ReadonlySet<string>,
  machine: Machine,
): Plan {
  const shown = deliverable(board)
    .filter(({ id }) => !chosen || chosen.has(id))
    .flatMap((stack) => {
      const frames = framesIn(board, stack.id);
      return frames.length ? [{ stack, frames, take: board.takes.get(stack.takeId)! }] : [];
    });
  const asked = shown.map(({ stack, frames, take }): Asked => {
    const infos = frames.map(({ info }) => info);
    return { stack, take: take.name, recipe: take.recipe, infos };
  });
  const going = asked.filter(({ stack }) => !leftOut.has(stack.id));
  const names = namesOfFiles(board.shoot, going);
  const stacks = shown.map((one): PlannedStack => {
    const at = going.findIndex(({ stack }) => stack.id === one.stack.id);
    return plannedStack(board, one, names[at] ?? [], machine);
  });
  const columns = new Set([MAIN_FILE, ...stacks.flatMap(({ cells }) => [...cells.keys()])]);
  return {
    stacks,
    columns: [...columns],
    files: names.flat().length,
    clashes: clashingNames(board.shoot, going),
  };
}

function plannedStack(
  board: BoardData,
  { stack, take, frames }: { stack: Stack; take: Take; frames: readonly WorkFrame[] },
  names: readonly string[],
  { budget, pace, weights }: Machine,
): PlannedStack {
  const { recipe } = take;
  const infos = frames.map(({ info }) => info);
  const result = board.results.get(stack.id);
  const size = result?.size ?? supposedSize(infos);
  const on = filesOf(recipe.deliver);
  const cells = allFiles(recipe.deliver).map((delivery): [string, Cell] => {
    const place = on.findIndex(({ name }) => name === delivery.name);
    return [delivery.name, cellOf(delivery, size, names[place] ?? "", weights)];
  });
  const merged = stackFrames(frames, new Map());
  return {
    stack,
    take,
    infos,
    picture: result?.picture ?? board.thumbnails.get(coverHash(board, stack, frames)),
    isMerged: result?.size !== undefined,
    expected: {
      bytes: deliveryBytes(budget, framesOf(merged, recipe), recipe, undefined),
      ms: expectedMs(taskOf(merged, recipe, size), pace),
    },
    cells: new Map(cells),
  };
}

function cellOf(
  delivery: Delivery,
  picture: { width: number; height: number },
  name: string,
  weights: Ratios,
): Cell {
  const layout = fileLayout(picture, delivery.settings);
  const { width, height } = layout.file;
  return {
    delivery,
    layout,
    bytes: expectedBytes(delivery.settings, width * height, weights),
    name,
    unknown: unknownFields(delivery.settings.pattern),
  };
}

/** Before a stack is merged: as large as its largest frame. */
const supposedSize = (infos: readonly FrameInfo[]): { width: number; height: number } => ({
  width: Math.max(...infos.map(({ width }) => width)),
  height: Math.max(...infos.map(({ height }) => height)),
});

/** The content of the frame that stands for a stack. */
function coverHash(board: BoardData, { coverId }: Stack, frames: readonly WorkFrame[]): string {
  const middle = frames[frames.length >> 1]!;
  const cover = board.frames.find(({ id }) => id === coverId) ?? middle.merged?.frames[0] ?? middle;
  return cover.hash;
}
