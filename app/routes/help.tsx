import { RhizomeError } from "../../core/error";
import { HelpScreen } from "../help/HelpScreen";
import { PAGES, pageNamed } from "../help/pages";
import type { Route } from "./+types/help";

/** The guide: `/help` begins with its first page. */
export function clientLoader({ params }: Route.ClientLoaderArgs) {
  const page = params.page === undefined ? PAGES[0] : pageNamed(params.page);
  if (!page)
    throw new RhizomeError(
      "not-found",
      `The guide has no page ${params.page}.`,
      "choose one from the list of the guide",
    );
  return { page };
}

export default function Help({ loaderData }: Route.ComponentProps) {
  return <HelpScreen page={loaderData.page} />;
}
