import { defaultRecipe, nestedRecipe, withReference } from "../../pipeline/recipe/recipe";
import type { Put } from "./changes";
import type { Stack, Take } from "./records";

/** The stacks of a shoot, in order, with their takes, as the mending works on them. */
export interface Arrangement {
  stacks: readonly Stack[];
  takes: ReadonlyMap<string, Take>;
  newId: () => string;
  nameOf: (frameIds: readonly string[]) => string;
}
/** What to write, and what it is called in undo. Nothing to do is an empty list. */
export interface Edit {
  label: string;
  puts: Put[];
}

const put = (value: Stack): Put => ({ store: "stacks", value });
const remove = (a: Arrangement, s: Stack): Put[] => [
  { store: "stacks", remove: s.id },
  ...[...a.takes.values()]
    .filter((take) => take.stackId === s.id)
    .map((take): Put => ({ store: "takes", remove: take.id })),
];
const nothing: Edit = { label: "", puts: [] };
const BY_HAND = "Put together manually";
const kindOf = (kind: Stack["kind"], frames: number): Stack["kind"] =>
  frames === 1 ? "single" : kind;

function newStack(
  a: Arrangement,
  like: Stack,
  frameIds: string[],
  order: number,
  kind = like.kind,
): { stack: Stack; puts: Put[] } {
  const id = a.newId();
  const takeId = a.newId();
  const take = a.takes.get(like.takeId);
  const stack: Stack = {
    ...like,
    id,
    takeId,
    frameIds,
    order,
    kind: kindOf(kind, frameIds.length),
    name: a.nameOf(frameIds),
    why: BY_HAND,
    warnings: [],
    madeManually: true,
    note: "",
    done: false,
    label: "none",
  };
  delete stack.coverId;
  delete stack.rows;
  // settings go on with the frames that were cut off
  const recipe = take ? withReference(take.recipe, "auto") : defaultRecipe("bracket");
  return {
    stack,
    puts: [
      put(stack),
      {
        store: "takes",
        value: {
          id: takeId,
          stackId: id,
          shootId: like.shootId,
          name: "First",
          note: "",
          order: 0,
          recipe,
        },
      },
    ],
  };
}

/**
 * A stack with other frames; its settings stay, but for a reference frame's number that no longer
 * holds.
 */
function withFrames(a: Arrangement, s: Stack, frameIds: string[], kind = s.kind): Put[] {
  if (!frameIds.length) return remove(a, s);
  // a name that was made from the files goes with them
  const name = s.name === a.nameOf(s.frameIds) ? a.nameOf(frameIds) : s.name;
  const stack: Stack = {
    ...s,
    name,
    frameIds,
    kind: kindOf(kind === "single" && frameIds.length > 1 ? "bracket" : kind, frameIds.length),
    why: BY_HAND,
    warnings: [],
    madeManually: true,
  };
  if (stack.coverId && !frameIds.includes(stack.coverId)) delete stack.coverId;
  delete stack.rows;
  const take = a.takes.get(s.takeId);
  if (!take || take.recipe.kind === "panorama") return [put(stack)];
  const { reference } = take.recipe.merge;
  if (reference === "auto") return [put(stack)];
  const used = s.frameIds.filter((id) => !take.recipe.frames.leftOut.includes(id));
  const at = frameIds
    .filter((id) => !take.recipe.frames.leftOut.includes(id))
    .indexOf(used[reference] ?? "");
  return [
    put(stack),
    {
      store: "takes",
      value: {
        ...take,
        recipe: withReference(take.recipe, at < 0 ? "auto" : at),
      },
    },
  ];
}

/** The order just after a stack, before the next one. */
function orderAfter(a: Arrangement, s: Stack, places = 1): number[] {
  const next = Math.min(
    ...a.stacks.filter((o) => o.order > s.order).map((o) => o.order),
    s.order + 1,
  );
  return Array.from(
    { length: places },
    (_, i) => s.order + ((next - s.order) * (i + 1)) / (places + 1),
  );
}

