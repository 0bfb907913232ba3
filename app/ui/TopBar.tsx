import { Chevron } from "./Chevron";
import { useEffect, useState, type ReactNode } from "react";
import { Link } from "react-router";
import { Dialog, DropdownMenu } from "radix-ui";
import { Palette } from "../commands/Palette";
import { helpAddress } from "../help/address";
import type { PageId } from "../help/pages";
import { KeyList } from "../keys/KeyList";
import { EVERYWHERE, SCREEN_KEYS, type ScreenName } from "../keys/keys";
import { SCREENS } from "../screens";
import { Tray } from "../tray/Tray";
import { Button } from "./Button";
import { applySurround, SURROUNDS, surround } from "./surround";
import { useKeys } from "./useKeys";

/** The one bar on top: where one is, the tray, undo and redo, the screen's own main action. */
export function TopBar({
  path,
  middle,
  children,
  screen,
}: {
  path: { text: string; to?: string }[];
  middle?: ReactNode;
  children?: ReactNode;
  /** whose keys are listed, and whose page the guide has */
  screen: ScreenName;
}) {
  return (
    <header className="flex h-11 shrink-0 items-center gap-3 border-b border-line bg-panel px-4">
      <Link to="/shoots" className="flex items-center gap-2 rounded font-semibold">
        <svg
          aria-hidden
          viewBox="0 0 24 24"
          className="size-5"
          fill="none"
          stroke="currentColor"
          strokeWidth="2"
          strokeLinecap="round"
        >
          <path d="M2 17h20M12 17V5M12 13C9 13 6 11 5 7M12 13c3 0 6-2 7-6" />
        </svg>
        Rhizome
      </Link>
      <ScreensMenu />
      <nav aria-label="Where you are" className="flex min-w-0 items-center gap-2 text-quiet">
        {path.map((p, i) => (
          <span
            key={i}
            className={`flex min-w-0 items-center gap-2 ${i === 0 && path.length > 1 ? "max-lg:hidden" : ""}`}
          >
            {i > 0 && (
              <span aria-hidden className={i === 1 ? "max-lg:hidden" : ""}>
                /
              </span>
            )}
            {p.to ? (
              <Link className="truncate rounded hover:text-ink" to={p.to}>
                {p.text}
              </Link>
            ) : (
              <h1 className="truncate font-semibold text-ink">{p.text}</h1>
            )}
          </span>
        ))}
      </nav>
      <div className="min-w-0 grow truncate text-[12px] text-quiet">
        <span className="max-lg:hidden">{middle}</span>
      </div>
      <Tray />
      {children}
      <Help screen={screen} />
      <Palette />
    </header>
  );
}

/** The way to every screen that belongs to no shoot. */
function ScreensMenu() {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label="Screens"
        className="-ml-2 grid size-6 place-items-center rounded text-quiet hover:bg-raised hover:text-ink pointer-coarse:size-10"
      >
        <Chevron />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={6}
          className="z-50 min-w-44 rounded border border-line bg-raised p-1 shadow-lg"
        >
          {SCREENS.map(({ to, text }) => (
            <DropdownMenu.Item key={to} asChild>
              <Link
                to={to}
                className="flex h-7 items-center rounded px-2 outline-none data-[highlighted]:bg-fill pointer-coarse:h-10"
              >
                {text}
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** The page of the guide about a screen. */
const GUIDE: Record<ScreenName, PageId> = {
  shelf: "bring-in",
  board: "check-stacks",
  workspace: "merge",
  compare: "takes-and-looks",
  looks: "takes-and-looks",
  deliver: "deliver",
  storage: "back-up",
  camera: "photograph-brackets",
  help: "words",
};

function Help({ screen }: { screen: ScreenName }) {
  const { keys } = SCREEN_KEYS[screen];
  const [open, setOpen] = useState(false);
  const [now, setNow] = useState<string>("dark");
  useEffect(() => setNow(surround()), []);
  useKeys({ "?": () => setOpen(true) });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <button
          type="button"
          aria-label="Keys and surroundings"
          className="size-7 shrink-0 rounded border border-line text-quiet hover:text-ink pointer-coarse:size-10"
        >
          ?
        </button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-1/2 z-50 max-h-[80vh] w-[520px] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-md border border-line bg-panel p-6"
        >
          <Dialog.Title className="mb-3 text-base font-semibold">Keys on this screen</Dialog.Title>
          <KeyList keys={[...keys, ...EVERYWHERE]} width={140} />
          <h2 className="mb-2 mt-5 font-semibold">Surroundings</h2>
          <div className="flex gap-2">
            {SURROUNDS.map((s) => (
              <Button
                key={s}
                aria-pressed={now === s}
                variant={now === s ? "accent" : "raised"}
                onClick={() => {
                  applySurround(s);
                  setNow(s);
                }}
              >
                {s[0]!.toUpperCase() + s.slice(1)}
              </Button>
            ))}
          </div>
          <div className="mt-5 flex items-center gap-4">
            <Dialog.Close asChild>
              <Button>Close</Button>
            </Dialog.Close>
            <a
              className="underline"
              href={helpAddress(GUIDE[screen])}
              target="_blank"
              rel="noreferrer"
            >
              The guide about this screen
            </a>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
