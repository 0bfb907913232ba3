import { useState } from "react";
import { Toolbar } from "radix-ui";
import type { Delivery } from "../../pipeline/deliver/settings";
import { MAIN_FILE, type DeliveryChange } from "../store/changeDelivery";
import type { OfferedDelivery } from "../store/deliveries";
import { freeName } from "../store/freeName";
import { ActionMenu, type Action } from "../ui/ActionMenu";
import { Checkbox } from "../ui/Checkbox";
import { WordField } from "../ui/WordField";
import { deliverySaid } from "./deliverySaid";
import type { Plan } from "./plan";

interface Props {
  plan: Plan;
  offered: readonly OfferedDelivery[];
  chosen: string;
  onChoose: (name: string) => void;
  onChange: (change: DeliveryChange) => void;
  /** it is offered for all stacks from now on */
  onKeep: (delivery: Delivery) => void;
  onDrop: (name: string) => void;
}

/** As a delivery is called on screen. */
export const deliveryName = (name: string): string => (name === MAIN_FILE ? "Main file" : name);

/** The deliveries of the stacks that go out: for all of them switched, added, named and deleted. */
export function DeliveryList(props: Props) {
  const { plan, offered, chosen, onChoose, onChange } = props;
  return (
    <section aria-label="Deliveries">
      <div className="flex items-center justify-between pb-1">
        <h2 className="pl-2.5 font-semibold">Deliveries</h2>
        <AddMenu plan={plan} offered={offered} onChange={onChange} onDrop={props.onDrop} />
      </div>
      <ul aria-label="Deliveries">
        {plan.columns.map((name) => (
          <DeliveryRow
            key={name}
            name={name}
            isChosen={name === chosen}
            {...props}
            onChoose={() => onChoose(name)}
          />
        ))}
      </ul>
    </section>
  );
}

/** One delivery: the first of the stacks that has it stands for its settings. */
function DeliveryRow({
  name,
  isChosen,
  plan,
  onChoose,
  onChange,
  onKeep,
}: Omit<Props, "onChoose"> & { name: string; isChosen: boolean; onChoose: () => void }) {
  const [isWriting, setWriting] = useState(false);
  const having = plan.stacks.flatMap(({ cells }) => cells.get(name) ?? []);
  const on = having.filter(({ delivery }) => delivery.on).length;
  const settings = having[0]?.delivery.settings;
  const isMain = name === MAIN_FILE;
  const title = deliveryName(name);
  return (
    <li
      className={`flex min-h-12 items-center gap-2 border-l-[3px] pr-1 pl-2 ${isChosen ? "border-accent bg-raised" : "border-transparent"}`}
    >
      <Checkbox
        name={isMain ? "The main file is always made" : `${title} for all stacks`}
        checked={on === plan.stacks.length && on > 0}
        disabled={isMain}
        onChange={(to) => {
          const delivery = having[0]?.delivery;
          if (to && delivery) onChange({ what: "add", delivery });
          else onChange({ what: "switch", name, on: to });
        }}
      />
      {isWriting ? (
        <WordField
          name="Name of the delivery"
          text={name}
          longest={80}
          mayBeEmpty={false}
          onWritten={(to) => {
            setWriting(false);
            if (to !== undefined && to !== name) onChange({ what: "rename", name, to });
          }}
        />
      ) : (
        <button
          type="button"
          aria-pressed={isChosen}
          className="grid min-w-0 grow py-1 text-left"
          onClick={onChoose}
          onKeyDown={(e) => {
            if (isMain) return;
            if (e.key === "F2") setWriting(true);
            if (e.key === "Delete") onChange({ what: "delete", name });
          }}
        >
          <span className="truncate">{title}</span>
          <span className="truncate text-[12px] text-quiet">
            {settings ? deliverySaid(settings) : ""}
          </span>
        </button>
      )}
      <span className="text-[12px] tabular-nums text-quiet" title={`Made of ${on} stacks`}>
        {on || "–"}
      </span>
      {isChosen && !isMain && !isWriting && settings && (
        <Toolbar.Root aria-label={`Acts on ${title}`}>
          <ActionMenu
            name=""
            label={`More for ${title}`}
            groups={[
              {
                actions: [
                  { text: "Rename", keys: "F2", onSelect: () => setWriting(true) },
                  {
                    text: "Keep it for other stacks",
                    onSelect: () => onKeep({ name, on: true, settings }),
                  },
                  {
                    text: "Delete",
                    keys: "Delete",
                    onSelect: () => onChange({ what: "delete", name }),
                  },
                ],
              },
            ]}
          />
        </Toolbar.Root>
      )}
    </li>
  );
}

function AddMenu({
  plan,
  offered,
  onChange,
  onDrop,
}: Pick<Props, "plan" | "offered" | "onChange" | "onDrop">) {
  const missing = offered.filter(({ delivery }) => !plan.columns.includes(delivery.name));
  const added = ({ delivery }: OfferedDelivery): Action => ({
    text: delivery.name,
    onSelect: () => onChange({ what: "add", delivery }),
  });
  const main = plan.stacks[0]?.cells.get(MAIN_FILE)?.delivery;
  const own = offered.filter(({ isOwn }) => isOwn);
  return (
    <Toolbar.Root aria-label="Add a delivery">
      <ActionMenu
        name="Add"
        hint="A file more of every stack, from the same picture"
        groups={[
          { actions: missing.filter(({ isOwn }) => !isOwn).map(added) },
          { heading: "Your own", actions: missing.filter(({ isOwn }) => isOwn).map(added) },
          {
            actions: main
              ? [
                  {
                    text: "Like the main file",
                    onSelect: () =>
                      onChange({
                        what: "add",
                        delivery: { ...main, name: freeName(plan.columns, "File"), on: true },
                      }),
                  },
                ]
              : [],
          },
          {
            heading: "Keep no longer",
            actions: own.map(({ delivery: { name } }) => ({
              text: name,
              onSelect: () => onDrop(name),
            })),
          },
        ]}
      />
    </Toolbar.Root>
  );
}
