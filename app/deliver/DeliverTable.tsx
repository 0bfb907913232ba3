import { useEffect, useRef, type KeyboardEvent } from "react";
import { Link, useNavigate } from "react-router";
import { useStore } from "zustand";
import { clamp } from "../../core/math/clamp";
import type { Delivery } from "../../pipeline/deliver/settings";
import { MAIN_FILE } from "../store/changeDelivery";
import { Checkbox } from "../ui/Checkbox";
import { Picture } from "../ui/Picture";
import { roughly } from "../ui/roughly";
import { deliveryOf, tray, type Job, type JobFile } from "../work/jobs";
import { deliveryName } from "./DeliveryList";
import { isTooSoft } from "./OutputFacts";
import type { Cell, Plan, PlannedStack } from "./plan";
import { bytesText } from "../ui/bytesText";

/** The file at the cursor: its stack, and its place among the columns; -1 is the stack itself. */
export interface Place {
  stack: string | undefined;
  column: number;
}

interface Props {
  plan: Plan;
  shootId: string;
  place: Place;
  onPlace: (place: Place) => void;
  leftOut: ReadonlySet<string>;
  onLeftOut: (ids: ReadonlySet<string>) => void;
  onSwitch: (stack: string, column: string, on: boolean) => void;
  onAdd: (stack: string, delivery: Delivery) => void;
}

