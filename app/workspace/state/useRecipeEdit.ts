import { useCallback, useEffect, useRef, useState } from "react";
import { useFetcher } from "react-router";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import { patchesBetween } from "../../store/patches";
import type { Take } from "../../store/records";
import { noteUnsaved } from "../../store/unsaved";
import { useStable } from "../../ui/useStable";
import type { Intent, Outcome } from "./action";
import type { Edit } from "./edit";

/** A recipe that is on screen and not, or not known to be, in the database. */
interface Edited {
  /** whose recipe it is */
  take: string;
  recipe: Recipe;
  /** it is on its way there; else it is still under the hand */
  sent: boolean;
}

export interface RecipeEdit {
  /** as it is on screen */
  recipe: Recipe;
  edit: Edit;
  submit: (intent: Intent) => void;
  /** something is not in the database yet */
  unsaved: boolean;
  /** a change of the recipe is under the hand or on its way */
  changing: boolean;
  /** why the last change could not be kept, and what to do; it is still on screen */
  failed: string | undefined;
}

const AS_JSON = { method: "post", encType: "application/json" } as const;

/**
 * The recipe of a take as it is changed: what a control shows stands over what is stored until it
 * has come back from there. What was begun after the last change was sent stays on screen, and so
 * does what could not be stored.
 */
export function useRecipeEdit(take: Take): RecipeEdit {
  const fetcher = useFetcher<Outcome>();
  const [kept, setEdited] = useState<Edited>();
  // what is under the hand belongs to its take
  const edited = kept?.take === take.id ? kept : undefined;
  const recipe = useStable(edited?.recipe ?? take.recipe);
  const idle = fetcher.state === "idle";
  const failed = idle ? fetcher.data?.failed : undefined;
  /** what the next change starts from: what is stored once all that was sent has arrived */
  const base = useRef({ take: take.id, recipe: take.recipe });
  useEffect(() => {
    if (!idle && base.current.take === take.id) return;
    base.current = { take: take.id, recipe: take.recipe };
    setEdited((now) => {
      if (!now?.sent) return now;
      return failed ? { ...now, sent: false } : undefined;
    });
  }, [take.id, take.recipe, idle, failed]);
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
  const submit = useCallback((intent: Intent): void => {
    void sending.current(intent as never, AS_JSON);
  }, []);
  const [edit] = useState<Edit>(() => ({
    show: (to) => setEdited({ take: base.current.take, recipe: to, sent: false }),
    keep: (to, label) => {
      const { take: id, recipe: was } = base.current;
      const { forth } = patchesBetween(was, to);
      base.current = { take: id, recipe: to };
      setEdited({ take: id, recipe: to, sent: true });
      submit({ intent: "recipe", take: id, patches: forth as never, label });
    },
  }));
  const changing = edited !== undefined;
  return { recipe, edit, submit, unsaved: changing || !idle, changing, failed };
}