/** Cuts a stack before one of its frames. */
export function cut(a: Arrangement, stack: Stack, before: number): Edit {
  if (before <= 0 || before >= stack.frameIds.length) return nothing;
  const rest = newStack(a, stack, stack.frameIds.slice(before), orderAfter(a, stack)[0]!);
  return {
    label: `Cut ${stack.name}`,
    puts: [...withFrames(a, stack, stack.frameIds.slice(0, before)), ...rest.puts],
  };
}

/** Joins stacks into the first of them, which keeps its settings. */
export function join(a: Arrangement, stacks: readonly Stack[]): Edit {
  const own = stacks.filter((s) => s.frameIds.length);
  if (own.length < 2) return nothing;
  const [first, ...rest] = own as [Stack, ...Stack[]];
  const kind = own.find((s) => s.kind !== "single")?.kind ?? "bracket";
  return {
    label: `Join ${own.length} stacks`,
    puts: [
      ...withFrames(
        a,
        first,
        own.flatMap((s) => s.frameIds),
        kind,
      ),
      ...rest.flatMap((s) => remove(a, s)),
    ],
  };
}

/** Moves frames into a stack, to a place in it; stacks left without frames go. */
export function moveFrames(
  a: Arrangement,
  frameIds: readonly string[],
  to: Stack,
  at = to.frameIds.length,
): Edit {
  const moved = new Set(frameIds);
  const before = to.frameIds.slice(0, at).filter((id) => !moved.has(id));
  const behind = to.frameIds.slice(at).filter((id) => !moved.has(id));
  const inOrder = a.stacks.flatMap((s) => s.frameIds).filter((id) => moved.has(id));
  const next = [...before, ...inOrder, ...behind];
  if (next.join() === to.frameIds.join()) return nothing;
  const from = a.stacks.filter((s) => s.id !== to.id && s.frameIds.some((id) => moved.has(id)));
  return {
    label: from.length
      ? `Move ${inOrder.length} ${inOrder.length === 1 ? "frame" : "frames"} into ${to.name}`
      : `Order frames of ${to.name}`,
    puts: [
      ...withFrames(a, to, next),
      ...from.flatMap((s) =>
        withFrames(
          a,
          s,
          s.frameIds.filter((id) => !moved.has(id)),
        ),
      ),
    ],
  };
}

/** Takes frames out of their stack into stacks of their own, one each, right after it. */
export function takeOut(a: Arrangement, stack: Stack, frameIds: readonly string[]): Edit {
  const out = stack.frameIds.filter((id) => frameIds.includes(id));
  if (!out.length || out.length === stack.frameIds.length) return nothing;
  const orders = orderAfter(a, stack, out.length);
  return {
    label: `Take ${out.length === 1 ? "a frame" : `${out.length} frames`} out of ${stack.name}`,
    puts: [
      ...withFrames(
        a,
        stack,
        stack.frameIds.filter((id) => !out.includes(id)),
      ),
      ...out.flatMap((id, i) => newStack(a, stack, [id], orders[i]!).puts),
    ],
  };
}

/** Leaves frames out of the merge, or takes them in again; they stay in the stack. */
export function leaveOut(a: Arrangement, stack: Stack, frameIds: readonly string[]): Edit {
  const take = a.takes.get(stack.takeId);
  if (!take) return nothing;
  const was = take.recipe.frames.leftOut;
  const back = frameIds.every((id) => was.includes(id));
  const leftOut = back
    ? was.filter((id) => !frameIds.includes(id))
    : [...new Set([...was, ...frameIds])];
  if (stack.frameIds.every((id) => leftOut.includes(id))) return nothing;
  return {
    label: back ? "Use again" : "Leave out of the merge",
    puts: [
      {
        store: "takes",
        value: {
          ...take,
          recipe: withReference({ ...take.recipe, frames: { leftOut } }, "auto"),
        },
      },
    ],
  };
}

