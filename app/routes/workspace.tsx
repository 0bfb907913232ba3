import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { useFetcher, useNavigate } from "react-router";
import { apply, transpose } from "../../core/math/matrix3";
import { between } from "../../core/panorama/camera";
import { sourceOf } from "../../core/frame/lens";
import { directionAt, pixelOf } from "../../core/panorama/canvas/projection";
import { draggedTo, type Guide } from "../../core/panorama/level/straighten";
import { balanceFromNeutral } from "../../core/colour/whiteBalance";
import type { MapKind } from "../../core/maps/maps";
import { suspectKey, type Suspect } from "../../core/suspects/suspect";
import { forAnyView, parseRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import { ratioOf, swappedRatio } from "../../pipeline/edges/step";
import type { Rectangle } from "../../core/raster/largestRectangle";
import { change, historyOf, inTurn, step } from "../store/changes";
import { readStack } from "../store/shoots";
import { relativeEvs } from "../board/exposures";
import { Button } from "../ui/Button";
import { plainNumber, signed } from "../ui/format";
import { History } from "../ui/History";
import { Fact } from "../ui/Fact";
import { TopBar } from "../ui/TopBar";
import { useKeys } from "../ui/useKeys";
import { useKeepSoon } from "../ui/useKeepSoon";
import { useStable } from "../ui/useStable";
import { DeliverButton } from "../workspace/DeliverButton";
import { deliveryOf, readTray } from "../work/jobs";
import { StackSession } from "../work/session";
import { RhizomeError } from "../../core/error";
import type { DustSpot } from "../../core/frame/preparation";
import { expectedOf } from "../work/expected";
import { findDust } from "../work/dustFinder";
import { measureLens } from "../work/lensMeter";
import { stackFrames, deliver, keepPicture, resultKey } from "../work/stackWork";
import { CropFrame } from "../workspace/CropFrame";
import { dragged, sharesOf, type Overlay } from "../workspace/cropShape";
import { Ladder } from "../workspace/Ladder";
import { Stem } from "../workspace/Stem";
import { stemNodes } from "../workspace/stemNodes";
import { Viewer } from "../workspace/Viewer";
import { ViewTurner } from "../workspace/ViewTurner";
import { Candidates, type Area } from "../workspace/Candidates";
import { FewerFrames } from "../workspace/FewerFrames";
import type { Drawing } from "../workspace/GhostControls";
import { isLight, isTurn, strokeOf } from "../workspace/drawing";
import { FocusRamp } from "../workspace/FocusRamp";
import { Relief } from "../workspace/Relief";
import { Plates } from "../workspace/Plates";
import { rowMates } from "../board/rowMates";
import { seenFrom } from "../workspace/plateOutlines";
import { Maps } from "../workspace/Maps";
import { MaskChoice } from "../workspace/MaskChoice";
import { tieList } from "../workspace/tieList";
import { Ties } from "../workspace/Ties";
import { Suspects } from "../workspace/Suspects";
import { fitZoom, settle, zoomAt, zoomOf, type Size, type Viewport } from "../workspace/viewport";
import type { Route } from "./+types/workspace";
import { clamp } from "../../core/math/clamp";
import { luminance } from "../../core/colour/luminance";
import { noteUnsaved, recoverUnsaved } from "../store/unsaved";

const KEYS = [
  ["F", "The whole picture"],
  ["1, 2", "100 %, 200 %"],
  ["Wheel", "Zoom at the pointer"],
  ["Space, drag", "Move the picture"],
  ["Double-click", "Between whole picture and 100 %"],
  ["B, held", "Before: the frame instead of the merge"],
  ["[ ]", "Another frame for before"],
  ["W", "Wipe between frame and merge"],
  ["C", "Mark what is clipped"],
  ["S, V, R, N", "Map: sources, moving, residual, noise"],
  ["E", "Panorama: where the seams run"],
  [". ,", "Next and previous suspect, at 100 %"],
  ["A, M", "Accept or fix the suspect"],
  [
    "G, Shift G",
    "Draw round or paint a part to give it to one frame; in a panorama, to hide it in some",
  ],
  ["L, Shift L, K", "Panorama: draw a level, a vertical or a straight line"],
  ["O, Shift O", "Panorama: drag the view and its borders, or roll it"],
  ["T", "Panorama: the ties that hold the frames"],
  ["T", "Focus: retouch from the frame that is sharpest under the pointer"],
  ["X, Shift X", "Crop: drag what is kept; turn its ratio"],
  ["Arrows, Shift arrows", "Crop: move it by 1 px, by 10"],
  ["P", "Pick a neutral"],
  ["#", "A grid of straight lines"],
  ["D", "Deliver"],
  ["PageUp, PageDown", "The stack before, after"],
  ["Esc", "Back to the board"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Shift Z", "Redo"],
] as const;

/** What maps a merge of each kind leaves. */
const GUIDE_LABELS = {
  level: "Level line",
  vertical: "Vertical line",
  straight: "Straight line",
} as const;
const MAPS_OF: Record<Recipe["kind"], readonly MapKind[]> = {
  bracket: ["sources", "moving", "disagreement", "noise"],
  panorama: ["sources", "seams"],
  focus: ["sources"],
};

/** A ring round a spot, in shares of the picture. */
const circle = ({ x, y, radius }: DustSpot, size: Size): [number, number][] =>
  Array.from({ length: 24 }, (_, i) => [
    x + 1.3 * radius * Math.cos((i * Math.PI) / 12),
    y + (1.3 * radius * Math.sin((i * Math.PI) / 12) * size.width) / size.height,
  ]);

/** Straight lines over the picture, in shares of it. */
const GRID: [number, number][][] = [
  ...Array.from({ length: 11 }, (_, i): [number, number][] => [
    [(i + 1) / 12, 0],
    [(i + 1) / 12, 1],
  ]),
  ...Array.from({ length: 7 }, (_, i): [number, number][] => [
    [0, (i + 1) / 8],
    [1, (i + 1) / 8],
  ]),
];

/** What the proof will hold, before it is measured. */
const NO_FACTS = (
  [
    ["Scene range", "EV"],
    ["Clipped, bright", "%"],
    ["Black, darkest", "%"],
    ["Moving parts", "%"],
    ["Range gained", "EV"],
    ["Shadows gained", "dB"],
    ["Moved, longest", "px"],
    ["Alignment, worst", "px"],
  ] as const
).map(([what, unit]) => ({ what, unit, value: 0, digits: 1 as const }));

export async function clientLoader({ params }: Route.ClientLoaderArgs) {
  const data = await readStack(params.shoot, params.stack);
  const recovered = recoverUnsaved(data.take.id, data.take.recipe);
  if (recovered) {
    const take = { ...data.take, recipe: recovered };
    await inTurn(() =>
      change(params.shoot, "Change the recipe", [{ store: "takes", value: take }]),
    );
    data.take = take;
  }
  return {
    data,
    history: await historyOf(params.shoot),
  };
}

export const clientAction = ({ request, params }: Route.ClientActionArgs) =>
  inTurn(async () => {
    const body =
      ((await request.json().catch(() => undefined)) as
        { intent?: string; recipe?: unknown; label?: string } | undefined) ?? {};
    if (body.intent === "undo" || body.intent === "redo")
      return { done: await step(params.shoot, body.intent) };
    const { take, stack } = await readStack(params.shoot, params.stack);
    if (body.intent === "accept") {
      const key = String((body as { key?: unknown }).key ?? "");
      const accepted = stack.accepted.includes(key)
        ? stack.accepted.filter((k) => k !== key)
        : [...stack.accepted, key];
      await change(params.shoot, "Accept a suspect", [
        { store: "stacks", value: { ...stack, accepted } },
      ]);
      return null;
    }
    if (body.intent === "prepare") {
      const {
        shoot: { id, name, createdAt, prepare: was },
      } = await readStack(params.shoot, params.stack);
      const prepare = forAnyView(take.recipe);
      const own = JSON.stringify(was) === JSON.stringify(prepare);
      await change(params.shoot, own ? "No settings for new stacks" : "Settings for new stacks", [
        { store: "shoots", value: { id, name, createdAt, ...(own ? {} : { prepare }) } },
      ]);
      return null;
    }
    await change(params.shoot, String(body.label ?? "Change the recipe").slice(0, 80), [
      { store: "takes", value: { ...take, recipe: parseRecipe(body.recipe) } },
    ]);
    return null;
  });

export default function Workspace({ loaderData }: Route.ComponentProps) {
  const { stack, frames } = loaderData.data;
  // a stack that frames are still coming to is merged anew
  return <Work key={[stack.id, ...frames.map((f) => f.id)].join(" ")} loaderData={loaderData} />;
}

function Work({
  loaderData: { data, history },
}: {
  loaderData: Route.ComponentProps["loaderData"];
}) {
  const { shoot, stack, take } = data;
  const frames = useStable(data.frames);
  const fetcher = useFetcher();
  const navigate = useNavigate();
  const [edited, setEdited] = useState<Recipe>();
  const recipe = useStable(edited ?? take.recipe);
  const members = useMemo(() => stackFrames(frames, data.originals), [stack.id]); // eslint-disable-line react-hooks/exhaustive-deps
  const [session] = useState<StackSession>(() => new StackSession(members));
  const s = useSyncExternalStore(session.subscribe, session.snapshot, session.snapshot);
  const [open, setOpen] = useState<string | undefined>("tone");
  const [viewport, setViewport] = useState<Viewport>({
    zoom: "fit",
    cx: s.size.width / 2,
    cy: s.size.height / 2,
  });
  // a panorama has its size only when its frames are placed
  useEffect(() => {
    setViewport((v) =>
      v.zoom === "fit" ? { zoom: "fit", cx: s.size.width / 2, cy: s.size.height / 2 } : v,
    );
  }, [s.size]);
  const [box, setBox] = useState<Size>({ width: 700, height: 600 });
  const [clipped, setClipped] = useState(false);
  const [picking, setPicking] = useState(false);
  const [pickFor, setPickFor] = useState<string>();
  const [wipe, setWipe] = useState(false);
  const [held, setHeld] = useState(false);
  const [pinned, setPinned] = useState<number>();
  const [before, setBefore] = useState<number>();
  const [map, setMap] = useState<MapKind>();
  const [drawing, setDrawing] = useState<Drawing>();
  const [brush, setBrush] = useState(0.03);
  const [area, setArea] = useState<Area>();
  const [plate, setPlate] = useState<number>();
  const [suspect, setSuspect] = useState<number>();
  const [overlay, setOverlay] = useState<Overlay>("thirds");
  const [note, setNote] = useState<string>();
  const [from, setFrom] = useState<number>();
  const [space, setSpace] = useState<"relief" | "sphere">();
  const [ties, setTies] = useState<readonly [number, number]>();
  const [under, setUnder] = useState<number>();
  const [grid, setGrid] = useState(false);
  const [dust, setDust] = useState<{ spots?: DustSpot[]; frames: number; busy: boolean }>({
    frames: 0,
    busy: false,
  });
  const [point, setPoint] = useState<{ x: number; y: number; rgb?: readonly number[] }>();

  useEffect(() => () => session.close(), [session]);
  useEffect(() => {
    if (!edited) return;
    const note = (): void => noteUnsaved(take.id, take.recipe, edited);
    window.addEventListener("pagehide", note);
    return () => window.removeEventListener("pagehide", note);
  }, [edited, take]);
  useEffect(() => {
    session.update(take.recipe);
  }, [session, take.recipe]);
  // the stored recipe is the truth again once every change has come back, or was undone
  const kept = fetcher.state === "idle";
  useEffect(() => {
    if (kept) setEdited(undefined);
  }, [take.recipe, kept]);
  useEffect(() => {
    if (s.phase !== "ready" || data.result?.key === resultKey(frames, take.recipe)) return;
    const t = setTimeout(
      () => void keepPicture(session, shoot.id, stack.id, frames, take.recipe),
      600,
    );
    return () => clearTimeout(t);
  }, [s.phase, s.aligned, take.recipe, session]); // eslint-disable-line react-hooks/exhaustive-deps

  useEffect(() => {
    if (s.phase !== "ready") return;
    const t = setTimeout(() => void session.judgeTone(take.recipe).catch(() => undefined), 300);
    return () => clearTimeout(t);
  }, [s.phase, s.aligned, take.recipe, session]);

  const keep = (r: Recipe, label: string): void => {
    setEdited(r);
    void fetcher.submit({ intent: "recipe", recipe: r, label } as never, {
      method: "post",
      encType: "application/json",
    });
  };
  const asking = useRef(false);
  const onPoint = (p: { x: number; y: number } | undefined): void => {
    setPoint((was) => p && { ...p, ...(was?.rgb ? { rgb: was.rgb } : {}) });
    if (!p || asking.current || s.phase !== "ready") return;
    asking.current = true;
    void Promise.all([
      session.sample(p.x, p.y, 1),
      recipe.kind === "focus" ? session.sourceAt(p.x, p.y) : undefined,
    ])
      .then(
        ([rgb, source]) => {
          setPoint((now) => now && rgb && { ...now, rgb });
          setUnder(source);
        },
        () => undefined,
      )
      .finally(() => {
        asking.current = false;
      });
  };
  const onPick = async (p: { x: number; y: number }): Promise<void> => {
    const rgb = await session.sample(p.x, p.y, 3);
    const found = rgb && balanceFromNeutral(rgb);
    if (!found) {
      setNote("That place is black; pick a grey or white that has light on it.");
      return;
    }
    setNote(undefined);
    setPicking(false);
    setPickFor(undefined);
    const white = {
      temperature: clamp(found.temperature, 2000, 15000),
      tint: clamp(found.tint, -100, 100),
    };
    keep(
      {
        ...recipe,
        prepare: pickFor
          ? {
              ...recipe.prepare,
              local: recipe.prepare.local.map((p) => (p.id === pickFor ? { ...p, ...white } : p)),
            }
          : { ...recipe.prepare, ...white },
      },
      "Pick a neutral",
    );
  };
  const reference = s.aligned?.reference ?? Math.floor(frames.length / 2);
  const beforeIndex = before ?? reference;
  const single = recipe.kind === "bracket";
  let shownFrame: number | undefined;
  if (recipe.kind === "panorama") shownFrame = undefined;
  else if (held || wipe) shownFrame = beforeIndex;
  else shownFrame = pinned;
  const plateArea =
    plate !== undefined && s.layout?.cameras[plate]
      ? seenFrom(s.layout.cameras[plate], s.layout.canvas).map((points): Area => ({
          shape: "outline",
          radius: 0,
          points: points.map(([x, y]) => [x / s.size.width, y / s.size.height]),
        }))
      : [];
  const guideLines = useMemo(() => {
    const { layout, size } = s;
    return layout && open === "panorama"
      ? recipe.panorama.guides.flatMap((g): [number, number][][] => {
          // as what is straight runs in this projection
          const points = between(g.from, g.to, 24).map((d) =>
            pixelOf(layout.canvas, apply(layout.turned, d)),
          );
          return points.every((p) => p !== undefined)
            ? [points.map((p): [number, number] => [p[0] / size.width, p[1] / size.height])]
            : [];
        })
      : [];
  }, [s.layout, s.size, recipe.panorama.guides, open]); // eslint-disable-line react-hooks/exhaustive-deps
  const part = useMemo(
    () => session.keptOf(recipe.edges),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [session, s.layout, s.aligned, s.size, recipe.edges],
  );
  const cropping = open === "edges" && s.phase === "ready" && shownFrame === undefined && !drawing;
  const crop = (part: Partial<Recipe["edges"]>, label: string): void =>
    keep({ ...recipe, edges: { ...recipe.edges, ...part } }, label);
  const keepPart = (r: Rectangle): void => crop({ part: sharesOf(r, s.size) }, "Crop");
  const nudged = useKeepSoon(keepPart);
  const nudge = (dx: number, dy: number): void => {
    if (!cropping || !part) return;
    // presses come faster than what they lead to is drawn
    const to = dragged(nudged.due() ?? part.region, { h: 0, v: 0 }, dx, dy, s.size);
    setEdited({ ...recipe, edges: { ...recipe.edges, part: sharesOf(to, s.size) } });
    nudged.soon(to);
  };
  const zoomTo = (z: number | "fit"): void =>
    setViewport((v) =>
      z === "fit"
        ? settle({ zoom: "fit", cx: 0, cy: 0 }, s.size, box)
        : zoomAt(v, s.size, box, box.width / 2, box.height / 2, z),
    );
  const another = (by: number): void => {
    const i = (beforeIndex + by + frames.length) % frames.length;
    setBefore(i);
    if (pinned !== undefined) setPinned(i);
  };
  // the same once more would only be a second file
  const startDelivery = (): void => {
    const last = deliveryOf(readTray(), stack.id)?.state;
    if (last !== "waiting" && last !== "running") deliver(stack, members, recipe);
  };
  const look = (i: number | undefined): void => {
    setPinned((was) => (i === undefined || was === i ? undefined : i));
    if (i !== undefined) setBefore(i);
  };
  const partaking = useMemo(
    () =>
      frames
        .filter((f) => !recipe.frames.leftOut.includes(f.id))
        .map((f) => ({ id: f.id, name: f.info.name, width: f.info.width, height: f.info.height })),
    [frames, recipe.frames.leftOut],
  );
  // a panorama's frames are looked at on its map, others in place of the picture
  let lookedAt: number | undefined;
  if (recipe.kind !== "panorama") lookedAt = pinned;
  else if (plate === undefined) lookedAt = undefined;
  else lookedAt = frames.findIndex((f) => f.id === partaking[plate]?.id);
  const lookAt = (i: number): void => {
    if (recipe.kind === "panorama") setPlate(partaking.findIndex((f) => f.id === frames[i]!.id));
    else look(i);
  };
  const showMap = (kind: MapKind): void => {
    if (MAPS_OF[recipe.kind].includes(kind)) setMap((was) => (was === kind ? undefined : kind));
  };
  const goTo = (i: number | undefined): void => {
    setSuspect(i);
    const at = i === undefined ? undefined : s.suspects[i];
    if (at)
      setViewport(
        settle({ zoom: 1, cx: at.x + at.width / 2, cy: at.y + at.height / 2 }, s.size, box),
      );
  };
  const walk = (by: number): void => {
    if (s.suspects.length)
      goTo(((suspect ?? (by > 0 ? -1 : 0)) + by + s.suspects.length) % s.suspects.length);
  };
  const accept = (at: Suspect): void =>
    void fetcher.submit({ intent: "accept", key: suspectKey(at) } as never, {
      method: "post",
      encType: "application/json",
    });
  const fix = (at: Suspect): void => {
    // where nothing is assigned to a frame manually, the step that made it is opened
    if (at.kind === "residual" || at.kind === "thin overlap" || at.kind === "place in doubt") {
      showTies();
      return;
    }
    if (at.kind === "filled") {
      setOpen("edges");
      return;
    }
    const [x0, y0, x1, y1] = [
      at.x / s.size.width,
      at.y / s.size.height,
      (at.x + at.width) / s.size.width,
      (at.y + at.height) / s.size.height,
    ];
    setArea({
      shape: "outline",
      points: [
        [x0, y0],
        [x1, y0],
        [x1, y1],
        [x0, y1],
      ],
      radius: 0,
    });
  };
  /** No two frames were found to show the same: ties set manually may hold them. */
  const unplaced = recipe.kind === "panorama" && s.error?.code === "no-overlap";
  /** The pair that fits worst, unless a frame that has no place yet wants one. */
  const showTies = (pair?: readonly [number, number]): void => {
    const { layout } = s;
    if ((!layout && !unplaced) || partaking.length < 2) return;
    const lone = layout?.leftOut[0];
    const [worst] = tieList(layout, partaking, []);
    if (pair) setTies(pair);
    else if (lone !== undefined) setTies([lone > 0 ? lone - 1 : 1, lone]);
    else setTies(worst ? [worst.a, worst.b] : [0, 1]);
  };
  const draw = (d: Drawing | undefined): void => {
    setArea(undefined);
    setDrawing(d);
    if (!d) return;
    if (d === "dust" || isLight(d)) setOpen("prepare");
    else setOpen(recipe.kind === "panorama" ? "panorama" : "ghosts");
  };
  const give = (frame: string, to: Area): void => {
    const name = frames.find((f) => f.id === frame)?.info.name ?? "";
    keep(
      {
        ...recipe,
        ghosts: {
          patches: [
            ...recipe.ghosts.patches,
            { ...to, id: crypto.randomUUID(), frame, on: true, soft: 0.006 },
          ],
        },
      },
      recipe.kind === "focus" ? `Retouch from ${name}` : `Ghost patch from ${name}`,
    );
    setArea(undefined);
  };
  /**
   * A line along something level, vertical or straight is kept by the directions in which its ends
   * lie, so that it holds in every projection.
   */
  const guide = (kind: Guide["kind"], points: [number, number][]): void => {
    const { layout } = s;
    const ends =
      layout &&
      [points[0]!, points.at(-1)!]
        .map(([x, y]) => directionAt(layout.canvas, x * s.size.width, y * s.size.height))
        .map((d) => d && (apply(transpose(layout.turned), d) as [number, number, number]));
    setDrawing(undefined);
    if (ends?.[0] && ends[1])
      keep(
        {
          ...recipe,
          panorama: {
            ...recipe.panorama,
            guides: [...recipe.panorama.guides, { kind, from: ends[0], to: ends[1] }],
          },
        },
        GUIDE_LABELS[kind],
      );
  };
  /**
   * A place that was taken and let go elsewhere on the map, in shares of the picture, takes the
   * whole view along.
   */
  const turnView = ([x0, y0]: [number, number], [x1, y1]: [number, number]): void => {
    const {
      layout,
      size: { width, height },
    } = s;
    if (!layout) return;
    const { canvas } = layout;
    const from = directionAt(canvas, x0 * width, y0 * height);
    const to = directionAt(canvas, x1 * width, y1 * height);
    if (from && to) {
      const { yaw, pitch, roll } = draggedTo(recipe.panorama, from, to);
      keep({ ...recipe, panorama: { ...recipe.panorama, yaw, pitch, roll } }, "Drag the view");
    }
  };
  /**
   * What was drawn goes to the frame that one retouches from; else it is asked which frame gets it.
   */
  const drawn = (points: [number, number][]): void => {
    if (drawing === "level" || drawing === "vertical" || drawing === "straight") {
      guide(drawing, points);
      return;
    }
    if (isLight(drawing)) {
      const shape = drawing.slice(6) as "outline" | "brush" | "gradient";
      const { temperature, tint, local } = recipe.prepare;
      setDrawing(undefined);
      keep(
        {
          ...recipe,
          prepare: {
            ...recipe.prepare,
            local: [
              ...local,
              {
                id: crypto.randomUUID(),
                on: true,
                shape,
                points: shape === "gradient" ? [points[0]!, points.at(-1)!] : points,
                radius: shape === "brush" ? brush : 0,
                soft: shape === "gradient" ? 0 : 0.02,
                temperature,
                tint,
              },
            ],
          },
        },
        "Part in another light",
      );
      return;
    }
    if (drawing === "dust") {
      const spotAt = (list: readonly DustSpot[]): number =>
        list.findIndex(
          (d) =>
            Math.hypot(
              d.x - at.x / s.size.width,
              ((d.y - at.y / s.size.height) * s.size.height) / s.size.width,
            ) <
            d.radius * 1.3,
        );
      // kept where it lies on the sensor, whatever the lens's correction moves
      const at = sourceOf(
        recipe.prepare,
        s.size,
        points[0]![0] * s.size.width,
        points[0]![1] * s.size.height,
      );
      const inside = (v: number): number => clamp(v, 0, 1);
      const likely = spotAt(dust.spots ?? []);
      const healed = spotAt(recipe.prepare.dust);
      if (likely >= 0) {
        setDust({ ...dust, spots: dust.spots!.filter((_, i) => i !== likely) });
        return;
      }
      if (healed >= 0) {
        keep(
          {
            ...recipe,
            prepare: {
              ...recipe.prepare,
              dust: recipe.prepare.dust.filter((_, i) => i !== healed),
            },
          },
          "Take back a dust spot",
        );
        return;
      }
      keep(
        {
          ...recipe,
          prepare: {
            ...recipe.prepare,
            dust: [
              ...recipe.prepare.dust,
              {
                x: inside(at.x / s.size.width),
                y: inside(at.y / s.size.height),
                radius: clamp(brush, 0.0005, 0.05),
              },
            ],
          },
        },
        "Dust spot",
      );
      return;
    }
    if (!drawing || isTurn(drawing)) return;
    const to: Area = { shape: drawing, points, radius: drawing === "brush" ? brush : 0 };
    const source = recipe.kind === "focus" && from !== undefined ? frames[from] : undefined;
    if (source) give(source.id, to);
    else setArea(to);
  };
  const dustFinder = {
    found: dust.spots,
    frames: dust.frames,
    busy: dust.busy,
    find: () => {
      setDust({ frames: 0, busy: true });
      void findDust(shoot.id, stack.id, frames, data.originals).then(
        ({ spots, frames: over }) => {
          setDust({ spots, frames: over, busy: false });
          if (spots.length) draw("dust");
        },
        (e: unknown) => {
          setDust({ frames: 0, busy: false });
          setNote(RhizomeError.from(e).message);
        },
      );
    },
    heal: () => {
      const all = recipe.prepare.dust;
      keep(
        {
          ...recipe,
          prepare: {
            ...recipe.prepare,
            dust: [
              ...all,
              ...(dust.spots ?? []).filter(
                (d) => !all.some((o) => Math.hypot(o.x - d.x, o.y - d.y) < o.radius),
              ),
            ].slice(0, 500),
          },
        },
        "Heal the dust found",
      );
      setDust({ frames: 0, busy: false });
      setDrawing(undefined);
    },
    dismiss: () => {
      setDust({ frames: 0, busy: false });
      setDrawing(undefined);
    },
  };
  const here = suspect === undefined ? undefined : s.suspects[suspect];
  useKeys(
    {
      s: () => showMap("sources"),
      e: () => showMap("seams"),
      v: () => showMap("moving"),
      r: () => showMap("disagreement"),
      n: () => showMap("noise"),
      ".": () => walk(1),
      ",": () => walk(-1),
      a: () => here && accept(here),
      m: () => here && fix(here),
      g: (e) => {
        const way = e.shiftKey ? "brush" : "outline";
        draw(drawing === way ? undefined : way);
      },
      l: (e) => {
        const way = e.shiftKey ? "vertical" : "level";
        if (recipe.kind === "panorama") draw(drawing === way ? undefined : way);
      },
      k: () => {
        if (recipe.kind === "panorama") draw(drawing === "straight" ? undefined : "straight");
      },
      o: (e) => {
        const way = e.shiftKey ? "roll" : "turn";
        if (recipe.kind === "panorama") draw(drawing === way ? undefined : way);
      },
      t: () => {
        if (recipe.kind === "panorama") showTies();
        if (recipe.kind === "focus" && under !== undefined) {
          setFrom(under);
          if (!drawing) draw("brush");
        }
      },
      x: (e) => {
        if (e.shiftKey) {
          if (open === "edges" && ratioOf(recipe.edges))
            crop({ ratio: swappedRatio(recipe.edges.ratio) }, "Turn the ratio");
        } else setOpen((was) => (was === "edges" ? undefined : "edges"));
      },
      ...Object.fromEntries(
        [1, 10].flatMap((by) =>
          (
            [
              ["ArrowLeft", -1, 0],
              ["ArrowRight", 1, 0],
              ["ArrowUp", 0, -1],
              ["ArrowDown", 0, 1],
            ] as const
          ).map(([key, dx, dy]) => [
            `${by > 1 ? "Shift+" : ""}${key}`,
            () => nudge(dx * by, dy * by),
          ]),
        ),
      ),
      f: () => zoomTo("fit"),
      1: () => zoomTo(1),
      2: () => zoomTo(2),
      c: () => setClipped((c) => !c),
      w: () => setWipe((w) => !w),
      p: () => setPicking((x) => !x),
      d: startDelivery,
      "#": () => setGrid((x) => !x),
      b: () => setHeld(true),
      "[": () => another(-1),
      "]": () => another(1),
      Escape: () => {
        if (area) setArea(undefined);
        else if (drawing) setDrawing(undefined);
        else if (picking || pickFor) {
          setPicking(false);
          setPickFor(undefined);
        } else if (suspect !== undefined) setSuspect(undefined);
        else if (map) setMap(undefined);
        else if (pinned !== undefined) setPinned(undefined);
        else if (plate !== undefined) setPlate(undefined);
        else if (cropping) setOpen(undefined);
        else void navigate(`/shoots/${shoot.id}`);
      },
      PageUp: () => data.previous && void navigate(`/shoots/${shoot.id}/${data.previous}`),
      PageDown: () => data.next && void navigate(`/shoots/${shoot.id}/${data.next}`),
    },
    { b: () => setHeld(false) },
  );

  const outlines =
    map === "sources" && s.layout
      ? s.layout.cameras
          .flatMap((c) => (c ? seenFrom(c, s.layout!.canvas) : []))
          .map((o) =>
            [...o, o[0]!].map(([x, y]): [number, number] => [x / s.size.width, y / s.size.height]),
          )
      : [];
  const lights = open === "prepare" ? recipe.prepare.local.filter((p) => p.on) : [];
  const lines = [
    ...outlines,
    ...guideLines,
    ...(grid ? GRID : []),
    ...lights.flatMap((p) => (p.shape === "gradient" ? [p.points] : [])),
  ];
  const evs = relativeEvs(frames);
  const names = useMemo(() => frames.map((f) => f.info.name.replace(/\.[^.]+$/, "")), [frames]);
  const busy = s.phase === "working";
  const zoom = zoomOf(viewport, s.size, box);
  const facts = s.facts.length || !single ? s.facts : NO_FACTS;
  /** What the line below the picture says: of the frame that is shown, the place under the pointer, or the size. */
  const statusLine = (): string => {
    if (shownFrame !== undefined) {
      const ev = evs[shownFrame];
      const said = ev === undefined ? "" : `, ${signed(ev)} EV`;
      return `${wipe ? "Left: " : ""}${frames[shownFrame]?.info.name}${said}, as taken`;
    }
    if (point) {
      const light = point.rgb && luminance(point.rgb[0]!, point.rgb[1]!, point.rgb[2]!);
      const ev = light ? `, ${signed(Math.log2(Math.max(1e-6, light)))} EV` : "";
      const sharpest =
        under !== undefined && recipe.kind === "focus" ? `, sharpest in ${names[under]}` : "";
      return `${Math.floor(point.x)}, ${Math.floor(point.y)} px${ev}${sharpest}`;
    }
    if (s.fullShare !== undefined) return `Full size, ${Math.round(s.fullShare * 100)} %`;
    if (s.shownBy !== undefined && s.shownBy > 1)
      return `Shown at 1/${s.shownBy} of its size; files are as large as they are`;
    return "";
  };
  /** The areas that are outlined over the picture. */
  const outlined = (): readonly Area[] => {
    if (area) return [area, ...plateArea];
    if (plateArea.length) return plateArea;
    if (open === "ghosts") return recipe.ghosts.patches.filter((p) => p.on);
    const spots = [...(dust.spots ?? []), ...(drawing === "dust" ? recipe.prepare.dust : [])];
    const rims = spots.map((d): Area => ({
      shape: "outline",
      radius: 0,
      points: circle(d, s.size),
    }));
    const lit = lights.flatMap(({ shape, ...p }): Area[] =>
      shape === "gradient" ? [] : [{ ...p, shape }],
    );
    return [...(open === "prepare" ? rims : []), ...lit];
  };
  const nodes = stemNodes({
    kept: part,
    expected: (out) => expectedOf(members, recipe, out, s.layout?.canvas),
    crop: { overlay, onOverlay: setOverlay },
    recipe,
    frames,
    session: s,
    edit: { show: setEdited, keep },
    picking,
    onPicking: setPicking,
    drawing,
    onDraw: draw,
    brush,
    onBrush: setBrush,
    deliverButton: (
      <DeliverButton stackId={stack.id} label="Render and save" onDeliver={startDelivery} />
    ),
    onFrame: lookAt,
    at: lookedAt,
    rowOf: (i) => rowMates([], stack, stack.frameIds.indexOf(frames[i]!.id))?.frames ?? [],
    measureLens: () => measureLens(recipe.kind, frames, data.originals),
    from,
    onFrom: setFrom,
    grid,
    onGrid: setGrid,
    pickFor,
    onPickFor: (id) => {
      setPicking(false);
      setPickFor(id);
    },
    dust: dustFinder,
    ofShoot: {
      on:
        shoot.prepare !== undefined &&
        JSON.stringify(shoot.prepare) === JSON.stringify(forAnyView(take.recipe)),
      toggle: () =>
        void fetcher.submit({ intent: "prepare" } as never, {
          method: "post",
          encType: "application/json",
        }),
    },
  });
  const ladder = useMemo(
    () =>
      frames.map((f, i) => ({
        name: f.info.name,
        ev: s.aligned?.frames[i]?.used
          ? s.aligned.frames[i].ev
          : (evs[i] ?? 0) - (evs[reference] ?? 0),
        used: s.aligned?.frames[i]?.used ?? true,
        reference: i === reference,
        shown: i === shownFrame,
      })),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [frames, s.aligned, reference, shownFrame],
  );
  return (
    <div className="flex h-full flex-col" data-unsaved={edited || !kept ? "" : undefined}>
      {space && (
        <Relief
          session={session}
          recipe={recipe}
          kind={space}
          onClose={() => setSpace(undefined)}
        />
      )}
      {ties && (
        <Ties
          session={session}
          recipe={recipe}
          frames={partaking}
          pair={ties}
          onKeep={keep}
          onHistory={(intent) => {
            if (history[intent])
              void fetcher.submit({ intent }, { method: "post", encType: "application/json" });
          }}
          onClose={() => setTies(undefined)}
        />
      )}
      <TopBar
        keys={KEYS}
        path={[
          { text: "Shoots", to: "/shoots" },
          { text: shoot.name, to: `/shoots/${shoot.id}` },
          { text: stack.name },
        ]}
      >
        <History state={history} />
        <DeliverButton stackId={stack.id} onDeliver={startDelivery} />
      </TopBar>
      <div className="grid min-h-0 grow grid-cols-[320px_1fr_236px]">
        <aside aria-label="Decisions" className="overflow-auto border-r border-line bg-panel">
          <div className="flex items-center gap-2 px-4 pb-2 pt-3">
            <span className="rounded bg-raised px-2 py-0.5">{take.name}</span>
          </div>
          <Stem nodes={nodes} open={open} onOpen={setOpen} />
        </aside>
        <section aria-label="Picture" className="flex min-w-0 flex-col">
          <div className="relative flex min-h-0 grow flex-col">
            <Viewer
              session={session}
              recipe={recipe}
              size={s.size}
              ready={`${s.phase}${s.fullReady}${s.aligned ? 1 : 0}${s.preview?.width}`}
              clipped={clipped}
              frame={shownFrame}
              wipe={wipe}
              picking={picking || pickFor !== undefined}
              viewport={viewport}
              onViewport={setViewport}
              onPoint={onPoint}
              onPick={(p) => void onPick(p)}
              onBox={setBox}
              standIn={data.result?.picture}
              map={map}
              drawing={
                drawing && !isTurn(drawing)
                  ? { shape: strokeOf(drawing), radius: brush }
                  : undefined
              }
              onDrawn={drawn}
              lines={lines}
              areas={outlined()}
              place={here}
              kept={cropping ? undefined : part?.region}
            />
            {cropping && part && (
              <CropFrame
                kept={part.region}
                picture={s.size}
                viewport={viewport}
                box={box}
                ratio={ratioOf(recipe.edges)}
                overlay={overlay}
                onKeep={keepPart}
                onReset={() => crop({ part: "auto" }, "Largest part")}
              />
            )}
            {s.layout && (
              <ViewTurner
                session={session}
                recipe={recipe}
                layout={s.layout}
                mode={isTurn(drawing) ? drawing : undefined}
                waits={busy || edited !== undefined}
                edit={{ show: setEdited, keep }}
              />
            )}
          </div>
          {busy && (
            <div
              role="status"
              className="flex h-8 items-center gap-3 border-t border-line bg-panel px-3 text-[12px]"
            >
              <span className="w-48 truncate">{s.doing}</span>
              <div
                role="progressbar"
                aria-label={s.doing}
                aria-valuenow={Math.round(s.share * 100)}
                className="h-0.5 grow bg-line"
              >
                <div className="h-full bg-accent" style={{ width: `${s.share * 100}%` }} />
              </div>
              <Button variant="plain" className="h-6" onClick={() => session.stop()}>
                Stop
              </Button>
            </div>
          )}
          {(s.phase === "failed" || s.phase === "stopped" || s.error || note) && (
            <div
              role="alert"
              className="flex items-center gap-3 border-t border-line bg-panel px-3 py-2"
            >
              <p className="grow">
                {s.error ? (
                  <>
                    {s.error.message}{" "}
                    <span className="text-quiet">
                      {s.error.remedy && `What to do: ${s.error.remedy}.`}
                    </span>
                  </>
                ) : (
                  (note ?? "Stopped. What was merged before is still shown.")
                )}
              </p>
              {note && !s.error ? (
                <Button variant="plain" onClick={() => setNote(undefined)}>
                  Close
                </Button>
              ) : (
                <>
                  {unplaced && partaking.length > 1 && (
                    <Button
                      onClick={() => showTies()}
                      hint="Point at the same things in two frames (T)"
                    >
                      Set ties manually
                    </Button>
                  )}
                  <Button onClick={() => session.retry(recipe)}>Merge again</Button>
                </>
              )}
            </div>
          )}
          <div className="flex h-9 shrink-0 items-center gap-3 border-t border-line bg-panel px-3">
            <span className="w-12 shrink-0">{Math.round(zoom * 100)} %</span>
            <span className="min-w-0 grow truncate text-quiet">{statusLine()}</span>
            <Button
              variant="plain"
              className="px-2"
              aria-pressed={viewport.zoom === "fit"}
              onClick={() => zoomTo("fit")}
            >
              Fit
            </Button>
            <Button
              variant="plain"
              className="px-2"
              aria-pressed={zoom === 1 && viewport.zoom !== "fit"}
              onClick={() => zoomTo(1)}
            >
              100 %
            </Button>
            <Button
              variant="plain"
              className="px-2"
              aria-pressed={zoom === 2}
              onClick={() => zoomTo(2)}
            >
              200 %
            </Button>
            {recipe.kind !== "panorama" && (
              <>
                <Toggle
                  on={held}
                  text="Before"
                  hint="Shows the frame while held (B)"
                  onDown={() => setHeld(true)}
                  onUp={() => setHeld(false)}
                />
                <Toggle
                  on={wipe}
                  text="Wipe"
                  hint="Frame left, merge right (W)"
                  onClick={() => setWipe(!wipe)}
                />
              </>
            )}
            <Toggle
              on={clipped}
              text="Clipped"
              hint="Stripes where white is lost, dots where black is (C)"
              onClick={() => setClipped(!clipped)}
            />
          </div>
        </section>
        <aside
          aria-label="Evidence"
          className="overflow-auto border-l border-line bg-panel px-3 py-3"
        >
          {area && s.layout && (
            <MaskChoice
              layout={s.layout}
              area={area}
              frames={partaking}
              onHover={setPlate}
              onHide={(masks, label) => {
                keep(
                  {
                    ...recipe,
                    panorama: {
                      ...recipe.panorama,
                      masks: [
                        ...recipe.panorama.masks,
                        ...masks.map((m) => ({ ...m, id: crypto.randomUUID(), on: true })),
                      ],
                    },
                  },
                  label,
                );
                setArea(undefined);
                setDrawing(undefined);
                setPlate(undefined);
              }}
              onCancel={() => {
                setArea(undefined);
                setDrawing(undefined);
              }}
            />
          )}
          {area && !s.layout && s.aligned && (
            <Candidates
              session={session}
              recipe={recipe}
              area={area}
              frames={frames.map((f, i) => ({
                id: f.id,
                name: f.info.name,
                ev: s.aligned!.frames[i]!.ev,
                used: s.aligned!.frames[i]!.used,
              }))}
              onTake={(id) => {
                give(id, area);
                setDrawing(undefined);
              }}
              onCancel={() => {
                setArea(undefined);
                setDrawing(undefined);
              }}
            />
          )}
          {!(area && (s.layout || s.aligned)) && (
            <>
              <h2 className="mb-1 font-semibold">Ladder</h2>
              {s.layout && (
                <Plates
                  layout={s.layout}
                  names={names.filter((_, i) => !recipe.frames.leftOut.includes(frames[i]!.id))}
                  shown={plate}
                  onShow={setPlate}
                  onTies={showTies}
                  onTurn={turnView}
                />
              )}
              {!s.layout && recipe.kind === "focus" && (
                <FocusRamp session={s} names={names} shown={pinned} onShow={look} />
              )}
              {s.statistics && !s.layout && recipe.kind === "bracket" && (
                <Ladder statistics={s.statistics} frames={ladder} onFrame={look} />
              )}
              {!s.layout && recipe.kind !== "focus" && !(s.statistics && single) && (
                <div className="grid h-52 place-items-center text-quiet">
                  {busy ? "After the merge" : "No merge"}
                </div>
              )}
              <Maps
                kinds={MAPS_OF[recipe.kind]}
                depth={recipe.kind === "focus"}
                shown={map}
                onShow={setMap}
                session={s}
                names={names}
              />
              {!single && (
                <Button
                  className="mt-1 w-full"
                  disabled={s.phase !== "ready"}
                  onClick={() => setSpace(recipe.kind === "focus" ? "relief" : "sphere")}
                  hint={
                    recipe.kind === "focus"
                      ? "The picture in space, over its map of depth"
                      : "Look round in the panorama"
                  }
                >
                  {recipe.kind === "focus" ? "Depth in 3D" : "360° view"}
                </Button>
              )}
              <h2 className="mb-1 mt-4 font-semibold">Proof</h2>
              <dl className="grid grid-cols-[1fr_auto_28px] gap-x-2 gap-y-0.5">
                {facts.map((f) => (
                  <Fact
                    key={f.what}
                    what={f.what}
                    value={s.facts.length ? plainNumber(f.value, f.digits) : undefined}
                    unit={f.unit}
                  />
                ))}
              </dl>
              <Suspects
                suspects={s.suspects}
                accepted={stack.accepted}
                at={suspect}
                onGo={goTo}
                onAccept={accept}
                onFix={fix}
                ready={s.phase === "ready"}
              />
              {s.fewer && frames.length > 1 && (
                <FewerFrames figures={s.fewer} names={names} onFrame={look} />
              )}
            </>
          )}
          <p className="mt-3 text-[12px] text-quiet">
            {fitZoom(s.size, box) < 1
              ? `${s.size.width} × ${s.size.height} px, ${plainNumber((s.size.width * s.size.height) / 1e6)} MP`
              : ""}
          </p>
        </aside>
      </div>
    </div>
  );
}

function Toggle({
  on,
  text,
  hint,
  onClick,
  onDown,
  onUp,
}: {
  on: boolean;
  text: string;
  hint: string;
  onClick?: () => void;
  onDown?: () => void;
  onUp?: () => void;
}) {
  return (
    <Button
      variant="plain"
      className={`px-2 ${on ? "text-ink" : ""}`}
      hint={hint}
      aria-pressed={on}
      onClick={onClick}
      onPointerDown={onDown}
      onPointerUp={onUp}
      onPointerLeave={onUp}
    >
      {on && <span aria-hidden className="size-2 bg-accent" />}
      {text}
    </Button>
  );
}
