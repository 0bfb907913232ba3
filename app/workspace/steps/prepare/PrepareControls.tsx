import { Checkbox } from "../../../ui/Checkbox";
import { measureLens } from "../../../work/lensMeter";
import { rowMates } from "../../../board/rowMates";
import { forAnyView } from "../../../../pipeline/recipe/recipe";
import { lookAtFrame } from "../../actions/look";
import { Button } from "../../../ui/Button";
import { Setting, type SettingOptions } from "../../Setting";
import { usePartaking } from "../../state/partaking";
import { useRecipe, useRecord, useView, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";
import { DustControls } from "./DustControls";
import { FrameExceptions } from "./FrameExceptions";
import { LensMeter } from "./LensMeter";
import { LightParts } from "./LightParts";

/** What one of a fringe's setting is worth at a corner, in shares of half the diagonal. */
const FRINGE = 1e-4;

/** What is done to every frame before the merge: the light's colour, the lens, dust, noise. */
export function PrepareControls() {
  const { kind } = useRecipe();
  const isPicking = useView((view) => view.tool === "pick" && view.pickFor === undefined);
  return (
    <>
      <Setting name="prepare.temperature" />
      <Setting name="prepare.tint" />
      <div className="mt-1">
        <ToolButton
          tool="pick"
          text={isPicking ? "Click on a grey" : "Pick a neutral"}
          hint="Click something grey or white in the room (P)"
        />
      </div>
      <LightParts />
      <Setting name="prepare.response" />
      <h2 className="mt-2 border-t border-line pt-2 text-quiet">Lens, of every frame</h2>
      <LensControls />
      <h2 className="mt-2 border-t border-line pt-2 text-quiet">Noise and dust, of every frame</h2>
      <Setting name="prepare.noise" />
      {kind !== "panorama" && <DustControls />}
      <Exceptions />
      <ForNewStacks />
    </>
  );
}

function LensControls() {
  const { edit, view } = useWorkspace();
  const recipe = useRecipe();
  const { frames, originals } = useRecord();
  const grid = useView((v) => v.grid);
  const { width, height } = frames[0]!.info;
  const halfDiagonal = Math.hypot(width, height) / 2;
  // a fringe as wide as it is drawn at a corner
  const fringe: SettingOptions = { unit: "px", times: FRINGE * halfDiagonal };
  return (
    <>
      <Setting name="prepare.distortion" />
      <Setting name="prepare.vignetting" />
      <Setting name="prepare.fringeRed" {...fringe} />
      <Setting name="prepare.fringeBlue" {...fringe} />
      <div className="flex flex-wrap items-center gap-x-1">
        <Button
          variant={grid ? "accent" : "raised"}
          className="mt-1 px-2"
          aria-pressed={grid}
          onClick={() => view.setState({ grid: !grid })}
          hint="Straight lines over the picture to judge it by (#)"
        >
          Grid
        </Button>
        <LensMeter
          recipe={recipe}
          edit={edit}
          halfDiagonal={halfDiagonal}
          measure={() => measureLens(recipe.kind, frames, originals)}
        />
      </div>
    </>
  );
}

/** What single frames have in place of what all have. */
function Exceptions() {
  const workspace = useWorkspace();
  const recipe = useRecipe();
  const { frames, stack } = useRecord();
  const at = useLookedAt();
  const rowOf = (i: number): readonly string[] =>
    rowMates([], stack, stack.frameIds.indexOf(frames[i]!.id))?.frames ?? [];
  return (
    frames.length > 1 && (
      <FrameExceptions
        recipe={recipe}
        edit={workspace.edit}
        frames={frames}
        at={at}
        onFrame={(i) => lookAtFrame(workspace, i)}
        rowOf={rowOf}
      />
    )
  );
}

/** The frame that is looked at, by its place in the stack: a panorama's is one on its map. */
function useLookedAt(): number | undefined {
  const { kind } = useRecipe();
  const { frames } = useRecord();
  const partaking = usePartaking();
  const pinned = useView((view) => view.pinned);
  const plate = useView((view) => view.plate);
  if (kind !== "panorama") return pinned;
  if (plate === undefined) return undefined;
  const index = frames.findIndex((frame) => frame.id === partaking[plate]?.id);
  return index < 0 ? undefined : index;
}

/** Whether new stacks of the shoot begin as this one is prepared. */
function ForNewStacks() {
  const { submit } = useWorkspace();
  const { shoot, take } = useRecord();
  const isOn =
    shoot.prepare !== undefined &&
    JSON.stringify(shoot.prepare) === JSON.stringify(forAnyView(take.recipe));
  return (
    <label
      className="mt-2 flex items-center gap-2 border-t border-line pt-2"
      title="Stacks that are found from now on begin with these settings; on the board they can be applied to those that are there (C, Shift C)"
    >
      <Checkbox checked={isOn} onChange={() => submit({ intent: "prepare" })} />
      For new stacks of this shoot
    </label>
  );
}
