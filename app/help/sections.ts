import { settingLines } from "../../pipeline/settings/reference";
import { STEP_TITLES } from "../workspace/steps/stepTitles";
import { anchorOf } from "./address";
import type { HelpPage } from "./pages";

/** A part of a page that can be found and gone to. */
export interface HelpSection {
  id: string;
  page: string;
  pageTitle: string;
  /** empty for what stands before the first heading */
  heading: string;
  anchor: string;
  text: string;
}

/** Markdown as it reads. */
const plain = (markdown: string): string =>
  markdown
    .replace(/\[([^\]]*)\]\([^)]*\)/g, "$1")
    .replace(/^\|[-| ]+\|$/gm, "")
    .replace(/[|*`]/g, " ")
    .replace(/\s+/g, " ")
    .trim();

/** The parts of a page, by its headings. */
function sectionsOf({ id, title, text }: HelpPage): HelpSection[] {
  return text.split(/^## /m).flatMap((part, i): HelpSection[] => {
    const [first = "", ...rest] = part.split("\n");
    const heading = i === 0 ? "" : first.trim();
    const content = plain(i === 0 ? part : rest.join("\n"));
    if (!content && !heading) return [];
    const anchor = anchorOf(heading);
    return [{ id: `${id}#${anchor}`, page: id, pageTitle: title, heading, anchor, text: content }];
  });
}

/** The parts of the page of all settings. */
const settingSections = (pageTitle: string): HelpSection[] =>
  settingLines().flatMap(({ step, lines }) =>
    lines.map(({ name, label, help }) => ({
      id: `settings#${name}`,
      page: "settings",
      pageTitle,
      heading: `${STEP_TITLES[step]}: ${label}`,
      anchor: anchorOf(name),
      text: help,
    })),
  );

/** All parts of all pages. */
export const allSections = (pages: readonly HelpPage[]): HelpSection[] =>
  pages.flatMap((page) =>
    page.id === "settings" ? settingSections(page.title) : sectionsOf(page),
  );
