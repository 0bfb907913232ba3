import { useEffect, useState } from "react";
import { Button } from "../ui/Button";
import { COLUMN, keepColumnWidth, readColumnWidth } from "../ui/columnWidth";
import { Splitter } from "../ui/Splitter";
import { useMediaQuery } from "../ui/useMediaQuery";
import type { Tool } from "./tools/tool";
import { RhizomeError } from "../../core/error";
import { keepPicture, resultKey } from "../work/stackWork";
import { History } from "../ui/History";
import { ClosedFolders } from "../shelf/ClosedFolders";
import { UnreadFiles } from "../shelf/UnreadFiles";
import { TopBar } from "../ui/TopBar";
import { startDelivery } from "./actions/deliver";
import { DeliverButton } from "./DeliverButton";
import { Dialogs } from "./dialogs/Dialogs";
import { Evidence } from "./evidence/Evidence";
import { PicturePane } from "./picture/PicturePane";
import { useRecord, useSession, useUnsaved, useView, useWorkspace } from "./state/workspace";
import { LookNumbers } from "../looks/LookNumbers";
import { triedLooks } from "../looks/tried";
import { TryingPanel } from "./looks/TryingPanel";
import { TryingPictures } from "./looks/TryingPictures";
import type { View } from "./state/view";
import { Stem } from "./Stem";
import { Takes } from "./takes/Takes";
import { useTool } from "./tools/useTool";
import { useWorkspaceCommands } from "./useWorkspaceCommands";
import { useWorkspaceKeys } from "./useWorkspaceKeys";

/** A picture is kept, and its tone judged, when nothing changed for so long, ms. */
const KEEP_AFTER_MS = 600;
const JUDGE_AFTER_MS = 300;

/** One stack at work: decisions left, the picture in the middle, evidence right. */
export function WorkspaceScreen() {
  const workspace = useWorkspace();
  const { shoot, stack, history, closed, unread } = useRecord();
  const { unsaved } = useUnsaved();
  const tool = useTool();
  useWorkspaceKeys(tool);
  useWorkspaceCommands();
  useMergeOfRecord();
  return (
    <div className="flex h-full flex-col" data-unsaved={unsaved ? "" : undefined}>
      <Dialogs />
      <TopBar
        screen="workspace"
        path={[
          { text: "Shoots", to: "/shoots" },
          { text: shoot.name, to: `/shoots/${shoot.id}` },
          { text: stack.name },
        ]}
      >
        <History state={history} />
        <DeliverButton stackId={stack.id} onDeliver={() => startDelivery(workspace)} />
      </TopBar>
      <ClosedFolders folders={closed} />
      <UnreadFiles unread={closed.length ? [] : unread} />
      <Columns tool={tool} />
    </div>
  );
}

/** Narrower than this the evidence lies over the picture when it is asked for. */
const NARROW = "(max-width: 1100px)";

/** Decisions, picture and evidence beside each other. */
function Columns({ tool }: { tool: Tool | undefined }) {
  const { view } = useWorkspace();
  const [width, setWidth] = useState(readColumnWidth);
  const isNarrow = useMediaQuery(NARROW);
  const isSheetOpen = useView((v) => v.evidence);
  const trying = useView((v) => v.trying);
  const isAsked = useView((v) => v.area !== undefined);
  return (
    <main
      className="relative grid min-h-0 grow"
      style={{ gridTemplateColumns: `${width}px minmax(0, 1fr)${isNarrow ? "" : " 236px"}` }}
    >
      <div className="relative min-h-0">
        <aside
          aria-label="Decisions"
          className="h-full overflow-y-auto overflow-x-hidden border-r border-line bg-panel"
        >
          {trying ? (
            <TryingPanel trying={trying} />
          ) : (
            <>
              <Takes />
              <Stem />
            </>
          )}
        </aside>
        <Splitter
          name="Width of the decisions"
          width={width}
          {...COLUMN}
          onWidth={setWidth}
          onKeep={keepColumnWidth}
        />
      </div>
      {trying ? (
        <TryingPictures trying={trying} />
      ) : (
        <PicturePane tool={tool} hasSheet={isNarrow} />
      )}
      {!isNarrow && (trying ? <TryingNumbers trying={trying} /> : <Evidence />)}
      {isNarrow && (isSheetOpen || isAsked) && (
        <div className="absolute inset-y-0 right-0 z-20 flex w-64 flex-col shadow-lg">
          <Button
            variant="plain"
            className="justify-end rounded-none border-b border-l border-line bg-panel"
            onClick={() => view.setState({ evidence: false })}
          >
            Close
          </Button>
          <Evidence />
        </div>
      )}
    </main>
  );
}

/** The looks that are tried on in numbers, in the evidence's place. */
function TryingNumbers({ trying }: { trying: NonNullable<View["trying"]> }) {
  const { looks } = useRecord();
  return (
    <aside className="overflow-y-auto border-l border-line bg-panel">
      <LookNumbers tried={triedLooks(looks, trying.amounts)} numbers={trying.numbers} />
    </aside>
  );
}

/** Merges what is stored, keeps the picture of it, and looks for faults of its tone. */
function useMergeOfRecord(): void {
  const { session, view } = useWorkspace();
  const { shoot, stack, take, frames, result } = useRecord();
  const isReady = useSession((s) => s.phase === "ready");
  const aligned = useSession((s) => s.aligned);
  const { recipe } = take;
  useEffect(() => session.update(recipe), [session, recipe]);
  const isDelivered = take.id === stack.takeId;
  useEffect(() => {
    // the board shows the take that is delivered
    if (!isReady || !isDelivered || result?.key === resultKey(frames, recipe)) return;
    const timer = setTimeout(
      () =>
        void keepPicture(session, shoot.id, stack.id, frames, recipe).catch((e: unknown) =>
          view.setState({ note: RhizomeError.from(e).sentence }),
        ),
      KEEP_AFTER_MS,
    );
    return () => clearTimeout(timer);
    // the kept picture coming back is no reason to keep it again
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [isReady, isDelivered, aligned, recipe, session]);
  useEffect(() => {
    if (!isReady) return;
    const timer = setTimeout(
      () => void session.judgeTone(recipe).catch(() => undefined),
      JUDGE_AFTER_MS,
    );
    return () => clearTimeout(timer);
  }, [isReady, aligned, recipe, session]);
}
