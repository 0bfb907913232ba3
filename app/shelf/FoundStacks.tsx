import { Link } from "react-router";
import { counted } from "../ui/format";
import { Picture } from "../ui/Picture";
import type { Found } from "./search";

/** Stacks that were looked for, below the shoots that they are of. */
export function FoundStacks({ found }: { found: readonly Found[] }) {
  if (!found.length)
    return <p className="mt-16 text-center text-quiet">No stack is as you look for.</p>;
  const count = found.reduce((n, { stacks }) => n + stacks.length, 0);
  return (
    <>
      <p aria-live="polite" className="mb-4 text-quiet">
        {counted(count, "stack")} in {counted(found.length, "shoot")}
      </p>
      {found.map(({ entry: { shoot }, stacks }) => (
        <section key={shoot.id} aria-label={shoot.name} className="mb-8">
          <h2 className="mb-2 text-[15px] font-semibold">
            <Link to={`/shoots/${shoot.id}`} className="rounded">
              {shoot.name}
            </Link>
          </h2>
          <ul className="grid gap-4 [grid-template-columns:repeat(auto-fill,minmax(176px,1fr))]">
            {stacks.map(({ id, name, picture, kind, rating }) => (
              <li key={id}>
                <Link to={`/shoots/${shoot.id}/${id}`} className="block rounded">
                  <Picture
                    blob={picture}
                    alt=""
                    className="aspect-[3/2] w-full rounded bg-panel object-cover"
                  />
                  <span className="mt-1 block truncate">{name}</span>
                  <span className="block text-[12px] text-quiet">
                    {kind}
                    {rating > 0 && `, ${counted(rating, "star")}`}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}
