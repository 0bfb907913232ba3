import { Checkbox } from "../../../ui/Checkbox";
import { relativeEvs } from "../../../board/exposures";
import type { WorkFrame } from "../../../store/shoots";
import { shutter, signed } from "../../../ui/format";
import { lookAtFrame } from "../../actions/look";
import { useRecipe, useRecord, useSession, useWorkspace } from "../../state/workspace";
import { mergedState, type Situation, type StepScreen, type StepSummary } from "../step";
import { Slab } from "./Slab";

function summary({ recipe, frames, used, session }: Situation): StepSummary {
  const count =
    used.length === frames.length
      ? `${frames.length} frames`
      : `${used.length} of ${frames.length} frames`;
  const evs = relativeEvs(frames).filter((ev) => ev !== undefined);
  const range =
    evs.length && recipe.kind === "bracket"
      ? `, ${signed(Math.min(...evs))} to ${signed(Math.max(...evs))} EV`
      : "";
  return { sentence: `${count}${range}`, state: mergedState(session) };
}

function FramesControls() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const { frames } = useRecord();
  const order = useSession((s) => s.aligned?.order);
  const evs = relativeEvs(frames);
  return (
    <>
      {recipe.kind === "focus" && frames.length > 3 && (
        <Slab recipe={recipe} frames={frames} order={order} edit={edit} />
      )}
      {frames.some(({ info }) => info.gainMap) && (
        <p className="pb-1 text-[12px] text-quiet">
          A gain map for HDR displays comes with these frames. It is left aside: the merge goes by
          the frames themselves.
        </p>
      )}
      <ul>
        {frames.map((frame, i) => (
          <FrameLine key={frame.id} frame={frame} index={i} ev={evs[i]} />
        ))}
      </ul>
    </>
  );
}

/** One frame: whether it takes part, its name, time and exposure. */
function FrameLine({
  frame: { id, info },
  index,
  ev,
}: {
  frame: WorkFrame;
  index: number;
  ev: number | undefined;
}) {
  const workspace = useWorkspace();
  const recipe = useRecipe();
  const { frames } = useRecord();
  const { leftOut } = recipe.frames;
  const isUsed = !leftOut.includes(id);
  const isLastUsed = isUsed && leftOut.length === frames.length - 1;
  const use = (on: boolean): void =>
    workspace.edit.keep(
      {
        ...recipe,
        frames: { leftOut: on ? leftOut.filter((other) => other !== id) : [...leftOut, id] },
      },
      `${on ? "Use" : "Leave out"} ${info.name}`,
    );
  return (
    <li className="flex h-7 items-center gap-2">
      <Checkbox name={`Use ${info.name}`} checked={isUsed} disabled={isLastUsed} onChange={use} />
      <button
        type="button"
        className="min-w-0 grow truncate rounded text-left hover:underline"
        onClick={() => lookAtFrame(workspace, index)}
        title={`Look at ${info.name}`}
      >
        {info.name}
      </button>
      <span className="text-[12px] text-quiet">{shutter(info.exif.exposureTime)}</span>
      <span className="w-10 text-right">{ev === undefined ? "–" : signed(ev)}</span>
    </li>
  );
}

export const framesScreen: StepScreen = {
  title: () => "Frames",
  summary,
  Controls: FramesControls,
};
