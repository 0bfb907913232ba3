import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { Command as Cmdk } from "cmdk";
import { Dialog } from "radix-ui";
import { searchGuide } from "../help/searchGuide";
import { SCREENS } from "../screens";
import { useKeys } from "../ui/useKeys";
import { commandsNow, type Command, type CommandGroup } from "./commands";

/** Parts of the guide that are shown below the commands. */
const MOST_HELP = 8;

/** Finds every command of the screen, every setting and every page by plain words. */
export function Palette() {
  const [open, setOpen] = useState(false);
  useKeys({ "Ctrl+k": () => setOpen(true) });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-[12vh] z-50 w-[600px] max-w-[94vw] -translate-x-1/2 overflow-hidden rounded-md border border-line bg-panel shadow-lg"
        >
          <Dialog.Title className="sr-only">Find a command, a setting or a page</Dialog.Title>
          <Search onDone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Search({ onDone }: { onDone: () => void }) {
  const navigate = useNavigate();
  const [words, setWords] = useState("");
  const groups = useMemo((): CommandGroup[] => {
    const screens = SCREENS.map(({ to, text }): Command => ({
      text,
      run: () => void navigate(to),
    }));
    return [...commandsNow(), { name: "Go to", commands: screens }];
  }, [navigate]);
  const help = words.trim() ? searchGuide(words).slice(0, MOST_HELP) : [];
  const run = (command: Command): void => {
    onDone();
    // after the dialog has given the focus back
    setTimeout(() => command.run());
  };
  return (
    <Cmdk label="Commands" filter={matches}>
      <Cmdk.Input
        autoFocus
        value={words}
        onValueChange={setWords}
        placeholder="What do you want to do?"
        className="h-11 w-full border-b border-line bg-transparent px-4 outline-none placeholder:text-quiet"
      />
      <Cmdk.List className="max-h-[56vh] overflow-auto p-2">
        <Cmdk.Empty className="px-2 py-4 text-quiet">Nothing is called so.</Cmdk.Empty>
        {groups.map(({ name, commands }) => (
          <Cmdk.Group key={name} heading={name} className={GROUP}>
            {commands.map((command) => (
              <Item
                key={command.text}
                {...command}
                value={`${name} ${command.text}`}
                words={[name, command.hint ?? ""]}
                onRun={() => run(command)}
              />
            ))}
          </Cmdk.Group>
        ))}
        {help.length > 0 && (
          <Cmdk.Group heading="Help" className={GROUP} forceMount>
            {help.map(({ id, page, pageTitle, heading, anchor }) => (
              <Item
                key={id}
                text={heading || pageTitle}
                {...(heading ? { hint: pageTitle } : {})}
                value={`help ${id}`}
                words={[words]}
                onRun={() =>
                  run({
                    text: heading,
                    run: () => void navigate(`/help/${page}${anchor ? `#${anchor}` : ""}`),
                  })
                }
              />
            ))}
          </Cmdk.Group>
        )}
      </Cmdk.List>
    </Cmdk>
  );
}

const GROUP =
  "[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-quiet";

function Item({
  text,
  keys,
  hint,
  value,
  words,
  onRun,
}: Pick<Command, "text" | "keys" | "hint"> & {
  value: string;
  words: string[];
  onRun: () => void;
}) {
  return (
    <Cmdk.Item
      value={value}
      keywords={words}
      onSelect={onRun}
      className="flex min-h-7 cursor-pointer items-center gap-4 rounded px-2 py-0.5 data-[selected=true]:bg-fill pointer-coarse:min-h-10"
    >
      <span className="shrink-0">{text}</span>
      <span className="min-w-0 grow truncate text-[12px] text-quiet">{hint}</span>
      {keys && <kbd className="font-sans text-[12px] text-quiet">{keys}</kbd>}
    </Cmdk.Item>
  );
}

/** What a match is worth at least, in a command's own words, and at the beginning of a word. */
const WORTH = { found: 0.1, own: 0.6, begun: 0.3 };

/** Every word that was typed has to stand somewhere; a command's own words count most. */
function matches(value: string, typed: string, keywords: readonly string[] = []): number {
  const own = value.toLowerCase();
  const all = `${own} ${keywords.join(" ").toLowerCase()}`;
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length || !words.every((word) => all.includes(word))) return 0;
  const share = (which: (word: string) => boolean): number =>
    words.filter(which).length / words.length;
  const parts = all.split(/\s+/);
  return (
    WORTH.found +
    WORTH.own * share((word) => own.includes(word)) +
    WORTH.begun * share((word) => parts.some((part) => part.startsWith(word)))
  );
}
