import { MAIN_FILE, type DeliveryChange } from "../store/changeDelivery";
import { safeName } from "../../pipeline/deliver/fileName";
import { NO_PAPER } from "../../pipeline/deliver/paper";
import { Button } from "../ui/Button";
import { handOver } from "../work/handOver";
import { orderSheet } from "./orderSheet";
import { deliveryName } from "./DeliveryList";
import { FileControls } from "./FileControls";
import type { Cell, Plan } from "./plan";

/** The settings of a delivery, set for all stacks that have it. */
export function DeliverySettings({
  plan,
  shoot,
  name,
  shown,
  onChange,
}: {
  plan: Plan;
  /** its name */
  shoot: string;
  name: string;
  /** of the stack at the cursor */
  shown: Cell | undefined;
  onChange: (change: DeliveryChange) => void;
}) {
  const having = plan.stacks.filter(({ cells }) => cells.has(name));
  const cell = shown ?? having[0]?.cells.get(name);
  if (!cell || !having.length) return null;
  const { settings } = cell.delivery;
  const asShown = JSON.stringify(settings);
  const others = having.filter(
    ({ cells }) => JSON.stringify(cells.get(name)!.delivery.settings) !== asShown,
  ).length;
  return (
    <section aria-label={`Settings of ${deliveryName(name)}`} className="mt-3">
      <h2 className="flex items-baseline justify-between pb-1 pl-2.5">
        <span className="font-semibold">{deliveryName(name)}</span>
        <span className="text-[12px] text-quiet">
          {having.length} {having.length === 1 ? "stack" : "stacks"}
          {others > 0 && `, ${others} set otherwise`}
        </span>
      </h2>
      <FileControls
        settings={settings}
        kind={having[0]!.take.recipe.kind}
        onKeep={(part, label) => onChange({ what: "set", name, settings: part, label })}
      />
      <p className="truncate pl-2.5 text-[12px] text-quiet" title={cell.name}>
        {cell.unknown.length ? `Nobody knows {${cell.unknown.join("}, {")}}` : cell.name}
      </p>
      {settings.paper !== NO_PAPER && (
        <Button
          className="mt-1"
          hint="File, paper, margin and resolution of each print, as text"
          onClick={() =>
            handOver({
              name: `${safeName(shoot)} prints.txt`,
              content: new Blob([orderSheet(shoot, plan, name)]),
            })
          }
        >
          Save the order sheet
        </Button>
      )}
      {name === MAIN_FILE && plan.clashes.length > 0 && (
        <p className="truncate pl-2.5 text-[12px]" title={plan.clashes.join(", ")}>
          Several are called {plan.clashes[0]}; the others get numbers.
        </p>
      )}
    </section>
  );
}
