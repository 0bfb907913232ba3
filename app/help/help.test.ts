import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { settingNames } from "../../pipeline/settings/reference";
import { anchorOf } from "./address";
import { helpSearch } from "./searchHelp";
import type { HelpPage } from "./pages";
import { allSections } from "./sections";

const FOLDER = "app/help/pages";
/** The pages as they stand in the folder; a page is an import away from being listed. */
const pages: HelpPage[] = readdirSync(FOLDER).map((file) => ({
  id: file.replace(".md", ""),
  title: file.replace(".md", ""),
  group: "The work, in its order",
  text: readFileSync(join(FOLDER, file), "utf8"),
}));
const settings: HelpPage = { ...pages[0]!, id: "settings", title: "All settings", text: "" };

test("every page of the folder is listed", () => {
  const listed = readFileSync("app/help/pages.ts", "utf8");
  for (const { id } of pages) expect(listed).toContain(`"${id}"`);
});

test("every link of the guide leads to a heading that is there", () => {
  const sections = allSections(pages);
  for (const { id, text } of pages)
    for (const [, link] of text.matchAll(/\]\(([^)]+)\)/g)) {
      const [page, anchor = ""] = link!.split("#");
      const known = sections.some((one) => one.page === page && (!anchor || one.anchor === anchor));
      expect([id, link, known]).toEqual([id, link, true]);
    }
});

test("every setting can be found", () => {
  const anchors = allSections([settings]).map(({ anchor }) => anchor);
  expect(anchors).toEqual(settingNames().map(anchorOf));
});

test.each([
  ["halo", "words", "halo"],
  ["halos", "words", "halo"],
  ["which frame gave", "words", "source-map"],
  ["damaged backup", "back-up", "restore"],
  ["white balance", "prepare", "white-balance"],
])("%p finds what it is about", (words, page, anchor) => {
  const found = helpSearch([...pages, settings])(words).slice(0, 8);
  expect(found.map((section) => `${section.page}#${section.anchor}`)).toContain(
    `${page}#${anchor}`,
  );
});

test("words that are nowhere find nothing", () => {
  expect(helpSearch(pages)("zzyzx qwertz")).toEqual([]);
});
