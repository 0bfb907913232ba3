import { useState } from "react";
import { Link, useRevalidator } from "react-router";
import { RhizomeError } from "../../core/error";
import type { HistoryState } from "../store/changes";
import { MAIN_FILE, type DeliveryChange } from "../store/changeDelivery";
import { dropDelivery, keepDelivery, type OfferedDelivery } from "../store/deliveries";
import type { Shoot } from "../store/records";
import { TrayBar } from "../tray/TrayBar";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";
import { History } from "../ui/History";
import { Select } from "../ui/Select";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { deliver } from "../work/deliveries";
import { isUnderWay, tray } from "../work/jobs";
import { ChosenFile } from "./ChosenFile";
import { DeliveryList } from "./DeliveryList";
import { DeliverySettings } from "./DeliverySettings";
import { DeliverTable, type Place } from "./DeliverTable";
import { ResultFolder } from "./ResultFolder";
import type { Plan, PlannedStack } from "./plan";

interface Props {
  shoot: Shoot;
  shoots: readonly Shoot[];
  onShoot: (id: string) => void;
  plan: Plan;
  /** how many stacks the shoot has */
  all: number;
  history: HistoryState;
  offered: readonly OfferedDelivery[];
  /** why the last change was not kept */
  failed: string | undefined;
  isUnsaved: boolean;
  /** stacks that stay at home, by id */
  leftOut: ReadonlySet<string>;
  onLeftOut: (ids: ReadonlySet<string>) => void;
  onChange: (stacks: readonly string[], change: DeliveryChange) => void;
}

/** Deliveries and their settings left, stacks by deliveries in the middle, the chosen file right. */
export function DeliverScreen(props: Props) {
  const { shoot, shoots, plan, all, history, offered, leftOut, onLeftOut, onChange } = props;
  const [place, setPlace] = useState<Place>({ stack: plan.stacks[0]?.stack.id, column: 0 });
  const [problem, setProblem] = useState<string>();
  const { revalidate } = useRevalidator();
  const going = plan.stacks.filter(({ stack }) => !leftOut.has(stack.id));
  const start = (): void => startDeliveries(shoot, going);
  useKeys({ d: start });
  const name = plan.columns[place.column] ?? MAIN_FILE;
  const chosen = plan.stacks.find(({ stack }) => stack.id === place.stack) ?? plan.stacks[0];
  const ids = plan.stacks.map(({ stack }) => stack.id);
  const keep = (work: Promise<void>): void =>
    void work
      .catch((e: unknown) => setProblem(RhizomeError.from(e).sentence))
      .then(() => revalidate());
  const said = problem ?? props.failed;
  return (
    <div className="flex h-full flex-col" data-unsaved={props.isUnsaved ? "" : undefined}>
      <TopBar
        screen="deliver"
        path={[
          { text: "Shoots", to: "/shoots" },
          { text: shoot.name, to: `/shoots/${shoot.id}` },
          { text: "Deliver" },
        ]}
        middle={`${plan.stacks.length} of ${counted(all, "stack")}`}
      >
        {shoots.length > 1 && (
          <Select
            name="Shoot"
            value={shoot.id}
            options={shoots.map(({ id, name: text }) => ({ value: id, text }))}
            onChange={props.onShoot}
          />
        )}
        <History state={history} />
        <Button
          variant="accent"
          disabled={!plan.files}
          onClick={start}
          hint="Renders all that is on at full size (D)"
          data-testid="deliver"
        >
          Deliver {counted(plan.files, "file")}
        </Button>
      </TopBar>
      {said && (
        <p role="alert" className="border-b border-line bg-panel px-4 py-2">
          {said}
        </p>
      )}
      <main className="grid min-h-0 grow grid-cols-[320px_minmax(0,1fr)_256px] max-lg:grid-cols-[280px_minmax(0,1fr)]">
        <aside
          aria-label="Deliveries and their settings"
          className="overflow-y-auto border-r border-line bg-panel p-3"
        >
          <DeliveryList
            plan={plan}
            offered={offered}
            chosen={name}
            onChoose={(to) => setPlace({ ...place, column: plan.columns.indexOf(to) })}
            onChange={(change) => onChange(ids, change)}
            onKeep={(delivery) => keep(keepDelivery(delivery))}
            onDrop={(own) => keep(dropDelivery(own))}
          />
          <DeliverySettings
            plan={plan}
            shoot={shoot.name}
            name={name}
            shown={chosen?.cells.get(name)}
            onChange={(change) => onChange(ids, change)}
          />
          <ResultFolder shoot={shoot.id} onProblem={setProblem} />
        </aside>
        {plan.stacks.length ? (
          <DeliverTable
            plan={plan}
            shootId={shoot.id}
            place={place}
            onPlace={setPlace}
            leftOut={leftOut}
            onLeftOut={onLeftOut}
            onSwitch={(stack, column, on) =>
              onChange([stack], { what: "switch", name: column, on })
            }
            onAdd={(stack, delivery) => onChange([stack], { what: "add", delivery })}
          />
        ) : (
          <p className="mt-40 text-center text-quiet">
            Nothing here can be merged: stacks of two frames or more go out.
          </p>
        )}
        <aside
          aria-label="The chosen file"
          tabIndex={0}
          className="overflow-y-auto border-l border-line bg-panel p-4 max-lg:hidden"
        >
          {chosen && <ChosenFile planned={chosen} cell={chosen.cells.get(name)} />}
        </aside>
      </main>
      <TrayBar />
    </div>
  );
}

/** Delivers stacks, those aside whose delivery is under way. */
function startDeliveries(shoot: Shoot, going: readonly PlannedStack[]): void {
  const { jobs } = tray.getState();
  const busy = new Set(
    jobs.filter((job) => job.kind === "delivery" && isUnderWay(job)).map(({ about }) => about),
  );
  const asked = going
    .filter(({ stack }) => !busy.has(stack.id))
    .map(({ stack, take, infos, expected }) => ({
      stack,
      take: take.name,
      recipe: take.recipe,
      infos,
      expectedMs: expected.ms,
    }));
  if (asked.length) void deliver(shoot, asked);
}

/** Before there is any shoot. */
export function NothingToDeliver() {
  return (
    <div className="flex h-full flex-col">
      <TopBar screen="deliver" path={[{ text: "Deliver" }]} />
      <main className="mt-40 text-center text-quiet">
        <p>There is no shoot yet. What is merged goes out from here.</p>
        <p className="mt-2">
          <Link className="text-accent underline" to="/shoots">
            To the shelf
          </Link>
        </p>
      </main>
    </div>
  );
}
