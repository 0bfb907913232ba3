import { useState } from "react";
import { clamp } from "../../core/math/clamp";
import { ADJUSTMENT_GROUPS, ADJUSTMENT_GROUP_NAMES } from "../../pipeline/finish/adjustmentFields";
import type { Part } from "../store/applySettings";
import type { Look } from "../../pipeline/looks/look";
import type { ListedLook } from "../store/looks";
import { LookDialog, type UsualFor } from "./LookDialog";
import { LABELS, type Shoot, type Stack } from "../store/records";
import { ActionMenu, type Action } from "../ui/ActionMenu";
import { Button } from "../ui/Button";
import { SmallDialog } from "../ui/SmallDialog";
import { labelText, stars } from "./marks";

const KINDS = [
  ["bracket", "Bracket"],
  ["panorama", "Panorama"],
  ["focus", "Focus stack"],
  ["single", "Single"],
] as const;
const PARTS: readonly (readonly [Part, string])[] = [
  ["prepare", "Apply the white balance"],
  ["tone", "Apply tone"],
  ["finish", "Apply finish"],
  ["deliver", "Apply delivery and creator"],
];
const SPOTS: readonly [Part, string] = ["spots", "Apply healed spots, same camera"];
const GROUPS: readonly (readonly [Part, string])[] = ADJUSTMENT_GROUP_NAMES.map((group) => [
  group,
  `Apply ${ADJUSTMENT_GROUPS[group].name.toLowerCase()}`,
]);
const FRAME_EDITS = [
  ["cut", "Cut before it", "X"],
  ["takeOut", "Take out", "O"],
  ["leaveOut", "Leave out or use again", "L"],
  ["reference", "Make it the reference", "R"],
  ["cover", "Make it the cover", "V"],
  ["earlier", "Move earlier", "Alt ←"],
  ["later", "Move later", "Alt →"],
  ["peek", "Peek at it", "Space"],
] as const;
export type FrameEdit = (typeof FRAME_EDITS)[number][0];
/** A set has at most so many frames. */
const MOST_FRAMES = 99;

/** What the board can be asked to do with what is selected, and with all of it. */
export interface BoardActions {
  selection: readonly Stack[];
  /** the frame at the cursor, or those picked; undefined where a stack has no frames of its own */
  frame: ((what: FrameEdit) => void) | undefined;
  selectAll: () => void;
  selectKind: () => void;
  /** undefined where nothing stands in a row */
  selectRow: (() => void) | undefined;
  merge: () => void;
  /** goes where the selected stacks are delivered, or all of them */
  deliver: (which: "selected" | "all") => void;
  join: () => void;
  nest: () => void;
  unnest: () => void;
  setKind: (kind: Stack["kind"]) => void;
  cutIntoSets: (frames: number) => void;
  rename: () => void;
  writeNote: () => void;
  markDone: () => void;
  rate: (rating: number) => void;
  setLabel: (label: Stack["label"]) => void;
  copySettings: () => void;
  /** the stack whose settings were copied */
  copied: Stack | undefined;
  applySettings: (parts: readonly Part[] | "all") => void;
  looks: readonly ListedLook[];
  usualLooks: Shoot["looks"];
  applyLook: (look: Look, amount: number) => void;
  setUsualLook: (kind: UsualFor, look: Look | undefined, amount: number) => void;
  /** asks for a contact sheet of the rows that are shown */
  contactSheet: () => void;
  /** what is said of the stacks, beside their frames */
  writeSidecars: () => void;
  groupAgain: () => void;
  /** all nested stacks are open; undefined where there are none */
  allOpen: boolean | undefined;
  openAll: () => void;
}

/** What is done with the whole board. */
export function BoardMenu({ actions: a }: { actions: BoardActions }) {
  const nested: Action[] =
    a.allOpen === undefined
      ? []
      : [
          {
            text: a.allOpen ? "Close all nested stacks" : "Open all nested stacks",
            onSelect: a.openAll,
          },
        ];
  return (
    <ActionMenu
      name="Board"
      groups={[
        {
          actions: [
            { text: "Select all", keys: "Ctrl A", onSelect: a.selectAll },
            { text: "Group again", keys: "G", onSelect: a.groupAgain },
            { text: "Deliver all", onSelect: () => a.deliver("all") },
            { text: "Contact sheet…", onSelect: a.contactSheet },
            { text: "Write XMP files", onSelect: a.writeSidecars },
            ...nested,
          ],
        },
      ]}
    />
  );
}

/** What is done with the selected stacks, and with the frame at the cursor. */
export function SelectionMenus({ actions: a }: { actions: BoardActions }) {
  const { selection } = a;
  if (!selection.length) return null;
  return (
    <>
      <span className="whitespace-nowrap px-1 text-[12px] text-quiet">
        {selection.length} selected
      </span>
      <ActionMenu
        name="Select"
        groups={[
          {
            actions: [
              { text: "The same kind", keys: "K", onSelect: a.selectKind },
              {
                text: "The same row",
                keys: "W",
                disabled: !a.selectRow,
                onSelect: () => a.selectRow?.(),
              },
              { text: "All", keys: "Ctrl A", onSelect: a.selectAll },
            ],
          },
        ]}
      />
      {a.frame && (
        <ActionMenu
          name="Frame"
          groups={[
            {
              actions: FRAME_EDITS.map(([what, text, keys]) => ({
                text,
                keys,
                onSelect: () => a.frame?.(what),
              })),
            },
          ]}
        />
      )}
      <StackMenu actions={a} />
      <MarkMenu actions={a} />
      <SettingsMenu actions={a} />
    </>
  );
}

