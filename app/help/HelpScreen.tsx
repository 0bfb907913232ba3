import { useEffect, useState } from "react";
import { Link, NavLink, useLocation } from "react-router";
import { Button } from "../ui/Button";
import { SearchField } from "../ui/SearchField";
import { TopBar } from "../ui/TopBar";
import { Article } from "./Article";
import { KeysPage } from "./KeysPage";
import { GROUPS, PAGES, type HelpPage } from "./pages";
import { searchGuide } from "./searchGuide";
import type { HelpSection } from "./sections";
import { SettingsPage } from "./SettingsPage";

/** Pages left, one of them or what was found in the middle. */
export function HelpScreen({ page }: { page: HelpPage }) {
  const [words, setWords] = useState("");
  const { hash } = useLocation();
  useEffect(() => {
    document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [hash, page]);
  return (
    <div className="flex h-full flex-col print:block print:h-auto">
      <div className="print:hidden">
        <TopBar path={[{ text: "Help", to: "/help" }, { text: page.title }]} screen="help" />
      </div>
      <div className="flex min-h-0 grow print:block">
        <aside className="flex w-[260px] shrink-0 flex-col gap-3 overflow-auto border-r border-line bg-panel p-4 print:hidden">
          <SearchField
            name="Search the guide"
            placeholder="Search the guide"
            words={words}
            onWords={setWords}
          />
          <Pages />
        </aside>
        <main className="min-w-0 grow overflow-auto px-8 py-6 print:overflow-visible">
          <article className="mx-auto max-w-[720px]">
            {words.trim() ? (
              <FoundSections found={searchGuide(words)} onGone={() => setWords("")} />
            ) : (
              <Page page={page} />
            )}
          </article>
        </main>
      </div>
    </div>
  );
}

function Pages() {
  return (
    <nav aria-label="Pages">
      {GROUPS.map((group) => (
        <section key={group} className="mb-4">
          <h2 className="mb-1 text-[12px] text-quiet">{group}</h2>
          <ul>
            {PAGES.filter((page) => page.group === group).map(({ id, title }) => (
              <li key={id}>
                <NavLink
                  to={`/help/${id}`}
                  className="block rounded px-2 py-1 hover:bg-raised aria-[current=page]:bg-raised aria-[current=page]:font-semibold"
                >
                  {title}
                </NavLink>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </nav>
  );
}

function Page({ page: { id, title, text, picture } }: { page: HelpPage }) {
  return (
    <>
      <div className="flex items-center gap-4">
        <h2 className="grow text-xl font-semibold">{title}</h2>
        <Button className="print:hidden" onClick={() => globalThis.print()}>
          Print
        </Button>
      </div>
      {id === "keys" && <KeysPage />}
      {id === "settings" && <SettingsPage />}
      {text && <Article text={text} />}
      {picture && (
        <figure className="mt-6">
          <img
            src={picture.url}
            alt={picture.says}
            width={960}
            height={600}
            loading="lazy"
            className="w-full rounded border border-line"
          />
          <figcaption className="mt-1 text-[12px] text-quiet">{picture.says}</figcaption>
        </figure>
      )}
    </>
  );
}

/** So many parts are shown; more are too many to read through. */
const MOST_SHOWN = 30;
/** Letters of a part's text. */
const SHOWN_LETTERS = 160;

function FoundSections({ found, onGone }: { found: readonly HelpSection[]; onGone: () => void }) {
  if (!found.length) return <p className="text-quiet">Nothing in the guide has these words.</p>;
  return (
    <ul aria-label="Found">
      {found.slice(0, MOST_SHOWN).map(({ id, page, pageTitle, heading, anchor, text }) => (
        <li key={id} className="border-b border-line py-2">
          <Link
            to={`/help/${page}${anchor ? `#${anchor}` : ""}`}
            onClick={onGone}
            className="font-semibold"
          >
            {heading || pageTitle}
          </Link>
          <span className="ml-2 text-[12px] text-quiet">{heading && pageTitle}</span>
          <p className="text-quiet">{text.slice(0, SHOWN_LETTERS)}</p>
        </li>
      ))}
    </ul>
  );
}
