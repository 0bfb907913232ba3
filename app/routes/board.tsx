import { useMemo, useState } from "react";
import { useFetcher, useNavigate, useRevalidator } from "react-router";
import * as v from "valibot";
import { RhizomeError } from "../../core/error";
import { StackRow } from "../board/StackRow";
import { Timeline } from "../board/Timeline";
import { BringInButtons, BringInPanel, DropArea } from "../shelf/BringInPanel";
import { useBringIn } from "../shelf/useBringIn";
import { change, historyOf, step } from "../store/changes";
import { readBoard } from "../store/shoots";
import type { Frame } from "../store/records";
import { Button } from "../ui/Button";
import { History } from "../ui/History";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { mergeInBackground } from "../work/stackWork";
import type { Route } from "./+types/board";

const KEYS = [["↑ ↓", "Go to the row above or below"], ["Enter", "Open the stack"], ["M", "Merge the stack in the background"], ["F2", "Name the stack"], ["Ctrl Z", "Undo"], ["Ctrl Shift Z", "Redo"]] as const;

export async function clientLoader({ params }: Route.ClientLoaderArgs) {
  return { board: await readBoard(params.shoot), history: await historyOf(params.shoot) };
}

const ActionSchema = v.variant("intent", [
  v.object({ intent: v.literal("undo") }), v.object({ intent: v.literal("redo") }),
  v.object({ intent: v.literal("name"), stack: v.string(), name: v.pipe(v.string(), v.minLength(1), v.maxLength(120)) }),
]);

export async function clientAction({ request, params }: Route.ClientActionArgs) {
  const a = v.parse(ActionSchema, await request.json());
  if (a.intent !== "name") return { done: await step(params.shoot, a.intent) };
  const stack = (await readBoard(params.shoot)).stacks.find((s) => s.id === a.stack);
  if (!stack) throw new RhizomeError("stack-unknown", "This stack is gone.", "reload the page");
  await change(params.shoot, `Name “${a.name}”`, [{ store: "stacks", value: { ...stack, name: a.name } }]);
  return { done: a.name };
}

export default function Board({ loaderData }: Route.ComponentProps) {
  const { board, history } = loaderData;
  const { shoot, stacks } = board;
  const work = useBringIn(shoot.id);
  const navigate = useNavigate();
  const fetcher = useFetcher();
  const { revalidate } = useRevalidator();
  const [selected, setSelected] = useState<string | undefined>(stacks[0]?.id);
  const [naming, setNaming] = useState<string>();
  const frames = useMemo(() => new Map(board.frames.map((f) => [f.id, f])), [board.frames]);
  const at = Math.max(0, stacks.findIndex((s) => s.id === selected));
  const current = stacks[at];
  const fresh = stacks.filter((s) => s.kind === "bracket" && !board.results.has(s.id));
  const merge = (ids: typeof stacks): void => { for (const s of ids) mergeInBackground(shoot.id, s.id, s.name, () => void revalidate()); };
  const go = (by: number): void => { const s = stacks[Math.max(0, Math.min(stacks.length - 1, at + by))]; if (s) setSelected(s.id); };
  useKeys({
    ArrowDown: () => go(1), ArrowUp: () => go(-1), Enter: () => current && void navigate(`/shoots/${shoot.id}/${current.id}`),
    m: () => current && merge([current]), F2: () => setNaming(current?.id),
  });
  return (
    <DropArea onFiles={(f) => void work.start(f)}>
      <TopBar keys={KEYS} path={[{ text: "Shoots", to: "/shoots" }, { text: shoot.name }]} middle={`${board.frames.length} frames in ${stacks.length} stacks`}>
        <BringInButtons busy={work.state !== undefined && !work.state.finished} onFiles={(f) => void work.start(f)} />
        <History state={history} />
        <Button look="accent" disabled={!fresh.length} onClick={() => merge(fresh)} hint="Merges every fresh bracket in the background">Merge all fresh, {fresh.length}</Button>
      </TopBar>
      <BringInPanel work={work} />
      {stacks.length > 0 && <Timeline stacks={stacks} frames={frames} selected={current?.id} onSelect={setSelected} />}
      {stacks.length ? (
        <ul aria-label="Stacks" className="flex grow flex-col overflow-auto">
          {stacks.map((s) => (
            <StackRow key={s.id} stack={s} frames={s.frameIds.map((id) => frames.get(id)).filter((f): f is Frame => f !== undefined)} thumbnails={board.thumbnails} result={board.results.get(s.id)} selected={s.id === current?.id} to={`/shoots/${shoot.id}/${s.id}`}
              naming={naming === s.id} onSelect={() => setSelected(s.id)} onName={(name) => { setNaming(undefined); if (name && name !== s.name) void fetcher.submit({ intent: "name", stack: s.id, name }, { method: "post", encType: "application/json" }); }} />
          ))}
        </ul>
      ) : (
        <main className="grid grow place-items-center"><p className="text-quiet">This shoot has no frames. Drop some anywhere on this page.</p></main>
      )}
    </DropArea>
  );
}
