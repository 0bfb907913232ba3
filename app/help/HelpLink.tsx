import { helpAddress } from "./address";
import { pageNamed, type PageId } from "./pages";

/** A question mark beside a group of controls: the guide's page about it, in a tab of its own. */
export function HelpLink({ page, heading }: { page: PageId; heading?: string }) {
  const about = heading ?? pageNamed(page)!.title;
  return (
    <a
      href={helpAddress(page, heading)}
      target="_blank"
      rel="noreferrer"
      aria-label={`Help: ${about}`}
      title={`Help: ${about}`}
      className="grid size-6 shrink-0 place-items-center rounded text-[12px] text-quiet hover:bg-raised hover:text-ink pointer-coarse:size-10"
    >
      ?
    </a>
  );
}
