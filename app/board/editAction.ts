import * as v from "valibot";
import { ADJUSTMENT_GROUP_NAMES } from "../../pipeline/finish/adjustmentFields";
import { RhizomeError } from "../../core/error";
import { changeDelivery, DeliveryChangeSchema } from "../store/changeDelivery";
import { change, step } from "../store/changes";
import { exclusively, type Writer } from "../store/exclusive";
import { groupAgain } from "../store/grouping";
import { nameOf, newId } from "../store/arrange";
import * as settings from "../store/applySettings";
import * as edit from "../store/edit";
import { LookSchema, MOST_AMOUNT } from "../../pipeline/looks/look";
import { LABELS, type Frame, type Stack } from "../store/records";
import { readBoard } from "../store/shoots";

const ids = v.pipe(v.array(v.string()), v.minLength(1));
const id = v.string();
const lookAmount = v.pipe(v.number(), v.minValue(0), v.maxValue(MOST_AMOUNT));

/** What the board can be asked to do. */
export const EditSchema = v.variant("intent", [
  v.object({ intent: v.literal("undo") }),
  v.object({ intent: v.literal("redo") }),
  v.object({ intent: v.literal("group"), which: v.picklist(["untouched", "loose"]) }),
  v.object({ intent: v.literal("cut"), stack: id, before: v.number() }),
  v.object({ intent: v.literal("join"), stacks: ids }),
  v.object({ intent: v.literal("move"), frames: ids, to: id, at: v.optional(v.number()) }),
  v.object({ intent: v.literal("takeOut"), stack: id, frames: ids }),
  v.object({ intent: v.literal("leaveOut"), stack: id, frames: ids }),
  v.object({ intent: v.literal("reference"), stack: id, frame: id }),
  v.object({ intent: v.literal("cover"), stack: id, frame: id }),
  v.object({
    intent: v.literal("name"),
    stack: id,
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(120)),
  }),
  v.object({ intent: v.literal("note"), stack: id, note: v.pipe(v.string(), v.maxLength(2000)) }),
  v.object({
    intent: v.literal("kind"),
    stacks: ids,
    kind: v.picklist(["bracket", "panorama", "focus", "single"]),
  }),
  v.object({
    intent: v.literal("rating"),
    stacks: ids,
    rating: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(5)),
  }),
  v.object({ intent: v.literal("label"), stacks: ids, label: v.picklist(LABELS) }),
  v.object({ intent: v.literal("done"), stacks: ids, done: v.boolean() }),
  v.object({ intent: v.literal("nest"), stacks: ids }),
  v.object({ intent: v.literal("unnest"), stack: id }),
  v.object({
    intent: v.literal("layOn"),
    from: id,
    stacks: ids,
    parts: v.pipe(
      v.array(v.picklist([...settings.PARTS, ...ADJUSTMENT_GROUP_NAMES, settings.HEALED_SPOTS])),
      v.minLength(1),
    ),
  }),
  v.object({ intent: v.literal("delivery"), stacks: ids, change: DeliveryChangeSchema }),
  v.object({ intent: v.literal("look"), stacks: ids, look: LookSchema, amount: lookAmount }),
  v.object({
    intent: v.literal("usualLook"),
    kind: v.picklist(["all", "bracket", "panorama", "focus"]),
    look: v.optional(LookSchema),
    amount: lookAmount,
  }),
  v.object({
    intent: v.literal("sets"),
    stacks: ids,
    count: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(99)),
  }),
]);
export type EditRequest = v.InferOutput<typeof EditSchema>;

/** What became of a request: what it is called, or why nothing was kept and what to do. */
export interface EditOutcome {
  done?: string | undefined;
  failed?: string;
}

/** Does what was asked, alone over all tabs; what cannot be kept is said. */
export async function runBoardEdit(shootId: string, request: unknown): Promise<EditOutcome> {
  try {
    return await exclusively((writer) => runEdit(writer, shootId, request));
  } catch (e) {
    return { failed: RhizomeError.from(e).sentence };
  }
}

