import { useState } from "react";
import { useNavigate, useRevalidator } from "react-router";
import { ComparePanes } from "../compare/ComparePanes";
import { CompareNumbers, type Picked } from "../compare/CompareNumbers";
import type { CompareMode } from "../compare/paint";
import { LEAST_SIDES, MOST_SIDES, parseSide, sideText, type SideChoice } from "../compare/side";
import { Loupe } from "../compare/Loupe";
import { sideView } from "../compare/sideView";
import { SideMenus } from "../compare/SideMenus";
import { useSides, type Side } from "../compare/useSides";
import { readLooks } from "../store/looks";
import { mergedStacks } from "../store/mergedStacks";
import { readStack, type StackData } from "../store/shoots";
import { Button } from "../ui/Button";
import { NumberSlider } from "../ui/NumberSlider";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { runIntent } from "../workspace/state/action";
import type { Viewport } from "../workspace/picture/viewport";
import type { Route } from "./+types/compare";

const MODES: readonly { value: CompareMode; text: string; hint: string }[] = [
  { value: "wipe", text: "Wipe", hint: "Two sides, parted by a line (W)" },
  { value: "beside", text: "Side by side", hint: "All sides beside each other (S)" },
  { value: "flicker", text: "Flicker", hint: "One after the other (K)" },
  { value: "difference", text: "Difference", hint: "What two sides differ by, enlarged (X)" },
];
/** Places that are remembered. */
const MOST_PICKED = 5;

/** The sides that are asked for; else this take and the one delivered, or the frame in the middle. */
function sidesAsked(
  search: URLSearchParams,
  { take, takes, stack, frames }: StackData,
): SideChoice[] {
  const asked = search
    .getAll("side")
    .flatMap((text) => parseSide(text) ?? [])
    .slice(0, MOST_SIDES);
  if (asked.length >= LEAST_SIDES) return asked;
  const other =
    takes.find(({ id }) => id !== take.id && id === stack.takeId) ??
    takes.find(({ id }) => id !== take.id);
  const middle = frames[Math.floor(frames.length / 2)]!;
  return [
    { what: "take", id: take.id },
    other ? { what: "take", id: other.id } : { what: "frame", id: middle.id },
  ];
}

export async function clientLoader({ params, request }: Route.ClientLoaderArgs) {
  const { searchParams } = new URL(request.url);
  const [data, { looks }, merged] = await Promise.all([
    readStack(params.shoot, params.stack, searchParams.get("take") ?? undefined),
    readLooks(),
    mergedStacks(),
  ]);
  const choices = sidesAsked(searchParams, data);
  const wanted = choices.flatMap(({ what, id }) => (what === "stack" ? [id] : []));
  const others = new Map<string, StackData>();
  for (const { id, shoot, stack } of merged)
    if (wanted.includes(id)) others.set(id, await readStack(shoot, stack));
  const stacks = merged.filter(({ stack }) => stack !== params.stack);
  return { data, looks, stacks, others, choices };
}

