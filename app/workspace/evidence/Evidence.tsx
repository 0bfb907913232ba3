import { HelpLink } from "../../help/HelpLink";
import { plainNumber } from "../../ui/format";
import { Button } from "../../ui/Button";
import { acceptSuspect, fixSuspect, goToSuspect } from "../actions/suspects";
import { MAPS_OF, pinFrame } from "../actions/look";
import { frameName } from "../state/frameName";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "../state/workspace";
import { fitZoom } from "../picture/viewport";
import { AreaChoice } from "./AreaChoice";
import { FewerFrames } from "./FewerFrames";
import { FirstTime } from "./FirstTime";
import { GoesOut } from "./GoesOut";
import { Maps } from "./Maps";
import { PartFigures } from "./PartFigures";
import { Proof } from "./Proof";
import { StackLadder } from "./StackLadder";
import { Suspects } from "./Suspects";

/** Measurements and maps beside the picture; which frame an area goes to, while that is asked. */
export function Evidence() {
  const isPlaced = useSession((s) => Boolean(s.layout ?? s.aligned));
  const area = useView((view) => view.area);
  return (
    <aside
      aria-label="Evidence"
      className="min-h-0 grow overflow-auto border-l border-line bg-panel px-3 py-3"
    >
      {area && isPlaced ? <AreaChoice area={area} /> : <Measurements />}
      <PictureSize />
    </aside>
  );
}

function Measurements() {
  const workspace = useWorkspace();
  const { view } = workspace;
  const { kind } = useRecipe();
  const { frames, stack } = useRecord();
  const session = useSession((s) => s);
  const map = useView((v) => v.map);
  const suspect = useView((v) => v.suspect);
  const isFinishing = useView((v) => v.open === "finish");
  const names = frames.map((frame) => frameName(frame.info.name));
  const isReady = session.phase === "ready";
  return (
    <>
      <FirstTime />
      {isFinishing && (
        <div className="mb-4">
          <GoesOut />
          <PartFigures />
        </div>
      )}
      <div className="flex items-center">
        <h2 className="mb-1 grow font-semibold">Ladder</h2>
        <HelpLink page="merge" heading="What the proof says" />
      </div>
      <StackLadder names={names} />
      <Maps
        kinds={MAPS_OF[kind]}
        depth={kind === "focus"}
        shown={map}
        onShow={(to) => view.setState({ map: to })}
        session={session}
        names={names}
      />
      {kind !== "bracket" && (
        <Button
          className="mt-1 w-full"
          disabled={!isReady}
          onClick={() =>
            view.setState({ dialog: { kind: kind === "focus" ? "relief" : "sphere" } })
          }
          hint={
            kind === "focus"
              ? "The picture in space, over its map of depth"
              : "Look round in the panorama"
          }
        >
          {kind === "focus" ? "Depth in 3D" : "360° view"}
        </Button>
      )}
      <Proof />
      {!isFinishing && (
        <div className="mt-4">
          <GoesOut />
        </div>
      )}
      <Suspects
        suspects={session.suspects}
        accepted={stack.accepted}
        at={suspect}
        onGo={(index) => goToSuspect(workspace, index)}
        onAccept={(at) => acceptSuspect(workspace, at)}
        onFix={(at) => fixSuspect(workspace, at)}
        ready={isReady}
      />
      {session.fewer && frames.length > 1 && (
        <FewerFrames
          figures={session.fewer}
          names={names}
          onFrame={(index) => pinFrame(workspace, index)}
        />
      )}
    </>
  );
}

/** The picture's size, where it is not seen whole at its own. */
function PictureSize() {
  const size = useSession((s) => s.size);
  const box = useView((view) => view.box);
  const megapixels = plainNumber((size.width * size.height) / 1e6);
  return (
    <p className="mt-3 text-[12px] text-quiet">
      {fitZoom(size, box) < 1 ? `${size.width} × ${size.height} px, ${megapixels} MP` : ""}
    </p>
  );
}
