import { usePartaking } from "../state/partaking";
import { useRecipe, useRecord, useView, useWorkspace } from "../state/workspace";
import { Relief } from "./Relief";
import { Ties } from "./Ties";

/** What lies over the opened stack, if anything. */
export function Dialogs() {
  const { session, view, edit, submit } = useWorkspace();
  const { history } = useRecord();
  const recipe = useRecipe();
  const partaking = usePartaking();
  const dialog = useView((v) => v.dialog);
  const close = (): void => view.setState({ dialog: undefined });
  if (!dialog) return null;
  if (dialog.kind !== "ties")
    return <Relief session={session} recipe={recipe} kind={dialog.kind} onClose={close} />;
  if (recipe.kind !== "panorama") return null;
  return (
    <Ties
      session={session}
      recipe={recipe}
      frames={partaking}
      pair={dialog.pair}
      onKeep={edit.keep}
      onHistory={(intent) => {
        if (history[intent]) submit({ intent });
      }}
      onClose={close}
    />
  );
}