/**
 * Does what was asked as one change that can be undone.
 *
 * @returns what it was called, for the status line
 */
export async function runEdit(
  writer: Writer,
  shootId: string,
  request: unknown,
): Promise<{ done: string | undefined }> {
  const a = v.parse(EditSchema, request);
  if (a.intent === "undo" || a.intent === "redo")
    return { done: await step(writer, shootId, a.intent) };
  if (a.intent === "group")
    return { done: (await groupAgain(writer, shootId, a.which)) ? "Group again" : undefined };
  const board = await readBoard(shootId);
  const frames = new Map(board.frames.map((f) => [f.id, f]));
  const arrangement: edit.Arrangement = {
    stacks: board.stacks,
    takes: board.takes,
    newId,
    nameOf: (list) => nameOf(list.flatMap((f) => frames.get(f) ?? [])),
  };
  const one = (stackId: string) => {
    const s = board.stacks.find((x) => x.id === stackId);
    if (!s) throw new RhizomeError("stack-unknown", "This stack is gone.", "reload the page");
    return s;
  };
  const many = (list: readonly string[]) => board.stacks.filter((s) => list.includes(s.id));
  const done = ((): edit.Edit => {
    switch (a.intent) {
      case "cut":
        return edit.cut(arrangement, one(a.stack), a.before);
      case "join":
        return edit.join(arrangement, many(a.stacks));
      case "move":
        return edit.moveFrames(arrangement, a.frames, one(a.to), a.at);
      case "takeOut":
        return edit.takeOut(arrangement, one(a.stack), a.frames);
      case "leaveOut":
        return edit.leaveOut(arrangement, one(a.stack), a.frames);
      case "reference":
        return edit.setReference(arrangement, one(a.stack), a.frame);
      case "cover":
        return edit.mark([one(a.stack)], "Cover", { coverId: a.frame });
      case "name":
        return edit.mark([one(a.stack)], `Name “${a.name}”`, { name: a.name });
      case "note":
        return edit.mark([one(a.stack)], "Note", { note: a.note });
      case "kind":
        return edit.mark(
          many(a.stacks).filter((s) => s.frameIds.length > 1 || !s.frameIds.length),
          `Kind ${a.kind}`,
          { kind: a.kind },
        );
      case "rating":
        return edit.mark(many(a.stacks), `Rating ${a.rating}`, { rating: a.rating });
      case "label":
        return edit.mark(many(a.stacks), `Label ${a.label}`, { label: a.label });
      case "done":
        return edit.mark(many(a.stacks), a.done ? "Done" : "Not done", { done: a.done });
      case "nest":
        return edit.nest(arrangement, many(a.stacks));
      case "unnest":
        return edit.unnest(arrangement, one(a.stack));
      case "layOn":
        return settings.applySettings(
          arrangement,
          one(a.from),
          a.parts.includes(settings.HEALED_SPOTS)
            ? many(a.stacks).filter((stack) => sameCamera(frames, one(a.from), stack))
            : many(a.stacks),
          a.parts,
        );
      case "delivery":
        return changeDelivery(arrangement, many(a.stacks), a.change);
      case "look":
        return settings.applyLookTo(arrangement, many(a.stacks), a.look, a.amount);
      case "usualLook":
        return settings.setUsualLook(
          board.shoot,
          a.kind,
          a.look && { look: a.look, amount: a.amount },
        );
      case "sets":
        return edit.fixedCount(arrangement, many(a.stacks), a.count);
    }
  })();
  if (done.puts.length) await change(writer, shootId, done.label, done.puts);
  return { done: done.puts.length ? done.label : undefined };
}

/** Whether two stacks were taken by one camera at one size: dust lies in the same place then. */
function sameCamera(frames: ReadonlyMap<string, Frame>, a: Stack, b: Stack): boolean {
  const [one, other] = [a, b].map((stack) => frames.get(stack.frameIds[0] ?? "")?.info);
  return (
    one !== undefined &&
    other !== undefined &&
    one.width === other.width &&
    one.height === other.height &&
    one.exif.camera === other.exif.camera
  );
}
