import { createContext, useContext } from "react";
import { useStore, type StoreApi } from "zustand";
import type { NestableFrame } from "../../../pipeline/memberResults";
import type { OneViewRecipe, PanoramaRecipe, Recipe } from "../../../pipeline/recipe/recipe";
import type { HistoryState } from "../../store/changes";
import type { ListedLook } from "../../store/looks";
import type { StackData } from "../../store/shoots";
import type { StackSession } from "../../work/session";
import type { SessionState } from "../../work/sessionState";
import type { Edit } from "./edit";
import type { Intent } from "./action";
import type { Reading, View } from "./view";

/** What an opened stack is made of: stored data, as its route has read them. */
export interface StackRecord extends StackData {
  history: HistoryState;
  /** those that can be tried on */
  looks: ListedLook[];
}

/**
 * One opened stack: the same object as long as it is open, for tools, keys and handlers. What is
 * shown on screen is read by the hooks below, which say when it changes.
 */
export interface Workspace {
  session: StackSession;
  view: StoreApi<View>;
  reading: StoreApi<Reading>;
  /** the frames as the pipeline takes them */
  members: NestableFrame[];
  record: () => StackRecord;
  /** as it is on screen */
  recipe: () => Recipe;
  edit: Edit;
  submit: (intent: Intent) => void;
}

/** What changes while a stack is open, beside its merge and how it is looked at. */
export interface Changing {
  record: StackRecord;
  recipe: Recipe;
  /** something is not in the database yet */
  unsaved: boolean;
  /** a change of the recipe is under the hand or on its way to the database */
  changing: boolean;
}

export const WorkspaceContext = createContext<Workspace | undefined>(undefined);
export const ChangingContext = createContext<Changing | undefined>(undefined);

function used<T>(value: T | undefined): T {
  if (!value) throw new Error("outside an opened stack");
  return value;
}

/** The opened stack, whose object does not change while it is open. */
export const useWorkspace = (): Workspace => used(useContext(WorkspaceContext));
/** The stored data of the opened stack. */
export const useRecord = (): StackRecord => used(useContext(ChangingContext)).record;
/** The recipe as it is on screen. */
export const useRecipe = (): Recipe => used(useContext(ChangingContext)).recipe;
/** The recipe of an opened panorama, whose steps alone ask for it. */
export function usePanoramaRecipe(): PanoramaRecipe {
  const recipe = useRecipe();
  if (recipe.kind !== "panorama") throw new Error("outside an opened panorama");
  return recipe;
}
/** The recipe of an opened bracket or focus stack, whose steps alone ask for it. */
export function useOneViewRecipe(): OneViewRecipe {
  const recipe = useRecipe();
  if (recipe.kind === "panorama") throw new Error("outside an opened bracket or focus stack");
  return recipe;
}
/** Whether changes are not stored yet, and whether the recipe is one of them. */
export const useUnsaved = (): Pick<Changing, "unsaved" | "changing"> =>
  used(useContext(ChangingContext));
/** A part of what is known of the merge. */
export const useSession = <T>(select: (state: SessionState) => T): T =>
  useStore(useWorkspace().session.store, select);
/** A part of how the stack is looked at. */
export const useView = <T>(select: (view: View) => T): T => useStore(useWorkspace().view, select);
/** What is read under the pointer. */
export const useReading = (): Reading => useStore(useWorkspace().reading);
