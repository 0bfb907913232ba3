import { pixelWidth } from "../../pixelWidth";
import { Menu } from "../../../ui/Menu";
import { Select } from "../../../ui/Select";
import { Checkbox } from "../../../ui/Checkbox";
import type { GhostPatch } from "../../../../core/bracket/ghostPatches";
import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { AreaTools } from "../../AreaTools";
import { Setting } from "../../Setting";
import { useOneViewRecipe, useRecord, useView, useWorkspace } from "../../state/workspace";

/** No frame: it is asked for each stroke. */
const ASK = "ask";

/** What is done about moving things: by itself, and the areas that the user gave to a frame. */
export function GhostControls() {
  const { edit, view } = useWorkspace();
  const recipe = useOneViewRecipe();
  const { frames } = useRecord();
  const from = useView((v) => v.retouchFrom);
  const { patches } = recipe.ghosts;
  const with_ = (next: GhostPatch[]): OneViewRecipe => ({ ...recipe, ghosts: { patches: next } });
  const patch = (id: string, part: Partial<GhostPatch>): OneViewRecipe =>
    with_(patches.map((p) => (p.id === id ? { ...p, ...part } : p)));
  return (
    <>
      {recipe.kind === "focus" && (
        <Menu
          label="From"
          name="Retouch from"
          hint="What is drawn is given to this frame at once (T takes the frame that is sharpest under the pointer)."
          value={from === undefined ? ASK : String(from)}
          options={[
            { value: ASK, text: "Ask each time" },
            ...frames.map(({ info }, i) => ({ value: String(i), text: info.name })),
          ]}
          onChange={(to) => view.setState({ retouchFrom: to === ASK ? undefined : Number(to) })}
        />
      )}
      <Setting name="merge.deghost" />
      <Setting name="merge.ghostStrength" onlyKept />
      <AreaTools />
      {patches.length > 0 && (
        <ul
          aria-label="Ghost patches"
          className="mt-2 flex flex-col gap-1 border-t border-line pt-2"
        >
          {patches.map((p, i) => (
            <li key={p.id}>
              <div className="flex items-center gap-2">
                <Checkbox
                  name={`Patch ${i + 1} is on`}
                  checked={p.on}
                  onChange={(on) =>
                    edit.keep(patch(p.id, { on: on }), `Ghost patch ${i + 1} ${on ? "on" : "off"}`)
                  }
                />
                <Select
                  name={`Frame of patch ${i + 1}`}
                  className="grow"
                  value={p.frame}
                  options={frames.map(({ id, info }) => ({ value: id, text: info.name }))}
                  onChange={(frame) =>
                    edit.keep(patch(p.id, { frame }), `Frame of ghost patch ${i + 1}`)
                  }
                />
                <Button
                  variant="plain"
                  className="h-6 px-2"
                  aria-label={`Delete patch ${i + 1}`}
                  onClick={() =>
                    edit.keep(
                      with_(patches.filter((q) => q.id !== p.id)),
                      `Delete ghost patch ${i + 1}`,
                    )
                  }
                >
                  Delete
                </Button>
              </div>
              <NumberSlider
                label="Soft"
                hint="Width of the border over which the frames are blended."
                unit="px"
                min={0}
                max={0.04}
                step={0.001}
                reset={0.006}
                value={p.soft}
                {...pixelWidth}
                onChange={() => undefined}
                onCommit={(soft) =>
                  edit.keep(patch(p.id, { soft }), `Border of ghost patch ${i + 1}`)
                }
              />
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
