import { extentOf } from "../../../../core/panorama/canvas/projection";
import type { PanoramaRecipe } from "../../../../pipeline/recipe/recipe";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { Setting } from "../../Setting";
import { usePanoramaRecipe, useSession, useWorkspace } from "../../state/workspace";
import { ToolButton } from "../../ToolButton";

/** Borders of the view: label, what it says, and the widest, degrees. */
const SIDES = [
  ["Left", "How far the picture reaches to the left of the middle of the view.", 180],
  ["Right", "How far it reaches to the right.", 180],
  ["Up", "How far it reaches above the middle.", 90],
  ["Down", "How far it reaches below the middle.", 90],
] as const;

/** Which way a panorama looks, and how far it reaches, by drag and by degrees. */
export function ViewControls() {
  return (
    <>
      <div className="mt-1 flex gap-1">
        <ToolButton tool="turn" text="Drag" hint="Drag the picture or a border to move it (O)" />
        <ToolButton
          tool="roll"
          text="Roll by drag"
          hint="Drag around the middle of the view to roll (Shift O)"
        />
      </div>
      <Setting name="panorama.yaw" />
      <Setting name="panorama.pitch" />
      <Setting name="panorama.roll" />
      <Borders />
    </>
  );
}

function Borders() {
  const { edit } = useWorkspace();
  const recipe = usePanoramaRecipe();
  const layout = useSession((s) => s.layout);
  const { extent: wanted } = recipe.panorama;
  const extent = wanted === "auto" ? layout && extentOf(layout.canvas) : wanted;
  const withExtent = (to: PanoramaRecipe["panorama"]["extent"]): PanoramaRecipe => ({
    ...recipe,
    panorama: { ...recipe.panorama, extent: to },
  });
  const withSide = (side: number, degrees: number): PanoramaRecipe => {
    const [left, right, up, down] = extent!.map((was, i) =>
      i === side ? Math.round(degrees * 10) / 10 : was,
    );
    return withExtent([left!, right!, up!, down!]);
  };
  return (
    <>
      {extent &&
        SIDES.map(([label, hint, most], side) => (
          <NumberSlider
            key={label}
            label={label}
            hint={hint}
            unit="°"
            min={0.5}
            max={most}
            step={0.5}
            reset={extent[side]!}
            value={extent[side]!}
            shown={(degrees) => degrees.toFixed(1)}
            onChange={(degrees) => edit.show(withSide(side, degrees))}
            onCommit={(degrees) =>
              edit.keep(withSide(side, degrees), `Border ${label.toLowerCase()}`)
            }
          />
        ))}
      {wanted !== "auto" && (
        <div className="text-right">
          <Button
            variant="plain"
            className="px-1"
            onClick={() => edit.keep(withExtent("auto"), "All that is covered")}
            hint="Resets the borders to where the frames end"
          >
            All that is covered
          </Button>
        </div>
      )}
    </>
  );
}
