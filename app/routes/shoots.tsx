import { useEffect, useRef, useState } from "react";
import { Link, useFetcher, useNavigate } from "react-router";
import { AlertDialog } from "radix-ui";
import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { demoDone, demoWanted, fetchDemo } from "../store/demo";
import { deleteShoot, listShoots, type ShelfEntry } from "../store/shoots";
import { stopBringingInto } from "../work/bringing";
import { stopWorkOf } from "../work/jobs";
import { BringInButtons, BringInPanel, DropArea } from "../shelf/BringInPanel";
import { useBringIn } from "../shelf/useBringIn";
import { Button } from "../ui/Button";
import { Picture } from "../ui/Picture";
import { TopBar } from "../ui/TopBar";
import type { Route } from "./+types/shoots";
import { counted } from "../ui/format";

const KEYS = [["Tab, Enter", "Go to a shoot, open it"]] as const;

export async function clientLoader() {
  return { shelf: await listShoots(), demo: await demoWanted() };
}

export async function clientAction({ request }: Route.ClientActionArgs) {
  const { shoot } = v.parse(
    v.object({ shoot: v.string() }),
    Object.fromEntries(await request.formData()),
  );
  stopWorkOf(shoot);
  stopBringingInto(shoot);
  await deleteShoot(shoot);
  return null;
}

export default function Shelf({ loaderData }: Route.ComponentProps) {
  const work = useBringIn();
  const navigate = useNavigate();
  const [demoShare, setDemoShare] = useState<number>();
  const [demoError, setDemoError] = useState<RhizomeError>();
  const started = useRef(false);
  const open = async (files: File[]): Promise<void> => {
    const done = await work.start(files);
    if (done?.shootId && !done.failed.length && !done.notKept.length)
      void navigate(`/shoots/${done.shootId}`);
  };
  const demo = async (): Promise<void> => {
    setDemoError(undefined);
    try {
      setDemoShare(0);
      const { name, files } = await fetchDemo(setDemoShare);
      const done = await work.start(files, { name, isSample: true });
      if (done && !done.failed.length && !done.notKept.length) {
        await demoDone();
        work.clear();
      }
    } catch (e) {
      setDemoError(RhizomeError.from(e));
    }
    setDemoShare(undefined);
  };
  useEffect(() => {
    if (loaderData.demo && !started.current) {
      started.current = true;
      void demo();
    }
  });
  const busy = work.state !== undefined && !work.state.finished;
  const { shelf } = loaderData;
  return (
    <DropArea onFiles={(f) => void open(f)}>
      <TopBar path={[{ text: "Shoots" }]} keys={KEYS}>
        <BringInButtons busy={busy} onFiles={(f) => void open(f)} />
      </TopBar>
      <BringInPanel work={work} />
      {demoShare !== undefined && !work.state && (
        <p className="border-b border-line bg-panel px-4 py-3 text-quiet">
          Fetching the demo shoot, {Math.round(demoShare * 100)} %
        </p>
      )}
      {demoError && (
        <p role="alert" className="border-b border-line bg-panel px-4 py-3">
          {demoError.message} <span className="text-quiet">What to do: {demoError.remedy}.</span>
        </p>
      )}
      <main className="grow overflow-auto p-6">
        {!shelf.length && !busy && demoShare === undefined ? (
          <div className="mx-auto mt-24 max-w-md text-center">
            <h1 className="text-lg font-semibold">No shoots yet</h1>
            <p className="mt-2 text-quiet">
              Drop a folder of frames anywhere on this page. Its brackets are found by themselves.
            </p>
            <Button className="mt-4" onClick={() => void demo()}>
              Bring in the demo shoot
            </Button>
          </div>
        ) : (
          <ul className="grid gap-x-6 gap-y-8 [grid-template-columns:repeat(auto-fill,minmax(340px,1fr))]">
            {shelf.map((e) => (
              <Shoot key={e.shoot.id} entry={e} />
            ))}
          </ul>
        )}
      </main>
    </DropArea>
  );
}

function Shoot({ entry: e }: { entry: ShelfEntry }) {
  return (
    <li>
      <Link to={`/shoots/${e.shoot.id}`} className="block rounded">
        <div className="grid aspect-[3/2] grid-cols-2 grid-rows-2 gap-0.5 overflow-hidden rounded bg-panel">
          {e.pictures.length < 2 ? (
            <Picture
              blob={e.pictures[0]}
              alt=""
              className="col-span-2 row-span-2 size-full object-cover"
            />
          ) : (
            [0, 1, 2, 3].map((i) => (
              <Picture key={i} blob={e.pictures[i]} alt="" className="size-full object-cover" />
            ))
          )}
        </div>
        <h2 className="mt-3 text-[15px] font-semibold">{e.shoot.name}</h2>
      </Link>
      <div className="flex items-center gap-2">
        <p className="grow text-quiet">
          {counted(e.frames, "frame")} in {counted(e.stacks, "stack")},{" "}
          {(e.bytes / 2 ** 20).toFixed(0)} MiB
          {e.fresh ? `, ${e.fresh} to merge` : ", all merged"}
        </p>
        <Delete entry={e} />
      </div>
    </li>
  );
}

function Delete({ entry: e }: { entry: ShelfEntry }) {
  const fetcher = useFetcher();
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>
        <Button variant="plain" disabled={fetcher.state !== "idle"}>
          Delete
        </Button>
      </AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ground/70" />
        <AlertDialog.Content className="fixed left-1/2 top-1/2 z-50 w-[420px] -translate-x-1/2 -translate-y-1/2 rounded-md border border-line bg-panel p-6">
          <AlertDialog.Title className="text-base font-semibold">
            Delete “{e.shoot.name}” from this browser?
          </AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-quiet">
            {e.frames} frames ({(e.bytes / 2 ** 20).toFixed(0)} MiB) and their recipes go. Files on
            your disk are not touched. This cannot be undone.
          </AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button
                variant="accent"
                onClick={() => void fetcher.submit({ shoot: e.shoot.id }, { method: "post" })}
              >
                Delete
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
