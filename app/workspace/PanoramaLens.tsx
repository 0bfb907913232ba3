import { useState } from "react";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Layout } from "../../pipeline/panorama/layout";
import { Button } from "../ui/Button";
import { plainNumber } from "../ui/format";
import { NumberSlider } from "../ui/NumberSlider";
import { panoramaSettings } from "../../pipeline/panorama/settings";
import type { SettingName } from "../../pipeline/settings/reference";
import type { Edit } from "./edit";
import { SettingControl, type SettingOptions } from "./SettingControl";

/**
 * How a panorama's frames were taken, how their lens draws, its image circle, and what becomes of
 * their exposures.
 */
export function PanoramaLens({
  recipe: r,
  edit,
  layout,
}: {
  recipe: Recipe;
  edit: Edit;
  layout: Layout | undefined;
}) {
  const { lens, circle } = r.panorama;
  const camera = layout?.cameras.find((c) => c);
  const found =
    camera?.circle === undefined ? 0 : camera.circle / Math.min(camera.width, camera.height);
  const fisheye = lens === "auto" ? camera?.lens !== undefined : lens !== "rectilinear";
  // frames are located anew by it, so nothing is shown while it moves
  const [moved, setMoved] = useState<number>();
  const set = (setting: SettingName, more: SettingOptions = {}) => (
    <SettingControl setting={setting} recipe={r} edit={edit} {...more} />
  );
  return (
    <>
      {set("panorama.taken")}
      {set("panorama.lens", {
        options: panoramaSettings.fields.lens.options.map(({ value, text }) => ({
          value,
          text: value === "auto" && fisheye ? `${text}: fisheye` : text,
        })),
      })}
      {fisheye && (
        <>
          <NumberSlider
            label="Image circle"
            hint="Diameter relative to the frame's shorter side; 0 where the lens fills the frame. What lies outside is not used."
            unit="%"
            min={0}
            max={1}
            step={0.005}
            reset={found}
            shown={(v) => plainNumber(v * 200, 0)}
            parse={(n) => n / 200}
            value={moved ?? (circle === "auto" ? found : circle)}
            onChange={setMoved}
            onCommit={(v) => {
              setMoved(undefined);
              edit.keep(
                {
                  ...r,
                  panorama: {
                    ...r.panorama,
                    circle: v,
                    lens: lens === "auto" ? (camera?.lens ?? "equisolid") : lens,
                  },
                },
                "Image circle",
              );
            }}
          />
          {circle !== "auto" && (
            <Button
              variant="plain"
              className="px-1"
              onClick={() =>
                edit.keep(
                  { ...r, panorama: { ...r.panorama, circle: "auto" } },
                  "Image circle as found",
                )
              }
            >
              As found
            </Button>
          )}
        </>
      )}
      {(layout?.duplicates.length || r.panorama.duplicates === "use") && set("panorama.duplicates")}
      {set("panorama.light")}
    </>
  );
}
