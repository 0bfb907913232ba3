import { Chevron } from "./Chevron";
import { DropdownMenu, Toolbar } from "radix-ui";
import { Fragment } from "react";
import { useCommands } from "../commands/commands";
import { Button } from "./Button";
import { useFocusReturn } from "./useFocusReturn";

/** Something that a menu does. */
export interface Action {
  text: string;
  /** the key that does the same */
  keys?: string;
  disabled?: boolean;
  onSelect: () => void;
}

/** Actions that stand together. */
export interface ActionGroup {
  heading?: string;
  actions: readonly Action[];
}

/** A menu of actions on a toolbar, each with its word and its key. */
export function ActionMenu({
  name,
  label,
  hint,
  groups,
}: {
  /** as it stands on the button; empty where the chevron is enough */
  name: string;
  /** where the name alone would not tell what it is of */
  label?: string;
  hint?: string;
  groups: readonly ActionGroup[];
}) {
  const focusReturn = useFocusReturn();
  const shown = groups.filter((group) => group.actions.length);
  useCommands(() =>
    shown.map(({ heading, actions }) => ({
      name: [label ?? name, heading].filter(Boolean).join(": "),
      commands: actions.map(({ onSelect, ...action }) => ({ ...action, run: onSelect })),
    })),
  );
  return (
    <DropdownMenu.Root modal={false}>
      <Toolbar.Button asChild>
        <DropdownMenu.Trigger asChild>
          <Button
            variant="plain"
            className="px-2"
            {...(hint ? { title: hint } : {})}
            {...(label ? { "aria-label": label } : {})}
          >
            {name}
            <Chevron />
          </Button>
        </DropdownMenu.Trigger>
      </Toolbar.Button>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          {...focusReturn}
          align="end"
          sideOffset={4}
          className="z-50 max-h-[80vh] min-w-52 overflow-auto rounded border border-line bg-raised p-1 shadow-lg"
        >
          {shown.map(({ heading, actions }, i) => (
            <Fragment key={heading ?? i}>
              {i > 0 && <DropdownMenu.Separator className="my-1 h-px bg-line" />}
              {heading && (
                <DropdownMenu.Label className="px-2 py-0.5 text-[12px] text-quiet">
                  {heading}
                </DropdownMenu.Label>
              )}
              {actions.map((action) => (
                <ActionItem key={action.text} {...action} />
              ))}
            </Fragment>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function ActionItem({ text, keys, disabled = false, onSelect }: Action) {
  return (
    <DropdownMenu.Item
      disabled={disabled}
      onSelect={onSelect}
      {...(keys ? { "aria-keyshortcuts": keys } : {})}
      className="flex h-7 cursor-pointer items-center gap-6 rounded px-2 outline-none data-[disabled]:cursor-default data-[highlighted]:bg-fill data-[disabled]:text-quiet data-[disabled]:opacity-60 pointer-coarse:h-10"
    >
      <span className="grow">{text}</span>
      {keys && (
        <kbd aria-hidden className="font-sans text-[12px] text-quiet">
          {keys}
        </kbd>
      )}
    </DropdownMenu.Item>
  );
}
