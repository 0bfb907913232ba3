import type { Adjustments } from "../../../../core/finish/adjustments";
import {
  ADJUSTMENT_GROUPS,
  ADJUSTMENT_GROUP_NAMES,
  type AdjustmentGroup,
} from "../../../../pipeline/finish/adjustmentFields";
import { Checkbox } from "../../../ui/Checkbox";
import { Chevron } from "../../../ui/Chevron";
import { adjustmentsOf, groupsOff, withGroup } from "../../actions/parts";
import { useRecipe, useView, useWorkspace } from "../../state/workspace";
import { GROUP_CONTROLS } from "./groupControls";
import { groupSaid, setInGroup } from "./sentence";

/** The adjustments of a part in their groups: closed, each says what it does. */
export function AdjustmentGroups({ part }: { part: string | undefined }) {
  const { view, edit } = useWorkspace();
  const recipe = useRecipe();
  const open = useView((v) => v.groups);
  const set = adjustmentsOf(recipe, part);
  const off = groupsOff(recipe, part);
  const toggle = (group: AdjustmentGroup): void =>
    view.setState(({ groups }) => ({
      groups: groups.includes(group) ? groups.filter((g) => g !== group) : [...groups, group],
    }));
  return (
    <div className="mt-1">
      {ADJUSTMENT_GROUP_NAMES.map((group) => (
        <Group
          key={group}
          group={group}
          set={set}
          isOpen={open.includes(group)}
          isOn={!off.includes(group)}
          onToggle={() => toggle(group)}
          onSwitch={(on) =>
            edit.keep(
              withGroup(recipe, part, group, on),
              `${ADJUSTMENT_GROUPS[group].name} ${on ? "on" : "off"}`,
            )
          }
        />
      ))}
    </div>
  );
}

function Group({
  group,
  set,
  isOpen,
  isOn,
  onToggle,
  onSwitch,
}: {
  group: AdjustmentGroup;
  set: Adjustments;
  isOpen: boolean;
  isOn: boolean;
  onToggle: () => void;
  onSwitch: (on: boolean) => void;
}) {
  const { name } = ADJUSTMENT_GROUPS[group];
  const Controls = GROUP_CONTROLS[group];
  const isSet = setInGroup(set, group).length > 0;
  return (
    <section aria-label={name} className="border-t border-line">
      <div className="flex items-center gap-2 pr-1">
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={onToggle}
          className="flex h-8 min-w-0 grow items-center gap-2 text-left pointer-coarse:h-10"
        >
          <span className="shrink-0 font-semibold">{name}</span>
          <span
            className={`grow truncate text-right text-[12px] ${isSet && isOn ? "text-ink" : "text-quiet"}`}
          >
            {isOn ? groupSaid(set, group) : "off"}
          </span>
          <span className={isOpen ? "rotate-180" : ""}>
            <Chevron />
          </span>
        </button>
        {(isSet || !isOn) && <Checkbox name={`${name} is on`} checked={isOn} onChange={onSwitch} />}
      </div>
      {isOpen && (
        <div className={`pb-2 ${isOn ? "" : "opacity-60"}`}>
          <Controls />
        </div>
      )}
    </section>
  );
}
