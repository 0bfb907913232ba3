/** Kinds of stacks that are merged. */
export const KINDS = ["bracket", "panorama", "focus"] as const;
export type RecipeKind = (typeof KINDS)[number];
/** Whether stacks of a kind are merged, and so have a recipe. */
export const isMerged = (kind: string): kind is RecipeKind =>
  (KINDS as readonly string[]).includes(kind);