/** Stacks as rows, their deliveries as columns: each file with its size, weight and state. */
export function DeliverTable(props: Props) {
  const { plan, place, onPlace } = props;
  const grid = useRef<HTMLTableElement>(null);
  const navigate = useNavigate();
  const row = Math.max(
    0,
    plan.stacks.findIndex(({ stack }) => stack.id === place.stack),
  );
  const toggle = useToggle(props);
  const keys = (e: KeyboardEvent): void => {
    const step = STEPS[e.key];
    if (step) {
      const at = clamp(row + step[1], 0, plan.stacks.length - 1);
      const column = clamp(place.column + step[0], -1, plan.columns.length - 1);
      onPlace({ stack: plan.stacks[at]?.stack.id, column });
    } else if (e.key === " ") toggle(plan.stacks[row]!, place.column);
    else if (e.key === "Enter")
      void navigate(`/shoots/${props.shootId}/${plan.stacks[row]!.stack.id}`);
    else return;
    e.preventDefault();
  };
  useEffect(() => {
    if (grid.current?.contains(document.activeElement))
      grid.current.querySelector<HTMLElement>('[tabindex="0"]')?.focus();
  }, [place]);
  return (
    <div className="min-h-0 overflow-auto">
      <table
        ref={grid}
        role="grid"
        aria-label="Files"
        onKeyDown={keys}
        className="w-full border-collapse text-left"
      >
        <thead className="sticky top-0 z-10 bg-ground text-[12px] text-quiet">
          <tr className="border-b border-line">
            <th scope="col" className="py-2 pl-3 font-semibold">
              Stack, take
            </th>
            {plan.columns.map((name) => (
              <th key={name} scope="col" className="px-3 font-semibold">
                {deliveryName(name)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {plan.stacks.map((planned, i) => (
            <StackRow
              key={planned.stack.id}
              planned={planned}
              current={i === row ? place.column : undefined}
              toggle={toggle}
              {...props}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

const STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

type Toggle = (planned: PlannedStack, column: number) => void;

/** Switches a file, or a whole stack for this time. */
function useToggle({ plan, leftOut, onLeftOut, onSwitch, onAdd }: Props): Toggle {
  return ({ stack, cells }, column) => {
    const name = plan.columns[column];
    if (name === undefined) {
      const next = new Set(leftOut);
      if (!next.delete(stack.id)) next.add(stack.id);
      onLeftOut(next);
    } else if (name !== MAIN_FILE) {
      const own = cells.get(name);
      if (own) onSwitch(stack.id, name, !own.delivery.on);
      else {
        const like = plan.stacks.flatMap((other) => other.cells.get(name)?.delivery ?? [])[0];
        if (like) onAdd(stack.id, like);
      }
    }
  };
}

function StackRow({
  planned,
  plan,
  current,
  shootId,
  leftOut,
  onPlace,
  toggle,
}: Props & { planned: PlannedStack; current: number | undefined; toggle: Toggle }) {
  const { stack, take, picture } = planned;
  const job = useStore(tray, (all) => deliveryOf(all, stack.id));
  const isGoing = !leftOut.has(stack.id);
  return (
    <tr className={`border-b border-line ${current === undefined ? "" : "bg-panel"}`}>
      <th
        scope="row"
        tabIndex={current === -1 ? 0 : -1}
        onFocus={() => current !== -1 && onPlace({ stack: stack.id, column: -1 })}
        className={`py-1.5 pl-3 font-normal ${isGoing ? "" : "opacity-45"}`}
      >
        <span className="flex items-center gap-3">
          <Checkbox
            name={`${stack.name} goes out`}
            checked={isGoing}
            isTabStop={false}
            onChange={() => toggle(planned, -1)}
          />
          <Picture blob={picture} alt="" className="h-11 w-16 shrink-0 object-cover" />
          <span className="grid min-w-0">
            <Link
              tabIndex={-1}
              className="truncate rounded hover:text-accent"
              to={`/shoots/${shootId}/${stack.id}`}
            >
              {stack.name}
            </Link>
            <span className="truncate text-[12px] text-quiet">{take.name}</span>
          </span>
        </span>
      </th>
      {plan.columns.map((name, column) => (
        <FileCell
          key={name}
          name={name}
          stackName={stack.name}
          cell={planned.cells.get(name)}
          job={job}
          expectedMs={planned.expected.ms}
          isCurrent={current === column}
          onEnter={() => onPlace({ stack: stack.id, column })}
          onToggle={() => toggle(planned, column)}
        />
      ))}
    </tr>
  );
}

function FileCell({
  name,
  stackName,
  cell,
  job,
  expectedMs,
  isCurrent,
  onEnter,
  onToggle,
}: {
  name: string;
  stackName: string;
  cell: Cell | undefined;
  job: Job | undefined;
  expectedMs: number;
  isCurrent: boolean;
  onEnter: () => void;
  onToggle: () => void;
}) {
  const isOn = cell?.delivery.on ?? false;
  const file = job?.files?.find(({ delivery }) => delivery === name);
  const size = file?.size ?? cell?.layout.file;
  return (
    <td
      tabIndex={isCurrent ? 0 : -1}
      onFocus={() => !isCurrent && onEnter()}
      onClick={onEnter}
      aria-selected={isCurrent}
      className={`px-3 py-1.5 ${isCurrent ? "shadow-[inset_0_0_0_1px_var(--color-quiet)]" : ""}`}
    >
      <span className="flex items-center gap-2 whitespace-nowrap">
        {name !== MAIN_FILE && (
          <Checkbox
            name={`${name} of ${stackName}`}
            checked={isOn}
            isTabStop={false}
            onChange={onToggle}
          />
        )}
        {cell && size && isOn ? (
          <span className="grid tabular-nums">
            <span>
              {size.width} × {size.height}
            </span>
            <span className="text-[12px] text-quiet">{fileState(cell, file, job, expectedMs)}</span>
          </span>
        ) : (
          <span className="text-quiet">not wanted</span>
        )}
      </span>
    </td>
  );
}

/** What becomes of a file: in the tray, or what it would be. */
function fileState(
  cell: Cell,
  file: JobFile | undefined,
  job: Job | undefined,
  expectedMs: number,
): string {
  if (job && file) {
    if (file.state === "done") return `done, ${bytesText(file.bytes ?? cell.bytes)}`;
    if (job.state === "failed") return "◆ failed";
    if (job.state === "running") return `${Math.round(job.share * 100)} %`;
    if (job.state === "waiting") return `waits, ${roughly(expectedMs).join(" ")}`;
  }
  const about = `about ${bytesText(cell.bytes)}`;
  return isTooSoft(cell.layout, cell.delivery.settings)
    ? `◆ ${cell.layout.ppi} ppi, ${about}`
    : about;
}
