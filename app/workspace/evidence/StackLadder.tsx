import { useMemo } from "react";
import { relativeEvs } from "../../board/exposures";
import { pinFrame } from "../actions/look";
import { showTies, turnView } from "../actions/panorama";
import { useShownFrame } from "../state/shownFrame";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "../state/workspace";
import { FocusRamp } from "./FocusRamp";
import { Ladder } from "./Ladder";
import { Plates } from "./Plates";

/** The frames along the axis that they differ in. */
export function StackLadder({ names }: { names: readonly string[] }) {
  const workspace = useWorkspace();
  const { view } = workspace;
  const { kind, frames: part } = useRecipe();
  const { frames } = useRecord();
  const layout = useSession((s) => s.layout);
  const session = useSession((s) => s);
  const plate = useView((v) => v.plate);
  const pinned = useView((v) => v.pinned);
  const pin = (frame: number | undefined): void => {
    if (frame === undefined) view.setState({ pinned: undefined });
    else pinFrame(workspace, frame);
  };
  if (layout)
    return (
      <Plates
        layout={layout}
        names={names.filter((_, i) => !part.leftOut.includes(frames[i]!.id))}
        shown={plate}
        onShow={(to) => view.setState({ plate: to })}
        onTies={(pair) => showTies(workspace, pair)}
        onTurn={(from, to) => turnView(workspace, from, to)}
      />
    );
  if (kind === "focus")
    return <FocusRamp session={session} names={names} shown={pinned} onShow={pin} />;
  if (kind === "bracket" && session.statistics) return <ExposureLadder onFrame={pin} />;
  return (
    <div className="grid h-52 place-items-center text-quiet">
      {session.phase === "working" ? "After the merge" : "No merge"}
    </div>
  );
}

/** The part of the scene's range that each exposure holds. */
function ExposureLadder({ onFrame }: { onFrame: (frame: number | undefined) => void }) {
  const { frames } = useRecord();
  const aligned = useSession((s) => s.aligned);
  const statistics = useSession((s) => s.statistics);
  const shown = useShownFrame();
  const reference = aligned?.reference ?? Math.floor(frames.length / 2);
  const exposures = useMemo(() => {
    const evs = relativeEvs(frames);
    return frames.map((frame, i) => ({
      name: frame.info.name,
      ev: aligned?.frames[i]?.used ? aligned.frames[i].ev : (evs[i] ?? 0) - (evs[reference] ?? 0),
      used: aligned?.frames[i]?.used ?? true,
      reference: i === reference,
      shown: i === shown,
    }));
  }, [frames, aligned, reference, shown]);
  return statistics && <Ladder statistics={statistics} frames={exposures} onFrame={onFrame} />;
}
