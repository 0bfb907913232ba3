import { PAGES } from "./pages";
import { helpSearch } from "./searchHelp";
import type { HelpSection } from "./sections";

let search: ReturnType<typeof helpSearch> | undefined;

/** Finds parts of the guide; it is indexed when it is asked for the first time. */
export const searchGuide = (words: string): HelpSection[] => {
  search ??= helpSearch(PAGES);
  return search(words);
};
