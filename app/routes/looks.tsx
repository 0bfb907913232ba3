import { useState } from "react";
import { useNavigate, useRevalidator } from "react-router";
import { RhizomeError } from "../../core/error";
import { looksOf } from "../looks/files";
import { LookList } from "../looks/LookList";
import { TriedOnStack } from "../looks/TriedOnStack";
import { AS_IT_IS } from "../looks/tried";
import { addLooks, deleteLook, readLooks, restoreLook, updateLook } from "../store/looks";
import { mergedStacks } from "../store/mergedStacks";
import type { OwnLook } from "../store/records";
import { readStack } from "../store/shoots";
import { Button } from "../ui/Button";
import { FileButtons } from "../ui/FileButtons";
import { counted } from "../ui/format";
import { Select } from "../ui/Select";
import { TopBar } from "../ui/TopBar";
import type { Route } from "./+types/looks";

/** The looks, and the result that they are tried on: `?stack=shoot/stack`, or the first that was merged. */
export async function clientLoader({ request }: Route.ClientLoaderArgs) {
  const [{ looks, bad }, results] = await Promise.all([readLooks(), mergedStacks()]);
  const wanted = new URL(request.url).searchParams.get("stack");
  const chosen = results.find(({ id }) => id === wanted) ?? results[0];
  const data = chosen && (await readStack(chosen.shoot, chosen.stack));
  return { looks, bad, results, chosen: chosen?.id, data };
}

/** The looks: built in and the user's own, tried on the user's own results. */
export default function Looks({
  loaderData: { looks, bad, results, chosen: stack, data },
}: Route.ComponentProps) {
  const navigate = useNavigate();
  const { revalidate } = useRevalidator();
  const [chosen, setChosen] = useState<string>(AS_IT_IS);
  const [deleted, setDeleted] = useState<OwnLook>();
  const [said, setSaid] = useState("");
  const change = (work: Promise<unknown>): void =>
    void work.catch((e: unknown) => setSaid(RhizomeError.from(e).sentence)).then(revalidate);
  const bringIn = async (files: readonly File[]): Promise<void> => {
    const { looks: found, failed } = await looksOf(files);
    await addLooks(found);
    setSaid(
      [
        `${counted(found.length, "look")} brought in.`,
        ...failed.map((error) => error.sentence),
      ].join(" "),
    );
  };
  const remove = async (id: string): Promise<void> => {
    setDeleted(await deleteLook(id));
    setChosen(AS_IT_IS);
  };
  return (
    <div className="flex h-full flex-col">
      <TopBar path={[{ text: "Looks" }]} screen="looks">
        <FileButtons
          files={{
            text: "Bring in looks",
            hint: "Files that were handed out as looks",
            name: "Looks to bring in",
          }}
          folder={{
            text: "Bring in a folder",
            hint: "All looks in a folder",
            name: "Folder of looks to bring in",
          }}
          accept=".json,application/json"
          onFiles={(files) => change(bringIn(files))}
        />
      </TopBar>
      {(said || bad.length > 0 || deleted) && (
        <p
          role="status"
          className="flex items-center gap-3 border-b border-line bg-panel px-4 py-2"
        >
          <span className="grow">
            {deleted
              ? `${deleted.look.name} is deleted.`
              : said ||
                `${counted(bad.length, "look")} cannot be read and ${bad.length === 1 ? "is" : "are"} left out.`}
          </span>
          {deleted && (
            <Button
              className="h-6 px-2"
              onClick={() => {
                change(restoreLook(deleted));
                setDeleted(undefined);
              }}
            >
              Bring it back
            </Button>
          )}
          <Button
            variant="plain"
            className="h-6 px-2"
            onClick={() => {
              setSaid("");
              setDeleted(undefined);
            }}
          >
            Close
          </Button>
        </p>
      )}
      <main className="grid min-h-0 grow grid-cols-[320px_minmax(0,1fr)_236px]">
        <aside className="overflow-y-auto border-r border-line bg-panel p-4">
          {results.length > 0 && stack && (
            <label className="mb-3 block">
              <span className="mb-1 block text-[12px] text-quiet">Tried on</span>
              <Select
                name="Tried on"
                className="w-full"
                value={stack}
                options={results.map(({ id, name }) => ({ value: id, text: name }))}
                onChange={(id) => void navigate(`/looks?stack=${encodeURIComponent(id)}`)}
              />
            </label>
          )}
          <LookList
            looks={looks}
            chosen={chosen}
            onChoose={setChosen}
            onWords={(id, words) => change(updateLook(id, words))}
            onCopy={({ look }) => change(addLooks([look]))}
            onDelete={(id) => change(remove(id))}
          />
        </aside>
        {data ? (
          <TriedOnStack
            key={stack}
            data={data}
            looks={looks}
            chosen={chosen}
            onChoose={setChosen}
          />
        ) : (
          <p className="col-span-2 mt-40 text-center text-quiet">
            Merge a stack first: looks are tried on your own pictures.
          </p>
        )}
      </main>
    </div>
  );
}
