import { useState } from "react";
import { PARTS, type Part } from "../store/edit";
import { LABELS, type Stack } from "../store/records";
import { Button, Hint } from "../ui/Button";
import { NO_FILTER, type BoardFilter } from "./filter";
import type { EditRequest } from "./editAction";
import { clamp } from "../../core/math/clamp";

const KINDS = [
  ["bracket", "Bracket"],
  ["panorama", "Panorama"],
  ["focus", "Focus"],
  ["single", "Single"],
] as const;
const LAID = [
  ["prepare", "White balance"],
  ["tone", "Tone and finish"],
  ["deliver", "Delivery, creator"],
] as const satisfies readonly (readonly [Part, string])[];
const LABEL_WORDS = LABELS.map(
  (l) => [l, l === "none" ? "No label" : l[0]!.toUpperCase() + l.slice(1)] as const,
);

const FRAME_EDITS = [
  ["cut", "Cut before it (X)"],
  ["takeOut", "Take out (O)"],
  ["leaveOut", "Leave out or use again (L)"],
  ["reference", "Make it the reference (R)"],
  ["cover", "Make it the cover (V)"],
  ["earlier", "Move earlier (Alt ←)"],
  ["later", "Move later (Alt →)"],
] as const;
export type FrameEdit = (typeof FRAME_EDITS)[number][0];

const stars = (n: number): string => (n ? "★".repeat(n) : "Not rated");

interface Props {
  filter: BoardFilter;
  onFilter: (f: BoardFilter) => void;
  shown: number;
  all: number;
  selection: Stack[];
  onEdit: (m: EditRequest) => void;
  onSameKind: () => void;
  onAll: () => void;
  /** none where nothing stands in a row */
  onSameRow: (() => void) | undefined;
  /**
   * what is done with the frame at the cursor, or those picked; none where a stack has no frames of
   * its own
   */
  onFrame: ((what: FrameEdit) => void) | undefined;
  onRate: (rating: number) => void;
  allOpen: boolean | undefined;
  onOpenAll: () => void;
  /** the stack whose settings are applied to others */
  copied: Stack | undefined;
  onCopy: () => void;
}

