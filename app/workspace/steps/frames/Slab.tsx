import { frameName } from "../../state/frameName";
import { Select } from "../../../ui/Select";
import type { Recipe } from "../../../../pipeline/recipe/recipe";
import type { Frame } from "../../../store/records";
import type { Edit } from "../../state/edit";

interface Props {
  recipe: Recipe;
  frames: readonly Frame[];
  /** along the focus travel, where it is known */
  order: readonly number[] | undefined;
  edit: Edit;
}

/**
 * Merges a slab only: the frames from one to another along the focus travel, all others left out.
 */
export function Slab({ recipe: r, frames, order, edit }: Props) {
  // frames left out are no part of the order that was found; they stand where they were taken
  const places = order?.length === frames.length ? [...order] : frames.map((_, i) => i);
  const ids = places.map((i) => frames[i]!.id);
  const on = ids.map((id, k) => (r.frames.leftOut.includes(id) ? -1 : k)).filter((k) => k >= 0);
  const first = on[0] ?? 0;
  const last = on.at(-1) ?? ids.length - 1;
  const take = (a: number, b: number): void =>
    edit.keep(
      { ...r, frames: { leftOut: ids.filter((_, k) => k < Math.min(a, b) || k > Math.max(a, b)) } },
      "Slab",
    );
  const choice = (label: string, value: number, onChange: (k: number) => void) => (
    <Select
      name={label}
      className="grow"
      value={String(value)}
      options={places.map((i, k) => ({
        value: String(k),
        text: frameName(frames[i]!.info.name),
      }))}
      onChange={(to) => onChange(Number(to))}
    />
  );
  return (
    <div
      className="mb-2 flex items-center gap-2 border-b border-line pb-2"
      title="Only the frames from one to another, along the focus travel, are merged"
    >
      <span className="w-10 text-quiet">Slab</span>
      {choice("First frame of the slab", first, (k) => take(k, Math.max(k, last)))}
      <span className="text-quiet">to</span>
      {choice("Last frame of the slab", last, (k) => take(Math.min(k, first), k))}
    </div>
  );
}