/** Makes a frame the one that the others are aligned to; a panorama has none. */
export function setReference(a: Arrangement, stack: Stack, frameId: string): Edit {
  const take = a.takes.get(stack.takeId);
  const used = stack.frameIds.filter((id) => !take?.recipe.frames.leftOut.includes(id));
  const at = used.indexOf(frameId);
  if (!take || take.recipe.kind === "panorama") return nothing;
  return at >= 0 && take.recipe.merge.reference !== at
    ? {
        label: "Reference frame",
        puts: [
          {
            store: "takes",
            value: {
              ...take,
              recipe: withReference(take.recipe, at),
            },
          },
        ],
      }
    : nothing;
}

/** Changes what stacks are marked with: kind, rating, label, note, done, cover, name. */
export function mark(
  stacks: readonly Stack[],
  label: string,
  part: Partial<Pick<Stack, "kind" | "rating" | "label" | "note" | "done" | "coverId" | "name">>,
): Edit {
  const changed = stacks.filter((s) =>
    Object.entries(part).some(([k, v]) => s[k as keyof Stack] !== v),
  );
  return changed.length
    ? {
        label: changed.length > 1 ? `${label}, ${changed.length} stacks` : label,
        puts: changed.map((s) =>
          put({ ...s, ...part, ...(part.kind ? { madeManually: true } : {}) }),
        ),
      }
    : nothing;
}

/** Makes stacks the members of a panorama. */
export function nest(a: Arrangement, stacks: readonly Stack[]): Edit {
  const own = stacks.filter((s) => s.frameIds.length && !s.parentId);
  if (own.length < 2) return nothing;
  const { stack } = newStack(a, own[0]!, [], own[0]!.order - 1e-4, "panorama");
  const outer: Stack = {
    ...stack,
    kind: "panorama",
    name: a.nameOf(own.flatMap((s) => s.frameIds)),
  };
  return {
    label: `Nest ${own.length} stacks`,
    puts: [
      put(outer),
      {
        store: "takes",
        value: {
          id: outer.takeId,
          stackId: outer.id,
          shootId: outer.shootId,
          name: "First",
          note: "",
          order: 0,
          recipe: nestedRecipe("panorama"),
        },
      },
      ...own.map((s) => put({ ...s, parentId: outer.id, madeManually: true })),
    ],
  };
}

/** Lets the members of a nested stack stand by themselves again. */
export function unnest(a: Arrangement, outer: Stack): Edit {
  const members = a.stacks.filter((s) => s.parentId === outer.id);
  if (!members.length) return nothing;
  return {
    label: `Un-nest ${outer.name}`,
    puts: [
      ...remove(a, outer),
      ...members.map((s) => {
        const alone: Stack = { ...s, madeManually: true };
        delete alone.parentId;
        return put(alone);
      }),
    ],
  };
}

/** Cuts the frames of stacks, one after the other, into sets of a fixed count. */
export function fixedCount(a: Arrangement, stacks: readonly Stack[], count: number): Edit {
  const own = stacks.filter((s) => s.frameIds.length);
  const frames = own.flatMap((s) => s.frameIds);
  if (!own.length || count < 1) return nothing;
  const sets = Array.from({ length: Math.ceil(frames.length / count) }, (_, i) =>
    frames.slice(i * count, (i + 1) * count),
  );
  const kind = own.find((s) => s.kind !== "single")?.kind ?? "bracket";
  const orders = orderAfter(a, own[0]!, sets.length);
  const made = sets.map((set, i) => newStack(a, { ...own[0]!, kind }, set, orders[i]!, kind));
  return {
    label: `Sets of ${count}`,
    puts: [...own.flatMap((s) => remove(a, s)), ...made.flatMap((m) => m.puts)],
  };
}
