import { useState } from "react";
import { MOST_AMOUNT, type Look } from "../../pipeline/looks/look";
import type { ListedLook } from "../store/looks";
import type { Shoot } from "../store/records";
import { Button } from "../ui/Button";
import { SmallDialog } from "../ui/SmallDialog";
import { Menu } from "../ui/Menu";
import { NumberSlider } from "../ui/NumberSlider";
import { counted } from "../ui/format";

/** The stacks of which kind begin with a look. */
export type UsualFor = keyof NonNullable<Shoot["looks"]>;

const KINDS: readonly { value: UsualFor; text: string }[] = [
  { value: "all", text: "All kinds" },
  { value: "bracket", text: "Brackets" },
  { value: "panorama", text: "Panoramas" },
  { value: "focus", text: "Focus stacks" },
];

interface Props {
  open: boolean;
  onClose: () => void;
  looks: readonly ListedLook[];
  /** how many stacks are selected */
  selected: number;
  /** what new stacks of the shoot begin with */
  usual: Shoot["looks"];
  onApply: (look: Look, amount: number) => void;
  onUsual: (kind: UsualFor, look: Look | undefined, amount: number) => void;
}

/** Applies a look to what is selected, or makes new stacks begin with it. */
export function LookDialog(props: Props) {
  const { open, onClose, looks, selected, usual, onApply, onUsual } = props;
  const [chosen, setChosen] = useState(looks[0]?.id ?? "");
  const [amount, setAmount] = useState(1);
  const [kind, setKind] = useState<UsualFor>("all");
  const look = looks.find(({ id }) => id === chosen)?.look;
  const now = usual?.[kind];
  if (!look) return null;
  return (
    <SmallDialog title="Apply a look" open={open} onClose={onClose} width={384}>
      <Menu
        label="Look"
        name="Look"
        hint={look.note || "Tone, finish and parts under a name."}
        value={chosen}
        options={looks.map(({ id, look: { name } }) => ({ value: id, text: name }))}
        onChange={setChosen}
      />
      <NumberSlider
        label="Amount"
        hint="How far the look goes: beyond 100 % further than it was made."
        unit="%"
        shown={(v) => String(Math.round(v * 100))}
        parse={(n) => n / 100}
        min={0}
        max={MOST_AMOUNT}
        step={0.05}
        reset={1}
        value={amount}
        onChange={setAmount}
        onCommit={setAmount}
      />
      <div className="mt-3 flex justify-end">
        <Button
          variant="accent"
          disabled={!selected}
          onClick={() => {
            onClose();
            onApply(look, amount);
          }}
        >
          Apply to {counted(selected, "stack")}
        </Button>
      </div>
      <div className="mt-4 border-t border-line pt-3">
        <h3 className="mb-1 font-semibold">New stacks of this shoot</h3>
        <Menu
          label="Kind"
          name="Kind of new stacks"
          hint="Which new stacks begin with a look."
          value={kind}
          options={[...KINDS]}
          onChange={(to) => setKind(to as UsualFor)}
        />
        <p className="py-1 text-[12px] text-quiet" data-testid="usual look">
          {now
            ? `Begin with ${now.look.name}, ${Math.round(now.amount * 100)}\u00a0%`
            : "Begin without a look"}
        </p>
        <div className="flex justify-end gap-2">
          {now && <Button onClick={() => onUsual(kind, undefined, 1)}>Begin without one</Button>}
          <Button onClick={() => onUsual(kind, look, amount)}>Begin with this look</Button>
        </div>
      </div>
    </SmallDialog>
  );
}
