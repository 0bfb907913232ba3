import { Toolbar } from "radix-ui";
import { BUILT_IN_DELIVERIES } from "../../../../pipeline/deliver/deliveries";
import type { Delivery, DeliverSettings } from "../../../../pipeline/deliver/settings";
import { deliverySaid } from "../../../deliver/deliverySaid";
import { ActionMenu } from "../../../ui/ActionMenu";
import { Checkbox } from "../../../ui/Checkbox";
import { useRecipe, useWorkspace } from "../../state/workspace";

/** Files that are made beside the one that is set above: switched, set here again, and deleted. */
export function OtherFiles() {
  const { edit } = useWorkspace();
  const recipe = useRecipe();
  const { also, ...own } = recipe.deliver;
  const keep = (deliver: DeliverSettings, label: string): void =>
    edit.keep({ ...recipe, deliver }, label);
  const keepList = (list: Delivery[], label: string): void =>
    keep({ ...recipe.deliver, also: list }, label);
  const add = (delivery: Delivery): void => keepList([...also, delivery], `Add ${delivery.name}`);
  /** A name that no other file of the stack has. */
  const freeName = (): string => {
    for (let n = also.length + 2; ; n++)
      if (!also.some(({ name }) => name === `File ${n}`)) return `File ${n}`;
  };
  const missing = BUILT_IN_DELIVERIES.filter((own) => !also.some(({ name }) => name === own.name));
  return (
    <section aria-label="Other files" className="mt-2 border-t border-line pt-2">
      <div className="flex items-center justify-between">
        <p className="pl-2.5 text-quiet">Other files</p>
        <Toolbar.Root aria-label="Add a file">
          <ActionMenu
            name="Add"
            hint="Made together with the one above, from the same picture"
            groups={[
              {
                actions: missing.map((delivery) => ({
                  text: delivery.name,
                  onSelect: () => add(delivery),
                })),
              },
              {
                actions: [
                  {
                    text: "As set above",
                    onSelect: () => add({ name: freeName(), on: true, settings: own }),
                  },
                ],
              },
            ]}
          />
        </Toolbar.Root>
      </div>
      <ul aria-label="Other files">
        {also.map((delivery, i) => (
          <li key={delivery.name} className="flex h-8 items-center gap-2 pl-2.5">
            <Checkbox
              name={`${delivery.name} is made`}
              checked={delivery.on}
              onChange={(on) =>
                keepList(
                  also.map((other, k) => (k === i ? { ...other, on } : other)),
                  `${delivery.name} ${on ? "on" : "off"}`,
                )
              }
            />
            <span className="shrink-0">{delivery.name}</span>
            <span className="min-w-0 grow truncate text-[12px] text-quiet">
              {deliverySaid(delivery.settings)}
            </span>
            <Toolbar.Root aria-label={delivery.name}>
              <ActionMenu
                name=""
                label={`${delivery.name}: more`}
                groups={[
                  {
                    actions: [
                      {
                        text: "Change it above",
                        onSelect: () =>
                          keep(
                            {
                              ...delivery.settings,
                              also: also.map((other, k) =>
                                k === i ? { ...other, settings: own } : other,
                              ),
                            },
                            `Change places with ${delivery.name}`,
                          ),
                      },
                      {
                        text: "Delete",
                        onSelect: () =>
                          keepList(
                            also.filter((_, k) => k !== i),
                            `Delete ${delivery.name}`,
                          ),
                      },
                    ],
                  },
                ]}
              />
            </Toolbar.Root>
          </li>
        ))}
      </ul>
    </section>
  );
}
