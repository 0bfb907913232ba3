import { useCallback, useEffect, useRef, useState } from "react";
import { useFetcher } from "react-router";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { Take } from "../../store/records";
import { noteUnsaved } from "../../store/unsaved";
import { useStable } from "../../ui/useStable";
import type { Edit } from "./edit";

/** A recipe that is on screen and not, or not known to be, in the database. */
interface Edited {
  recipe: Recipe;
  /** it is on its way there; else it is still under the hand */
  sent: boolean;
}

/** What else is changed from the workspace; the route's action takes it. */
export type Intent =
  | { intent: "undo" | "redo" }
  | { intent: "accept"; key: string }
  /** new stacks of the shoot begin with these settings */
  | { intent: "prepare" };

export interface RecipeEdit {
  /** as it is on screen */
  recipe: Recipe;
  edit: Edit;
  submit: (intent: Intent) => void;
  /** something is not in the database yet */
  unsaved: boolean;
  /** a change of the recipe is under the hand or on its way */
  changing: boolean;
}

const AS_JSON = { method: "post", encType: "application/json" } as const;

/**
 * The recipe of a take as it is changed: what a control shows stands over what is stored until it
 * has come back from there. What was begun after the last change was sent stays on screen.
 */
export function useRecipeEdit(take: Take): RecipeEdit {
  const fetcher = useFetcher();
  const [edited, setEdited] = useState<Edited>();
  const recipe = useStable(edited?.recipe ?? take.recipe);
  const idle = fetcher.state === "idle";
  useEffect(() => {
    if (idle) setEdited((now) => (now?.sent ? undefined : now));
  }, [take.recipe, idle]);
  useEffect(() => {
    if (!edited) return;
    const note = (): void => noteUnsaved(take.id, take.recipe, edited.recipe);
    window.addEventListener("pagehide", note);
    return () => window.removeEventListener("pagehide", note);
  }, [edited, take]);

  const sending = useRef(fetcher.submit);
  useEffect(() => {
    sending.current = fetcher.submit;
  });
  const send = useCallback((body: object): void => {
    void sending.current(body as never, AS_JSON);
  }, []);
  const [edit] = useState<Edit>(() => ({
    show: (to) => setEdited({ recipe: to, sent: false }),
    keep: (to, label) => {
      setEdited({ recipe: to, sent: true });
      send({ intent: "recipe", recipe: to, label });
    },
  }));
  const changing = edited !== undefined;
  return { recipe, edit, submit: send, unsaved: changing || !idle, changing };
}
