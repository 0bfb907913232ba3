import { toggleProof } from "../softProof/chosenProof";
import { useNavigate } from "react-router";
import { useKeys } from "../ui/useKeys";
import { startDelivery } from "./actions/deliver";
import { compareNext, toggleMap, toggleTool, zoomTo } from "./actions/look";
import { nextMaskStyle, walkParts } from "./actions/parts";
import { showTies } from "./actions/panorama";
import {
  compareTakes,
  keepAsNew,
  newTake,
  openTakeAt,
  updateTake,
  type TakeHands,
} from "./actions/takes";
import { CELLS } from "../looks/LookGrid";
import { applyAsNewTake, applyChosen, stepAmount, stepLook, toggleTrying } from "./actions/looks";
import { acceptSuspect, fixSuspect, walkSuspects } from "./actions/suspects";
import type { View } from "./state/view";
import { useView, useWorkspace, type Workspace } from "./state/workspace";
import type { Tool, ToolName } from "./tools/tool";

type Keys = Record<string, (event: KeyboardEvent) => void>;

/** The keys of a tool with and without Shift. */
const toolKey =
  (workspace: Workspace, plain: ToolName, shifted: ToolName = plain) =>
  (e: KeyboardEvent): void =>
    toggleTool(workspace, e.shiftKey ? shifted : plain);

/** Keys of what sets a picture upright; and of ties, which only a panorama has. */
function uprightKeys(workspace: Workspace): Keys {
  const isPanorama = workspace.recipe().kind === "panorama";
  return {
    l: toolKey(workspace, "level", "vertical"),
    k: toolKey(workspace, isPanorama ? "straight" : "facade"),
    o: toolKey(workspace, "turn", "roll"),
    ...(isPanorama ? { t: () => showTies(workspace) } : {}),
  };
}

/** A stack's first takes are opened by their numbers. */
const NUMBERED_TAKES = 9;

function takeKeys(hands: TakeHands): Keys {
  const numbered = Array.from({ length: NUMBERED_TAKES }, (_, i): [string, () => void] => [
    `Alt+${i + 1}`,
    () => openTakeAt(hands, i + 1),
  ]);
  return {
    ...Object.fromEntries(numbered),
    "Alt+n": () => void newTake(hands, "this"),
    "Alt+k": () => void keepAsNew(hands),
    "Alt+c": () => compareTakes(hands),
    "Alt+u": () => updateTake(hands.workspace),
  };
}

/** Keys while looks are tried on. */
const tryingKeys = (hands: TakeHands): Keys => {
  const { workspace } = hands;
  return {
    ArrowDown: () => stepLook(workspace, 1),
    ArrowUp: () => stepLook(workspace, -1),
    PageDown: () => stepLook(workspace, CELLS),
    PageUp: () => stepLook(workspace, -CELLS),
    ArrowRight: () => stepAmount(workspace, 1),
    ArrowLeft: () => stepAmount(workspace, -1),
    Enter: () => applyChosen(workspace),
    "Shift+Enter": () => void applyAsNewTake(hands),
    z: () => toggleTrying(workspace),
    Escape: () => toggleTrying(workspace),
  };
};

/** Keys that only a focus stack has. */
function focusKeys(workspace: Workspace): Keys {
  if (workspace.recipe().kind !== "focus") return {};
  return {
    t: () => {
      const { frame } = workspace.reading.getState();
      if (frame === undefined) return;
      workspace.view.setState({ retouchFrom: frame });
      if (!workspace.view.getState().tool) toggleTool(workspace, "brush");
    },
  };
}

function suspectKeys(workspace: Workspace): Keys {
  const here = () => {
    const { suspect } = workspace.view.getState();
    return suspect === undefined ? undefined : workspace.session.state.suspects[suspect];
  };
  return {
    ".": () => walkSuspects(workspace, 1),
    ",": () => walkSuspects(workspace, -1),
    a: () => {
      const suspect = here();
      if (suspect) acceptSuspect(workspace, suspect);
    },
    m: () => {
      const suspect = here();
      if (suspect) fixSuspect(workspace, suspect);
    },
  };
}

/** Keys by which the picture is looked at in another way. */
function lookKeys(workspace: Workspace): Keys {
  const { view } = workspace;
  return {
    s: () => toggleMap(workspace, "sources"),
    e: () => toggleMap(workspace, "seams"),
    v: () => toggleMap(workspace, "moving"),
    r: () => toggleMap(workspace, "disagreement"),
    n: () => toggleMap(workspace, "noise"),
    f: () => zoomTo(workspace, "fit"),
    1: () => zoomTo(workspace, 1),
    2: () => zoomTo(workspace, 2),
    c: (e) =>
      e.shiftKey ? toggleProof() : view.setState(({ clipped }) => ({ clipped: !clipped })),
    w: () => view.setState(({ wipe }) => ({ wipe: !wipe })),
    "#": () => view.setState(({ grid }) => ({ grid: !grid })),
    i: () => view.setState(({ evidence }) => ({ evidence: !evidence })),
    b: () => view.setState({ held: true }),
    q: (e) => walkParts(workspace, e.shiftKey ? -1 : 1),
    j: () => nextMaskStyle(workspace),
    u: () => view.setState({ without: "finish" }),
    y: () => view.setState({ without: "part" }),
    "[": () => compareNext(workspace, -1),
    "]": () => compareNext(workspace, 1),
  };
}

/** What Escape closes, the uppermost first; the screen itself is never left by it. */
function closed(view: View): Partial<View> {
  if (view.area) return { area: undefined };
  if (view.tool) return { tool: undefined };
  if (view.suspect !== undefined) return { suspect: undefined };
  if (view.mask && view.open === "finish") return { mask: undefined };
  if (view.map) return { map: undefined };
  if (view.pinned !== undefined) return { pinned: undefined };
  if (view.plate !== undefined) return { plate: undefined };
  if (view.evidence) return { evidence: false };
  return view.open === "edges" ? { open: undefined } : {};
}

/** Listens to the keys of an opened stack, and to those of the tool in hand. */
export function useWorkspaceKeys(tool: Tool | undefined): void {
  const workspace = useWorkspace();
  const navigate = useNavigate();
  const { view, record } = workspace;
  const goTo = (which: "previous" | "next") => (): void => {
    const { shoot, [which]: stack } = record();
    if (stack) void navigate(`/shoots/${shoot.id}/${stack}`);
  };
  const isTrying = useView((v) => v.trying !== undefined);
  const hands = { workspace, navigate };
  const whileTrying = tryingKeys(hands);
  const whileWorking: Keys = {
    ...lookKeys(workspace),
    ...suspectKeys(workspace),
    ...uprightKeys(workspace),
    ...focusKeys(workspace),
    ...takeKeys(hands),
    z: () => toggleTrying(workspace),
    g: toolKey(workspace, "outline", "brush"),
    p: toolKey(workspace, "pick"),
    h: toolKey(workspace, "repair brush", "repair outline"),
    x: (e) => {
      if (!e.shiftKey) view.setState({ open: "edges" });
    },
    d: () => startDelivery(workspace),
    Escape: () => view.setState(closed(view.getState())),
    Backspace: () => void navigate(`/shoots/${record().shoot.id}`),
    PageUp: goTo("previous"),
    PageDown: goTo("next"),
    ...tool?.keys,
  };
  useKeys(isTrying ? whileTrying : whileWorking, {
    b: () => view.setState({ held: false }),
    u: () => view.setState({ without: undefined }),
    y: () => view.setState({ without: undefined }),
  });
}