/** Two to four of a stack's takes, frames and looks, or other stacks, beside each other. */
export default function Compare({ loaderData }: Route.ComponentProps) {
  const { data, looks, stacks, others, choices } = loaderData;
  const sides = useSides(choices, data, others, looks);
  const navigate = useNavigate();
  const { revalidate } = useRevalidator();
  const [mode, setMode] = useState<CompareMode>("wipe");
  const [rate, setRate] = useState(2);
  const [gain, setGain] = useState(4);
  const [viewport, setViewport] = useState<Viewport>({ zoom: "fit", cx: 0, cy: 0 });
  const [chosen, setChosen] = useState(0);
  const [picked, setPicked] = useState<readonly Picked[]>([]);
  const [isLoupe, setLoupe] = useState(false);
  const [hovered, setHovered] = useState<readonly [number, number]>([0.5, 0.5]);
  const [said, setSaid] = useState("");
  const { shoot, stack, take } = data;
  const home = `/shoots/${shoot.id}/${stack.id}`;
  const setChoices = (next: readonly SideChoice[]): void => {
    const search = new URLSearchParams({ take: take.id });
    for (const side of next) search.append("side", sideText(side));
    setPicked([]);
    void navigate(`${home}/compare?${search.toString()}`, { replace: true });
  };
  const win = async (): Promise<void> => {
    const side = sides[chosen];
    if (!side) return;
    setSaid(await makeWinner(side, data));
    await revalidate();
  };
  const pick = async (place: readonly [number, number]): Promise<void> => {
    const colours = await Promise.all(sides.map((side) => colourAt(side, place)));
    setPicked((was) => [...was, { place, colours }].slice(-MOST_PICKED));
  };
  useKeys({
    w: () => setMode("wipe"),
    s: () => setMode("beside"),
    k: () => setMode("flicker"),
    x: () => setMode("difference"),
    l: () => setLoupe((was) => !was),
    f: () => setViewport({ zoom: "fit", cx: 0, cy: 0 }),
    1: () => setViewport((v) => atFull(v, sides[0])),
    ...Object.fromEntries(
      sides.map((_, i): [string, () => void] => [`Alt+${i + 1}`, () => setChosen(i)]),
    ),
    Enter: () => void win(),
    Backspace: () => void navigate(`${home}?take=${take.id}`),
  });
  const title = sides[chosen]?.name;
  return (
    <div className="flex h-full flex-col">
      <TopBar
        screen="compare"
        path={[
          { text: "Shoots", to: "/shoots" },
          { text: shoot.name, to: `/shoots/${shoot.id}` },
          { text: stack.name, to: `${home}?take=${take.id}` },
          { text: "Compare" },
        ]}
      >
        <Button
          variant="accent"
          hint="It is the take that is delivered (Enter)"
          onClick={() => void win()}
        >
          {title ? `${title} wins` : "Choose"}
        </Button>
      </TopBar>
      <div className="flex items-center gap-4 border-b border-line bg-panel px-4 py-1.5">
        <SideMenus {...{ choices, data, looks, stacks }} onChange={setChoices} />
        <div role="group" aria-label="Shown as" className="flex gap-1">
          {MODES.map(({ value, text, hint }) => (
            <Button
              key={value}
              className="px-2"
              variant={mode === value ? "accent" : "raised"}
              aria-pressed={mode === value}
              hint={hint}
              onClick={() => setMode(value)}
            >
              {text}
            </Button>
          ))}
          <Button
            className="ml-2 px-2"
            variant={isLoupe ? "accent" : "raised"}
            aria-pressed={isLoupe}
            hint="The place under the pointer at 100 %, on every side (L)"
            onClick={() => setLoupe(!isLoupe)}
          >
            Loupe
          </Button>
        </div>
        {mode === "flicker" && (
          <div className="w-52">
            <NumberSlider
              label="Rate"
              hint="Changes a second."
              unit="/s"
              min={0.5}
              max={10}
              step={0.5}
              reset={2}
              value={rate}
              onChange={setRate}
              onCommit={setRate}
            />
          </div>
        )}
        {mode === "difference" && (
          <div className="w-52">
            <NumberSlider
              label="Gain"
              hint="How much a difference is enlarged; grey is none."
              unit="×"
              min={1}
              max={32}
              step={1}
              reset={4}
              value={gain}
              onChange={setGain}
              onCommit={setGain}
            />
          </div>
        )}
        {said && (
          <p role="status" className="truncate text-quiet">
            {said}
          </p>
        )}
      </div>
      <main className="relative grid min-h-0 grow grid-rows-[minmax(0,1fr)_auto]">
        <ComparePanes
          {...{ sides, mode, rate, gain, viewport, chosen }}
          onViewport={setViewport}
          onHover={(place) => {
            if (isLoupe) setHovered(place);
          }}
          onPick={(place) => void pick(place)}
          onChoose={setChosen}
        />
        {isLoupe && <Loupe sides={sides} place={hovered} />}
        <CompareNumbers sides={sides} picked={picked} />
      </main>
    </div>
  );
}

/** The middle of what is seen at one px a px. */
function atFull(viewport: Viewport, side: Side | undefined): Viewport {
  const { width, height } = side?.session.state.size ?? { width: 0, height: 0 };
  return viewport.zoom === "fit"
    ? { zoom: 1, cx: width / 2, cy: height / 2 }
    : { ...viewport, zoom: 1 };
}

/** The colour of a place on a side, as it goes out. */
async function colourAt(
  side: Side,
  [x, y]: readonly [number, number],
): Promise<readonly number[] | undefined> {
  const { width, height } = side.session.state.size;
  const region = {
    x: Math.floor(x * width) - 1,
    y: Math.floor(y * height) - 1,
    width: 3,
    height: 3,
  };
  const view = await sideView(side, region, 1);
  if (!view) return undefined;
  const n = view.width * view.height;
  return [0, 1, 2].map((c) => {
    let sum = 0;
    for (let i = 0; i < n; i++) sum += view.pixels[4 * i + c]!;
    return Math.round(sum / n);
  });
}

/** Makes a side the take that is delivered. @returns what was done, or why not */
async function makeWinner(side: Side, { shoot, stack, take, takes }: StackData): Promise<string> {
  const where = { shoot: shoot.id, stack: stack.id };
  const { choice, name } = side;
  const deliver = async (id: string): Promise<string> => {
    const { failed } = await runIntent(where, { intent: "deliver take", take: id });
    return failed ?? `${name} is delivered from now on.`;
  };
  if (choice.what === "take") {
    if (choice.id === stack.takeId) return `${name} is delivered already.`;
    return takes.some(({ id }) => id === choice.id) ? deliver(choice.id) : "This take is gone.";
  }
  if (choice.what !== "look") return "A frame or another stack cannot be a take of this one.";
  const { failed, made } = await runIntent(where, {
    intent: "new take",
    beside: take.id,
    name: name.replace(/,.*/, ""),
    recipe: side.recipe,
  });
  return failed ?? (made ? deliver(made) : "");
}
