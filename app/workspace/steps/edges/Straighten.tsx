import { fieldNamed } from "../../../../pipeline/settings/reference";
import type { NumberField } from "../../../../pipeline/settings/fields";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import { mmOfFocal } from "../../../../pipeline/focalLength";
import { focalOf } from "../../../../pipeline/straighten/straightening";
import { plainNumber } from "../../../ui/format";
import { Choice } from "../../../ui/Choice";
import { NumberSlider } from "../../../ui/NumberSlider";
import { TextField } from "../../../ui/TextField";
import { WholeNumbers } from "../../../ui/WholeNumbers";
import { keepStraightened, setUpright } from "../../actions/straighten";
import { NumberSetting } from "../../../settings/NumberSetting";
import { Setting } from "../../Setting";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";
import { GuideList } from "../GuideList";
import { turnedSentence } from "./sentence";

type Upright = Recipe["edges"]["upright"];
const TURNS = ["roll", "pitch", "yaw"] as const;

/** Sets a picture upright: by its edges, by lines, by four corners, and by hand. */
export function Straighten() {
  const workspace = useWorkspace();
  const { edges } = useRecipe();
  const straightening = useSession((s) => s.aligned?.straightening);
  const said = turnedSentence(edges, straightening);
  return (
    <>
      <UprightChoice />
      {said && (
        <p className="px-2.5 py-1 text-[12px] text-quiet">
          <WholeNumbers text={said} />
        </p>
      )}
      <div className="mt-1 grid grid-cols-3 gap-1">
        <ToolButton
          tool="level"
          text="Level line"
          hint="Draw along something level: a sill, a shelf, the horizon (L)"
          isCell
        />
        <ToolButton
          tool="vertical"
          text="Vertical line"
          hint="Draw along something vertical: a wall's edge, a door (Shift L). Two of them take away tilt as well"
          isCell
        />
        <ToolButton
          tool="facade"
          text="Facade"
          hint="Click the four corners of something that is a rectangle in reality (K)"
          isCell
        />
      </div>
      <GuideList
        guides={edges.guides}
        onDelete={(index) =>
          keepStraightened(
            workspace,
            { guides: edges.guides.filter((_, i) => i !== index) },
            `Delete guide ${index + 1}`,
          )
        }
      />
      <div className="mt-1 grid grid-cols-2 gap-1">
        <ToolButton
          tool="roll"
          text="Roll by drag"
          hint="Drag around the middle of the picture to roll it (Shift O)"
          isCell
        />
        <ToolButton
          tool="turn"
          text="Turn by drag"
          hint="Drag the picture to the side and up to turn it (O)"
          isCell
        />
      </div>
      {TURNS.map((key) => (
        <Turn key={key} of={key} />
      ))}
      <Setting name="edges.extent" />
      <FocalLength />
    </>
  );
}

/** Off, as far as suits, or so much of it. */
function UprightChoice() {
  const workspace = useWorkspace();
  const { upright } = useRecipe().edges;
  const set = (to: Upright): void => void setUpright(workspace, to);
  const hint = fieldNamed("edges.upright")!.help;
  const chosen = upright === "off" || upright === "auto" ? upright : "amount";
  return (
    <>
      <Choice
        label="Upright"
        hint={hint}
        value={chosen}
        options={[
          { value: "off", text: "Off" },
          { value: "auto", text: "Auto" },
          { value: "amount", text: "Amount" },
        ]}
        onChange={(to) => set(to === "amount" ? "full" : to)}
      />
      {chosen === "amount" && (
        <NumberSlider
          label="Amount"
          hint="How much of what the edges say is corrected."
          unit="%"
          min={0}
          max={1}
          step={0.05}
          reset={1}
          value={upright === "full" ? 1 : (upright as number)}
          shown={(share) => `${Math.round(share * 100)}`}
          parse={(percent) => percent / 100}
          onChange={() => undefined}
          onCommit={(share) => set(share === 1 ? "full" : share)}
        />
      )}
    </>
  );
}

/** One angle by hand: the picture follows at once, and is merged anew when it rests. */
function Turn({ of }: { of: (typeof TURNS)[number] }) {
  const workspace = useWorkspace();
  const { edges } = useRecipe();
  const turning = useView((view) => view.turning?.[of]);
  const field = fieldNamed(`edges.${of}`) as NumberField;
  return (
    <NumberSetting
      field={field}
      value={turning ?? edges[of]}
      onShow={(degrees) => workspace.view.setState({ turning: { [of]: degrees } })}
      onKeep={(degrees) => keepStraightened(workspace, { [of]: degrees }, field.label)}
    />
  );
}

/** The lens, by which it is known how far things are drawn out. */
function FocalLength() {
  const workspace = useWorkspace();
  const { edges } = useRecipe();
  const { frames } = useRecord();
  const { info } = frames[0]!;
  const { focalPx, isFocalKnown } = focalOf(edges, info);
  const shown = `${plainNumber(mmOfFocal(focalPx, info), 0)} mm`;
  const fromFile = isFocalKnown ? shown : `${shown}, guessed`;
  return (
    <TextField
      label="Focal length"
      hint={`${fieldNamed("edges.focal")!.help} Empty it for what the file says.`}
      value={edges.focal === "auto" ? fromFile : shown}
      onCommit={(text) => {
        const typed = Number(/\d+(?:[.,]\d+)?/.exec(text)?.[0]?.replace(",", "."));
        const focal = typed >= 8 && typed <= 1200 ? typed : "auto";
        if (text === "" || typed) keepStraightened(workspace, { focal }, "Focal length");
      }}
    />
  );
}
