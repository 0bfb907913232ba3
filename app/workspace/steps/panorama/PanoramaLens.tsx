import { useState } from "react";
import { Button } from "../../../ui/Button";
import { plainNumber } from "../../../ui/format";
import { NumberSlider } from "../../../ui/NumberSlider";
import { panoramaSettings } from "../../../../pipeline/panorama/settings";
import { Setting } from "../../Setting";
import { usePanoramaRecipe, useSession, useWorkspace } from "../../state/workspace";

/**
 * How a panorama's frames were taken, how their lens draws, its image circle, and what becomes of
 * their exposures.
 */
export function PanoramaLens() {
  const { edit } = useWorkspace();
  const recipe = usePanoramaRecipe();
  const layout = useSession((s) => s.layout);
  const { lens, circle } = recipe.panorama;
  const camera = layout?.cameras.find((c) => c);
  const found =
    camera?.circle === undefined ? 0 : camera.circle / Math.min(camera.width, camera.height);
  const fisheye = lens === "auto" ? camera?.lens !== undefined : lens !== "rectilinear";
  // frames are located anew by it, so nothing is shown while it moves
  const [moved, setMoved] = useState<number>();
  return (
    <>
      <Setting name="panorama.taken" />
      <Setting
        name="panorama.lens"
        options={panoramaSettings.fields.lens.options.map(({ value, text }) => ({
          value,
          text: value === "auto" && fisheye ? `${text}: fisheye` : text,
        }))}
      />
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
                  ...recipe,
                  panorama: {
                    ...recipe.panorama,
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
                  { ...recipe, panorama: { ...recipe.panorama, circle: "auto" } },
                  "Image circle as found",
                )
              }
            >
              As found
            </Button>
          )}
        </>
      )}
      {(layout?.duplicates.length || recipe.panorama.duplicates === "use") && (
        <Setting name="panorama.duplicates" />
      )}
      <Setting name="panorama.light" />
    </>
  );
}
