import MiniSearch from "minisearch";
import type { HelpPage } from "./pages";
import { allSections, type HelpSection } from "./sections";

/** Finds parts of the guide by words, beginnings of words, and words with a letter wrong. */
export function helpSearch(pages: readonly HelpPage[]): (words: string) => HelpSection[] {
  const sections = allSections(pages);
  const byId = new Map(sections.map((section) => [section.id, section]));
  const index = new MiniSearch<HelpSection>({
    fields: ["heading", "pageTitle", "text"],
    searchOptions: {
      boost: { heading: 4, pageTitle: 2 },
      prefix: true,
      fuzzy: (word) => (word.length > 4 ? 0.2 : false),
      combineWith: "AND",
    },
  });
  index.addAll([...byId.values()]);
  return (words) => index.search(words).flatMap(({ id }) => byId.get(id as string) ?? []);
}
