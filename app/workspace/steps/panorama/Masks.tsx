import { Select } from "../../../ui/Select";
import { Checkbox } from "../../../ui/Checkbox";
import { rowOf } from "../../../../core/panorama/layout/row";
import type { PanoramaRecipe } from "../../../../pipeline/recipe/recipe";
import { Button } from "../../../ui/Button";
import { AreaTools } from "../../AreaTools";
import { frameName } from "../../state/frameName";
import { usePartaking } from "../../state/partaking";
import { usePanoramaRecipe, useRecord, useSession, useWorkspace } from "../../state/workspace";

type Mask = PanoramaRecipe["panorama"]["masks"][number];

/** Stands for all frames of a mask's row, among those that it can be copied to. */
const ROW = "row";
/** A stack has at most so many masks. */
const MOST_MASKS = 500;

const withMasks = (recipe: PanoramaRecipe, masks: Mask[]): PanoramaRecipe => ({
  ...recipe,
  panorama: { ...recipe.panorama, masks },
});

/** Parts of a panorama's frames that are hidden. */
export function Masks() {
  const { edit } = useWorkspace();
  const recipe = usePanoramaRecipe();
  const { masks, maskedTies } = recipe.panorama;
  return (
    <>
      <AreaTools />
      {masks.length > 0 && (
        <>
          <label className="mt-1 flex h-7 items-center gap-2 text-quiet">
            <Checkbox
              checked={maskedTies === "drop"}
              onChange={(on) => {
                const to = on ? "drop" : "keep";
                edit.keep(
                  { ...recipe, panorama: { ...recipe.panorama, maskedTies: to } },
                  to === "drop" ? "No ties in hidden parts" : "Ties in hidden parts",
                );
              }}
            />
            Hidden parts tie no frames
          </label>
          <ul aria-label="Masks" className="mt-1">
            {masks.map((mask, i) => (
              <MaskLine key={mask.id} mask={mask} index={i} />
            ))}
          </ul>
        </>
      )}
    </>
  );
}

/** One mask: in which frame it lies, whether it is on, and copies of it in other frames. */
function MaskLine({ mask, index }: { mask: Mask; index: number }) {
  const { edit } = useWorkspace();
  const recipe = usePanoramaRecipe();
  const { frames } = useRecord();
  const { masks } = recipe.panorama;
  const { row, all } = useCopyTargets(mask);
  const names = new Map(frames.map((frame) => [frame.id, frame.info.name]));
  const name = names.get(mask.frame) ?? mask.frame;
  const copyTo = (to: string): void => {
    const copies = (to === ROW ? row : [to]).map((frame) => ({
      ...mask,
      id: crypto.randomUUID(),
      frame,
    }));
    edit.keep(
      withMasks(recipe, [...masks, ...copies].slice(0, MOST_MASKS)),
      to === ROW ? `Mask ${index + 1} in the whole row` : `Mask ${index + 1} in ${names.get(to)}`,
    );
  };
  const turn = (on: boolean): void =>
    edit.keep(
      withMasks(
        recipe,
        masks.map((other) => (other === mask ? { ...mask, on } : other)),
      ),
      `Mask ${index + 1} ${on ? "on" : "off"}`,
    );
  const remove = (): void =>
    edit.keep(
      withMasks(
        recipe,
        masks.filter((other) => other !== mask),
      ),
      `Delete mask ${index + 1}`,
    );
  return (
    <li className="flex h-7 items-center gap-2">
      <Checkbox name={`Mask ${index + 1} is on`} checked={mask.on} onChange={turn} />
      <span className="min-w-0 grow truncate text-[12px] text-quiet">In {frameName(name)}</span>
      <Select
        name={`Copy mask ${index + 1} to`}
        hint="Hides the same part of another frame, or of all that look as high: a tripod, a hood, dirt on the lens"
        className="h-6 w-24 text-[12px]"
        value=""
        placeholder="Copy to"
        options={[
          ...(row.length > 0 ? [{ value: ROW, text: "The whole row" }] : []),
          ...all.map((id) => ({ value: id, text: names.get(id) ?? id })),
        ]}
        onChange={copyTo}
      />
      <Button
        variant="plain"
        className="h-6 px-1!"
        aria-label={`Delete mask ${index + 1}`}
        onClick={remove}
      >
        Delete
      </Button>
    </li>
  );
}

/** The frames that do not hide the same part yet: those in one row with it, and all of them. */
function useCopyTargets(mask: Mask): { row: string[]; all: string[] } {
  const { masks } = usePanoramaRecipe().panorama;
  const { frames } = useRecord();
  const layout = useSession((s) => s.layout);
  const partaking = usePartaking();
  const shape = JSON.stringify(mask.points);
  const hides = ({ id, name }: { id: string; name: string }): boolean =>
    masks.some(
      (other) =>
        (other.frame === id || other.frame === name) && JSON.stringify(other.points) === shape,
    );
  const own = partaking.findIndex(({ id, name }) => id === mask.frame || name === mask.frame);
  const beside = layout ? rowOf(layout.cameras, own).filter((i) => i !== own) : [];
  return {
    row: beside.flatMap((i) => {
      const frame = partaking[i];
      return frame && !hides(frame) ? [frame.id] : [];
    }),
    all: frames.flatMap(({ id, info: { name } }) => (hides({ id, name }) ? [] : [id])),
  };
}
