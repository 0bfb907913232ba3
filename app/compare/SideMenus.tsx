import type { ListedLook } from "../store/looks";
import type { StackData } from "../store/shoots";
import { Button } from "../ui/Button";
import { Select } from "../ui/Select";
import { LEAST_SIDES, MOST_SIDES, parseSide, sideText, type SideChoice } from "./side";

interface Props {
  choices: readonly SideChoice[];
  data: StackData;
  looks: readonly ListedLook[];
  /** other stacks that are merged */
  stacks: readonly { id: string; name: string }[];
  onChange: (choices: readonly SideChoice[]) => void;
}

/** What is compared with what. */
export function SideMenus({ choices, data, looks, stacks, onChange }: Props) {
  const options = [
    ...data.takes.map(({ id, name }) => ({
      value: sideText({ what: "take", id }),
      text: `Take: ${name}`,
    })),
    ...looks.map(({ id, look }) => ({
      value: sideText({ what: "look", id, amount: 1 }),
      text: `Look: ${look.name}`,
    })),
    ...data.frames.map(({ id, info }) => ({
      value: sideText({ what: "frame", id }),
      text: `Frame: ${info.name}`,
    })),
    ...stacks.map(({ id, name }) => ({
      value: sideText({ what: "stack", id }),
      text: `Stack: ${name}`,
    })),
  ];
  const set = (at: number, text: string): void => {
    const choice = parseSide(text);
    if (choice) onChange(choices.map((was, i) => (i === at ? choice : was)));
  };
  const free = options.find(({ value }) => !choices.some((side) => sideText(side) === value));
  return (
    <div role="group" aria-label="Compared" className="flex min-w-0 items-center gap-1">
      {choices.map((choice, i) => (
        <Select
          key={i}
          name={`Side ${i + 1}`}
          className="w-44 min-w-0"
          value={sideText(choice)}
          options={options}
          onChange={(text) => set(i, text)}
        />
      ))}
      {choices.length < MOST_SIDES && free && (
        <Button
          className="px-2"
          aria-label="Compare one more"
          hint="One more side, up to four"
          onClick={() => onChange([...choices, parseSide(free.value)!])}
        >
          +
        </Button>
      )}
      {choices.length > LEAST_SIDES && (
        <Button
          className="px-2"
          aria-label="Compare one less"
          hint="Without the last side"
          onClick={() => onChange(choices.slice(0, -1))}
        >
          −
        </Button>
      )}
    </div>
  );
}
