import { useState } from "react";
import type { Recipe } from "../../pipeline/recipe/recipe";
import type { Layout } from "../../pipeline/panorama/layout";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { plainNumber } from "../ui/format";
import { NumberSlider } from "../ui/NumberSlider";
import type { Edit } from "./edit";

const LENSES: Record<Recipe["panorama"]["lens"], string> = {
  auto: "By the frames",
  rectilinear: "Rectilinear",
  equidistant: "Fisheye, equidistant",
  equisolid: "Fisheye, equisolid",
};

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
  return (
    <>
      <Choice
        label="Camera"
        hint="Rotated: all frames from one point. Moved: from many points in front of something flat, such as a facade, a floor or a painting."
        value={r.panorama.taken}
        options={[
          { value: "point", text: "Rotated" },
          { value: "flat", text: "Moved" },
        ]}
        onChange={(taken) =>
          edit.keep({ ...r, panorama: { ...r.panorama, taken } }, "How it was taken")
        }
      />
      <label className="grid grid-cols-[84px_1fr] items-center gap-2 py-0.5">
        <span className="text-quiet">Lens</span>
        <select
          aria-label="Lens"
          title="A fisheye lens is known by its name in the file or by its circle in the frames"
          className="h-6 w-full min-w-0 rounded border border-line bg-panel px-1"
          value={lens}
          onChange={(e) =>
            edit.keep(
              { ...r, panorama: { ...r.panorama, lens: e.target.value as keyof typeof LENSES } },
              "Lens",
            )
          }
        >
          {Object.entries(LENSES).map(([k, text]) => (
            <option key={k} value={k}>
              {k === "auto" && fisheye ? `${text}: fisheye` : text}
            </option>
          ))}
        </select>
      </label>
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
      {layout?.duplicates.length || r.panorama.duplicates === "use" ? (
        <Choice
          label="Taken twice"
          hint="Frames that show the same as another, equally exposed. If used, they can fill in where something is hidden in the other."
          value={r.panorama.duplicates}
          options={[
            { value: "drop", text: "Left out" },
            { value: "use", text: "Used" },
          ]}
          onChange={(duplicates) =>
            edit.keep({ ...r, panorama: { ...r.panorama, duplicates } }, "Frames taken twice")
          }
        />
      ) : null}
      <Choice
        label="Light"
        hint="Even makes all frames equally bright. Ramp keeps a steady change of exposure from one side to the other, without the steps between frames."
        value={r.panorama.light}
        options={[
          { value: "even", text: "Even" },
          { value: "ramp", text: "Ramp" },
        ]}
        onChange={(light) =>
          edit.keep({ ...r, panorama: { ...r.panorama, light } }, "Light of the frames")
        }
      />
    </>
  );
}
