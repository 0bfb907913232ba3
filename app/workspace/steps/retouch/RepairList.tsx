import { Toolbar } from "radix-ui";
import type { KeptRepair } from "../../../../pipeline/retouch/repairSchema";
import { ActionMenu } from "../../../ui/ActionMenu";
import { Checkbox } from "../../../ui/Checkbox";
import {
  deleteRepair,
  moveRepair,
  REPAIR_NAMES,
  showRepair,
  withRepair,
} from "../../actions/repairs";
import { useRecipe, useSession, useView, useWorkspace } from "../../state/workspace";

/** How large a repair is, in a few words. */
function extentSaid(
  shape: KeptRepair["shape"],
  { width, height }: { width: number; height: number },
): string {
  if (shape.type === "outline") return "outline";
  const across = Math.round(2 * shape.radius * Math.max(width, height));
  return `${shape.type === "spot" ? "spot" : "stroke"}, ${across}\u00a0px`;
}

/** The repairs in the order in which they are made. */
export function RepairList() {
  const workspace = useWorkspace();
  const { edit } = workspace;
  const recipe = useRecipe();
  const size = useSession((s) => s.size);
  const shown = useView((v) => v.repair);
  const { repairs } = recipe.retouch;
  if (!repairs.length) return null;
  const onKeyDown = (e: React.KeyboardEvent, index: number): void => {
    const acts: Record<string, () => void> = {
      Delete: () => deleteRepair(workspace, index),
      "Alt ArrowUp": () => moveRepair(workspace, index, -1),
      "Alt ArrowDown": () => moveRepair(workspace, index, 1),
    };
    const act = acts[`${e.altKey ? "Alt " : ""}${e.key}`];
    if (!act) return;
    e.preventDefault();
    e.stopPropagation();
    act();
  };
  return (
    <ul aria-label="Repairs" className="mt-2 max-h-44 overflow-y-auto border-t border-line pt-1">
      {repairs.map((repair, i) => {
        const name = `${REPAIR_NAMES[repair.kind]} ${i + 1}`;
        return (
          <li
            key={i}
            className={`flex items-center gap-2 border-l-2 pl-2 pr-1 ${i === shown ? "border-accent bg-raised" : "border-transparent"}`}
          >
            <Checkbox
              name={`${name} is on`}
              checked={repair.on}
              onChange={(on) =>
                edit.keep(withRepair(recipe, i, { on }), `${name} ${on ? "on" : "off"}`)
              }
            />
            <button
              type="button"
              aria-pressed={i === shown}
              className={`flex h-7 min-w-0 grow items-center gap-2 rounded text-left pointer-coarse:h-10 ${repair.on ? "" : "text-quiet"}`}
              onClick={() => showRepair(workspace, i)}
              onKeyDown={(e) => onKeyDown(e, i)}
            >
              <span>{name}</span>
              <span className="truncate text-[12px] text-quiet">
                {extentSaid(repair.shape, size)}
              </span>
            </button>
            {i === shown && (
              <Toolbar.Root aria-label={`Acts on ${name}`}>
                <ActionMenu
                  name=""
                  label={`More for ${name}`}
                  hint="More for this repair"
                  groups={[
                    {
                      actions: [
                        {
                          text: "Earlier",
                          keys: "Alt \u2191",
                          onSelect: () => moveRepair(workspace, i, -1),
                        },
                        {
                          text: "Later",
                          keys: "Alt \u2193",
                          onSelect: () => moveRepair(workspace, i, 1),
                        },
                      ],
                    },
                    {
                      actions: [
                        {
                          text: "Delete",
                          keys: "Delete",
                          onSelect: () => deleteRepair(workspace, i),
                        },
                      ],
                    },
                  ]}
                />
              </Toolbar.Root>
            )}
          </li>
        );
      })}
    </ul>
  );
}
