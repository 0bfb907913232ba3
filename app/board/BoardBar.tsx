import { useState } from "react";
import { PARTS, type Part } from "../store/mend";
import { LABELS, type Stack } from "../store/records";
import { Button, Hint } from "../ui/Button";
import { NO_FILTER, type BoardFilter } from "./filter";
import type { MendRequest } from "./mendAction";

const KINDS = [["bracket", "Bracket"], ["panorama", "Panorama"], ["focus", "Focus"], ["single", "Single"]] as const;
const LAID = [["prepare", "White balance"], ["tone", "Tone and finish"], ["deliver", "Delivery, creator"]] as const satisfies readonly (readonly [Part, string])[];
const LABEL_WORDS = LABELS.map((l) => [l, l === "none" ? "No label" : l[0]!.toUpperCase() + l.slice(1)] as const);

interface Props { filter: BoardFilter; onFilter: (f: BoardFilter) => void; shown: number; all: number; selection: Stack[]; onMend: (m: MendRequest) => void; onSameKind: () => void; allOpen: boolean | undefined; onOpenAll: () => void; /** the stack whose settings are laid on others */ copied: Stack | undefined; onCopy: () => void }

/** What is shown, at the left; what can be done with the selected stacks, at the right. */
export function BoardBar({ filter: f, onFilter, shown, all, selection, onMend, onSameKind, allOpen, onOpenAll, copied, onCopy }: Props) {
  const [count, setCount] = useState(3);
  const stacks = selection.map((s) => s.id), one = selection.length === 1 ? selection[0] : undefined;
  const filtered = JSON.stringify({ ...f, sort: "taken" }) !== JSON.stringify(NO_FILTER);
  return (
    <div role="toolbar" aria-label="Board" className="flex h-10 shrink-0 items-center gap-2 overflow-x-auto border-b border-line bg-panel px-4">
      <Pick label="Kind" value={f.kind} options={[["all", "All kinds"], ...KINDS]} onChange={(kind) => onFilter({ ...f, kind })} />
      <Pick label="State" value={f.state} options={[["all", "Any state"], ["fresh", "Fresh"], ["merged", "Merged"], ["done", "Done"], ["odd", "Odd"]]} onChange={(state) => onFilter({ ...f, state })} />
      <Pick label="Rated at least" value={String(f.rating)} options={[["0", "Any rating"], ...[1, 2, 3, 4, 5].map((n) => [String(n), `${n} and more`] as const)]} onChange={(n) => onFilter({ ...f, rating: Number(n) })} />
      <Pick label="Labelled" value={f.label} options={[["all", "Any label"], ...LABEL_WORDS]} onChange={(label) => onFilter({ ...f, label })} />
      <Pick label="Sorted by" value={f.sort} options={[["taken", "As taken"], ["name", "By name"], ["rating", "By rating"], ["range", "By scene range"]]} onChange={(sort) => onFilter({ ...f, sort })} />
      {filtered && <><span className="whitespace-nowrap text-[12px] text-quiet">{shown} of {all}</span><Button look="plain" onClick={() => onFilter({ ...NO_FILTER, sort: f.sort })}>Show all</Button></>}
      {allOpen !== undefined && <Button look="plain" onClick={onOpenAll}>{allOpen ? "Close nested" : "Open nested"}</Button>}
      <span className="grow" />
      {selection.length > 0 && <>
        <span className="whitespace-nowrap text-[12px] text-quiet">{selection.length} selected</span>
        <Button look="plain" onClick={onSameKind} hint="Selects all stacks of this kind (K)">Same kind</Button>
        <Pick label="Set the kind" value="" options={[["", "Kind…"], ...KINDS]} onChange={(kind) => kind && onMend({ intent: "kind", stacks, kind })} />
        <Pick label="Set the label" value="" options={[["", "Label…"], ...LABEL_WORDS]} onChange={(label) => label && onMend({ intent: "label", stacks, label })} />
        {one && <Button look="plain" onClick={onCopy} aria-pressed={copied?.id === one.id} hint="Remembers this stack's settings, to be laid on others (C, then Shift C)">Copy settings</Button>}
        {copied && stacks.some((s) => s !== copied.id) && <Pick label={`Lay the settings of ${copied.name} on the selected stacks`} value="" options={[["", "Lay on…"], ["all", "All settings"], ...LAID]} onChange={(part) => part && onMend({ intent: "layOn", from: copied.id, stacks, parts: part === "all" ? [...PARTS] : [part] })} />}
        {selection.length > 1 && <><Button look="plain" onClick={() => onMend({ intent: "join", stacks })} hint="Makes one stack of them (J)">Join</Button><Button look="plain" onClick={() => onMend({ intent: "nest", stacks })} hint="Makes them the members of a panorama (N)">Nest</Button></>}
        {one && !one.frameIds.length && <Button look="plain" onClick={() => onMend({ intent: "unnest", stack: one.id })} hint="Lets the members stand alone again (U)">Un-nest</Button>}
        <Hint text="Cuts the selected stacks into sets of so many frames">
          <span className="flex items-center gap-1"><Button look="plain" onClick={() => onMend({ intent: "sets", stacks, count })}>Sets of</Button>
            <input type="number" aria-label="Frames a set" min={1} max={99} value={count} onChange={(e) => setCount(Math.max(1, Math.min(99, Math.round(Number(e.target.value)) || 1)))} className="h-6 w-12 rounded border border-line bg-transparent px-1 text-right" /></span>
        </Hint>
        {one && <Note key={one.id} stack={one} onMend={onMend} />}
      </>}
      <Button look="plain" onClick={() => onMend({ intent: "group", which: "untouched" })} hint="Groups again all that no hand has put where it is (G)">Group again</Button>
    </div>
  );
}

function Note({ stack, onMend }: { stack: Stack; onMend: (m: MendRequest) => void }) {
  const [text, setText] = useState(stack.note);
  return <input aria-label="Note" placeholder="Note" value={text} maxLength={2000} onChange={(e) => setText(e.target.value)} onBlur={() => text !== stack.note && onMend({ intent: "note", stack: stack.id, note: text })} onKeyDown={(e) => { e.stopPropagation(); if (e.key === "Enter") e.currentTarget.blur(); if (e.key === "Escape") setText(stack.note); }} className="h-6 w-36 rounded border border-line bg-transparent px-2" />;
}

function Pick<T extends string>({ label, value, options, onChange }: { label: string; value: T | ""; options: readonly (readonly [T | "", string])[]; onChange: (v: T) => void }) {
  return <select aria-label={label} value={value} onChange={(e) => onChange(e.target.value as T)} className="h-7 shrink-0 rounded border border-transparent bg-transparent px-1 text-quiet [field-sizing:content] hover:border-line hover:text-ink">{options.map(([v, text]) => <option key={v} value={v} className="bg-panel text-ink">{text}</option>)}</select>;
}
