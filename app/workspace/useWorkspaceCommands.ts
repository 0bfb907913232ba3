import { toggleProof } from "../softProof/chosenProof";
import { useNavigate } from "react-router";
import { hasStep, stepsOf } from "../../pipeline/kindSteps";
import type { StepName } from "../../pipeline/registry";
import { applies } from "../../pipeline/settings/applies";
import { fieldNamed, settingLines } from "../../pipeline/settings/reference";
import { useCommands, type Command } from "../commands/commands";
import { startDelivery } from "./actions/deliver";
import { MAPS_OF, toggleMap, toggleTool, zoomTo } from "./actions/look";
import { compareTakes, newTake } from "./actions/takes";
import { toggleTrying } from "./actions/looks";
import { walkSuspects } from "./actions/suspects";
import { useWorkspace, type Workspace } from "./state/workspace";
import { STEP_SCREENS } from "./steps/steps";
import type { ToolName } from "./tools/tool";

/** How long a step's controls may take to be shown before the search for one is given up, ms. */
const SHOWN_WITHIN_MS = 1000;

/** Settings that are shown with another step than the one that works by them. */
const SHOWN_WITH: Readonly<Record<string, StepName>> = {
  "merge.deghost": "ghosts",
  "merge.ghostStrength": "ghosts",
};

/** Opens a step and leads to one of its controls. */
function goToSetting({ view }: Workspace, step: StepName, label: string): void {
  view.setState({ open: step });
  const until = performance.now() + SHOWN_WITHIN_MS;
  const look = (): void => {
    const stem = document.querySelector("[aria-label='Recipe']");
    const control = stem?.querySelector<HTMLElement>(`[aria-label='${CSS.escape(label)}']`);
    if (control) {
      control.scrollIntoView({ block: "center" });
      (control.querySelector<HTMLElement>("[tabindex='0']") ?? control).focus();
    } else if (performance.now() < until) requestAnimationFrame(look);
  };
  look();
}

/** The settings that have an effect on the opened stack. */
function settingCommands(workspace: Workspace): Command[] {
  const recipe = workspace.recipe();
  return settingLines()
    .filter(({ step }) => hasStep(recipe.kind, step))
    .flatMap(({ step, lines }) =>
      lines.flatMap(({ name, label, help }): Command[] => {
        const field = fieldNamed(name);
        if (!field || field.type === "data" || !applies(field.when, recipe)) return [];
        const shown = SHOWN_WITH[name] ?? step;
        const text = `${STEP_SCREENS[shown].title(recipe.kind)}: ${label}`;
        return [{ text, hint: help, run: () => goToSetting(workspace, shown, label) }];
      }),
    );
}

const stepCommands = (workspace: Workspace): Command[] => {
  const { kind } = workspace.recipe();
  return stepsOf(kind).map((step) => ({
    text: STEP_SCREENS[step].title(kind),
    run: () => workspace.view.setState({ open: step }),
  }));
};

/** Tools with the step that they belong to. */
const TOOLS: readonly [text: string, tool: ToolName, keys: string][] = [
  ["Pick a neutral", "pick", "P"],
  ["Draw round a place to give it to one frame", "outline", "G"],
  ["Paint over a place to give it to one frame", "brush", "Shift G"],
  ["Repair: click or paint over a place", "repair brush", "H"],
  ["Repair: draw round a place", "repair outline", "Shift H"],
  ["Draw a level line", "level", "L"],
  ["Draw a vertical line", "vertical", "Shift L"],
  ["Drag the picture to turn it", "turn", "O"],
];

const MAP_WORDS: Record<string, [text: string, keys: string]> = {
  sources: ["Map: which frame gave which pixel", "S"],
  moving: ["Map: what moved", "V"],
  disagreement: ["Map: where frames disagree", "R"],
  noise: ["Map: noise", "N"],
  seams: ["Map: where the seams run", "E"],
};

const pictureCommands = (workspace: Workspace): Command[] => [
  { text: "The whole picture", keys: "F", run: () => zoomTo(workspace, "fit") },
  { text: "At 100 %", keys: "1", run: () => zoomTo(workspace, 1) },
  { text: "At 200 %", keys: "2", run: () => zoomTo(workspace, 2) },
  {
    text: "Wipe between frame and merge",
    keys: "W",
    run: () => workspace.view.setState(({ wipe }) => ({ wipe: !wipe })),
  },
  {
    text: "Mark what is clipped",
    keys: "C",
    run: () => workspace.view.setState(({ clipped }) => ({ clipped: !clipped })),
  },
  { text: "As on paper, or as on screen", keys: "Shift C", run: toggleProof },
  {
    text: "A grid of straight lines",
    keys: "#",
    run: () => workspace.view.setState(({ grid }) => ({ grid: !grid })),
  },
  { text: "Next suspect", keys: ".", run: () => walkSuspects(workspace, 1) },
  { text: "Previous suspect", keys: ",", run: () => walkSuspects(workspace, -1) },
  ...MAPS_OF[workspace.recipe().kind].flatMap((map): Command[] => {
    const words = MAP_WORDS[map];
    return words ? [{ text: words[0], keys: words[1], run: () => toggleMap(workspace, map) }] : [];
  }),
];

/** Offers what can be done with an opened stack: its steps, tools, views and settings. */
export function useWorkspaceCommands(): void {
  const workspace = useWorkspace();
  const navigate = useNavigate();
  const hands = { workspace, navigate };
  useCommands(() => [
    { name: "Picture", commands: pictureCommands(workspace) },
    {
      name: "Tools",
      commands: TOOLS.map(([text, tool, keys]) => ({
        text,
        keys,
        run: () => toggleTool(workspace, tool),
      })),
    },
    {
      name: "Stack",
      commands: [
        { text: "Deliver", keys: "D", run: () => startDelivery(workspace) },
        { text: "Try looks on", keys: "Z", run: () => toggleTrying(workspace) },
        { text: "New take from this one", keys: "Alt N", run: () => void newTake(hands, "this") },
        { text: "Compare", keys: "Alt C", run: () => compareTakes(hands) },
      ],
    },
    { name: "Steps", commands: stepCommands(workspace) },
    { name: "Settings", commands: settingCommands(workspace) },
  ]);
}