/** What is shown, at the left; what can be done with the selected stacks, at the right. */
export function BoardBar({
  filter: f,
  onFilter,
  shown,
  all,
  selection,
  onEdit,
  onSameKind,
  onAll,
  onSameRow,
  onFrame,
  onRate,
  allOpen,
  onOpenAll,
  copied,
  onCopy,
}: Props) {
  const [count, setCount] = useState(3);
  const stacks = selection.map((s) => s.id);
  const one = selection.length === 1 ? selection[0] : undefined;
  const filtered = JSON.stringify({ ...f, sort: "taken" }) !== JSON.stringify(NO_FILTER);
  return (
    <div
      role="toolbar"
      aria-label="Board"
      className="flex h-10 shrink-0 items-center gap-1 overflow-x-auto border-b border-line bg-panel px-3"
    >
      <Pick
        label="Kind"
        value={f.kind}
        options={[["all", "All kinds"], ...KINDS]}
        onChange={(kind) => onFilter({ ...f, kind })}
      />
      <Pick
        label="State"
        value={f.state}
        options={[
          ["all", "Any state"],
          ["fresh", "Not merged yet"],
          ["merged", "Merged"],
          ["done", "Done"],
          ["odd", "Odd"],
        ]}
        onChange={(state) => onFilter({ ...f, state })}
      />
      <Pick
        label="Marked"
        value={f.rating ? String(f.rating) : f.label}
        options={[
          ["all", "Any mark"],
          ["Rated at least", [1, 2, 3, 4, 5].map((n) => [String(n), stars(n)])],
          ["Labelled", LABEL_WORDS],
        ]}
        onChange={(mark) =>
          onFilter({
            ...f,
            rating: Number(mark) || 0,
            label: Number(mark) ? "all" : (mark as BoardFilter["label"]),
          })
        }
      />
      <Pick
        label="Sorted by"
        value={f.sort}
        options={[
          ["taken", "As taken"],
          ["name", "By name"],
          ["rating", "By rating"],
          ["range", "By scene range"],
        ]}
        onChange={(sort) => onFilter({ ...f, sort })}
      />
      {filtered && (
        <>
          <span className="whitespace-nowrap text-[12px] text-quiet">
            {shown} of {all}
          </span>
          <Button variant="plain" onClick={() => onFilter({ ...NO_FILTER, sort: f.sort })}>
            Show all
          </Button>
        </>
      )}
      {allOpen !== undefined && (
        <Button variant="plain" onClick={onOpenAll}>
          {allOpen ? "Close nested" : "Open nested"}
        </Button>
      )}
      <span className="grow" />
      {selection.length > 0 && (
        <>
          <span className="whitespace-nowrap text-[12px] text-quiet">
            {selection.length} selected
          </span>
          <Pick
            label="Select"
            value=""
            options={[
              ["", "Select…"],
              ["kind", "The same kind (K)"],
              ...(onSameRow ? [["row", "The same row (W)"] as const] : []),
              ["all", "All (Ctrl A)"],
            ]}
            onChange={(what) => {
              if (what === "kind") return onSameKind();
              if (what === "row") return onSameRow?.();
              return what && onAll();
            }}
          />
          {onFrame && (
            <Pick
              label="What to do with the frame"
              value=""
              options={[["", "Frame…"], ...FRAME_EDITS]}
              onChange={(what) => what && onFrame(what)}
            />
          )}
          <Pick
            label="Set the kind"
            value=""
            options={[["", "Kind…"], ...KINDS]}
            onChange={(kind) => kind && onEdit({ intent: "kind", stacks, kind })}
          />
          <Pick
            label="Mark"
            value=""
            options={[
              ["", "Mark…"],
              ["Rating", [0, 1, 2, 3, 4, 5].map((n) => [String(n), stars(n)])],
              ["Label", LABEL_WORDS],
            ]}
            onChange={(mark) =>
              /\d/.test(mark)
                ? onRate(Number(mark))
                : mark && onEdit({ intent: "label", stacks, label: mark as Stack["label"] })
            }
          />
          {one && (
            <Button
              variant="plain"
              onClick={onCopy}
              aria-pressed={copied?.id === one.id}
              hint="Copies this stack's settings, to apply to others (C, then Shift C)"
            >
              Copy settings
            </Button>
          )}
          {copied && stacks.some((s) => s !== copied.id) && (
            <Pick
              label={`Lay the settings of ${copied.name} on the selected stacks`}
              value=""
              options={[["", "Lay on…"], ["all", "All settings"], ...LAID]}
              onChange={(part) =>
                part &&
                onEdit({
                  intent: "layOn",
                  from: copied.id,
                  stacks,
                  parts: part === "all" ? [...PARTS] : [part],
                })
              }
            />
          )}
          {selection.length > 1 && (
            <>
              <Button
                variant="plain"
                onClick={() => onEdit({ intent: "join", stacks })}
                hint="Joins them into one stack (J)"
              >
                Join
              </Button>
              <Button
                variant="plain"
                onClick={() => onEdit({ intent: "nest", stacks })}
                hint="Makes them members of a panorama (N)"
              >
                Nest
              </Button>
            </>
          )}
          {one && !one.frameIds.length && (
            <Button
              variant="plain"
              onClick={() => onEdit({ intent: "unnest", stack: one.id })}
              hint="Separates the members again (U)"
            >
              Un-nest
            </Button>
          )}
          <Hint text="Cuts the selected stacks into sets of so many frames">
            <span className="flex items-center gap-1">
              <Button variant="plain" onClick={() => onEdit({ intent: "sets", stacks, count })}>
                Sets of
              </Button>
              <input
                type="number"
                aria-label="Frames a set"
                min={1}
                max={99}
                value={count}
                onChange={(e) => setCount(clamp(Math.round(Number(e.target.value)) || 1, 1, 99))}
                className="h-6 w-12 rounded border border-line bg-transparent px-1 text-right"
              />
            </span>
          </Hint>
          {one && <Note key={one.id} stack={one} onEdit={onEdit} />}
        </>
      )}
      <Button
        variant="plain"
        onClick={() => onEdit({ intent: "group", which: "untouched" })}
        hint="Groups again everything that was not arranged manually (G)"
      >
        Group again
      </Button>
    </div>
  );
}

function Note({ stack, onEdit }: { stack: Stack; onEdit: (m: EditRequest) => void }) {
  const [text, setText] = useState(stack.note);
  return (
    <input
      aria-label="Note"
      placeholder="Note"
      value={text}
      maxLength={2000}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== stack.note && onEdit({ intent: "note", stack: stack.id, note: text })}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(stack.note);
      }}
      className="h-6 w-28 min-w-20 shrink rounded border border-line bg-transparent px-2"
    />
  );
}

type Option<T extends string> = readonly [T | "", string];
type Group<T extends string> = readonly [string, readonly Option<T>[]];

function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T | "";
  options: readonly (Option<T> | Group<T>)[];
  onChange: (v: T) => void;
}) {
  const one = ([v, text]: Option<T>) => (
    <option key={v} value={v} className="bg-panel text-ink">
      {text}
    </option>
  );
  const isGroup = (o: Option<T> | Group<T>): o is Group<T> => typeof o[1] !== "string";
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
      className="h-7 shrink-0 rounded border border-transparent bg-transparent px-1 text-quiet [field-sizing:content] hover:border-line hover:text-ink"
    >
      {options.map((o) =>
        isGroup(o) ? (
          <optgroup key={o[0]} label={o[0]} className="bg-panel text-quiet">
            {o[1].map(one)}
          </optgroup>
        ) : (
          one(o)
        ),
      )}
    </select>
  );
}