function StackMenu({ actions: a }: { actions: BoardActions }) {
  const [isCutting, setCutting] = useState(false);
  const { selection } = a;
  const one = selection.length === 1 ? selection[0] : undefined;
  const isNested = one !== undefined && !one.frameIds.length;
  return (
    <>
      <ActionMenu
        name="Stack"
        groups={[
          {
            actions: [
              { text: "Merge", keys: "M", onSelect: a.merge },
              { text: "Deliver", keys: "Shift D", onSelect: () => a.deliver("selected") },
              {
                text: selection.length > 1 ? "Join" : "Join with the next",
                keys: "J",
                onSelect: a.join,
              },
              { text: "Nest", keys: "N", disabled: selection.length < 2, onSelect: a.nest },
              { text: "Un-nest", keys: "U", disabled: !isNested, onSelect: a.unnest },
              { text: "Cut into sets…", onSelect: () => setCutting(true) },
            ],
          },
          {
            heading: "Kind",
            actions: KINDS.map(([kind, text]) => ({ text, onSelect: () => a.setKind(kind) })),
          },
          {
            heading: "Words",
            actions: [
              { text: "Name", keys: "F2", disabled: !one, onSelect: a.rename },
              { text: "Note", keys: "Shift F2", disabled: !one, onSelect: a.writeNote },
            ],
          },
        ]}
      />
      <SetsDialog open={isCutting} onClose={() => setCutting(false)} onCut={a.cutIntoSets} />
    </>
  );
}

/** Asks how many frames a set has, and cuts the selected stacks into such sets. */
function SetsDialog({
  open,
  onClose,
  onCut,
}: {
  open: boolean;
  onClose: () => void;
  onCut: (frames: number) => void;
}) {
  const [count, setCount] = useState(3);
  const cut = (): void => {
    onClose();
    onCut(count);
  };
  return (
    <SmallDialog title="Cut into sets" open={open} onClose={onClose} width={288}>
      <form
        className="flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          cut();
        }}
      >
        <label className="flex grow items-center gap-2">
          <span className="grow text-quiet">Frames a set</span>
          <input
            type="number"
            min={1}
            max={MOST_FRAMES}
            value={count}
            onChange={(e) =>
              setCount(clamp(Math.round(Number(e.target.value)) || 1, 1, MOST_FRAMES))
            }
            className="h-7 w-14 rounded border border-line bg-track px-1 text-right"
          />
        </label>
        <Button variant="accent" type="submit">
          Cut
        </Button>
      </form>
    </SmallDialog>
  );
}

function MarkMenu({ actions: a }: { actions: BoardActions }) {
  const isDone = a.selection.every((stack) => stack.done);
  return (
    <ActionMenu
      name="Mark"
      groups={[
        {
          actions: [{ text: isDone ? "Not done" : "Done", keys: "D", onSelect: a.markDone }],
        },
        {
          heading: "Rating",
          actions: [0, 1, 2, 3, 4, 5].map((rating) => ({
            text: stars(rating),
            keys: String(rating),
            onSelect: () => a.rate(rating),
          })),
        },
        {
          heading: "Label",
          actions: LABELS.map((label) => ({
            text: labelText(label),
            onSelect: () => a.setLabel(label),
          })),
        },
      ]}
    />
  );
}

function SettingsMenu({ actions: a }: { actions: BoardActions }) {
  const [isChoosing, setChoosing] = useState(false);
  const { copied, selection } = a;
  const canApply = copied !== undefined && selection.some((stack) => stack.id !== copied.id);
  const applied = ([part, text]: readonly [Part, string]): Action => ({
    text,
    disabled: !canApply,
    onSelect: () => a.applySettings([part]),
  });
  return (
    <>
      <LookDialog
        open={isChoosing}
        onClose={() => setChoosing(false)}
        looks={a.looks}
        selected={selection.length}
        usual={a.usualLooks}
        onApply={a.applyLook}
        onUsual={a.setUsualLook}
      />
      <ActionMenu
        name="Settings"
        groups={[
          {
            actions: [
              {
                text: "Copy",
                keys: "C",
                disabled: selection.length !== 1,
                onSelect: a.copySettings,
              },
              { text: "Apply a look…", onSelect: () => setChoosing(true) },
            ],
          },
          {
            heading: copied ? `Of ${copied.name}` : "Of the stack they are copied from",
            actions: [
              {
                text: "Apply all",
                keys: "Shift C",
                disabled: !canApply,
                onSelect: () => a.applySettings("all"),
              },
              ...PARTS.map(applied),
              applied(SPOTS),
            ],
          },
          { heading: "Of its finish", actions: GROUPS.map(applied) },
        ]}
      />
    </>
  );
}
