import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useShownFrame } from "../state/shownFrame";
import { useRecord, useSession, useView, useWorkspace } from "../state/workspace";
import { useShownMask, useShownRecipe } from "../state/shownFinish";
import { useSoftProof } from "../../softProof/useSoftProof";
import type { Tool } from "../tools/tool";
import { paintLayers, placementOf, type Layers } from "./layers";
import { paintMarks, type Marks } from "./paintMarks";
import { TurnedPicture, useTurnedOnScreen } from "./TurnedPicture";
import { useLayers } from "./useLayers";
import { usePointers } from "./usePointers";
import { settle, zoomAt, zoomOf, type Size } from "./viewport";

/** Zoom of one unit of the wheel, as a power of e. */
const WHEEL = 0.0022;

interface Props {
  tool: Tool | undefined;
  marks: Marks;
}

/**
 * The picture. Rendering happens in the workers; here only finished pixels are painted on the
 * canvas, and above them the marks of what is open and of the tool in hand.
 */
export function Viewer({ tool, marks }: Props) {
  const workspace = useWorkspace();
  const { session, view } = workspace;
  const canvas = useRef<HTMLCanvasElement>(null);
  const layers = useRef<Layers>({});
  const [split, setSplit] = useState(0.5);
  const recipe = useShownRecipe();
  const mask = useShownMask();
  const { result } = useRecord();
  const size = useSession((s) => s.size);
  const ready = useSession(
    (s) => `${s.phase}${s.fullReady}${s.aligned ? 1 : 0}${s.preview?.width} ${s.settled}`,
  );
  const { viewport, box, clipped, wipe, map } = useView((v) => v);
  const frame = useShownFrame();
  const note = useCallback((text: string) => view.setState({ note: text }), [view]);
  const softProof = useSoftProof(recipe.deliver.space, note);

  const latest = useRef({ viewport, box, size, frame, wipe, split, map, mask, tool, marks });
  const paint = useCallback(() => {
    const now = latest.current;
    const element = canvas.current;
    if (!element || !now.box.width) return;
    fit(element, now.box);
    const g = element.getContext("2d", { alpha: true })!;
    const placement = placementOf(now.viewport, now.size, now.box);
    paintLayers(
      g,
      layers.current,
      { ...now, map: Boolean(now.map ?? now.mask) },
      placement,
      now.box,
    );
    paintMarks(g, { ...now.marks, ...now.tool?.draw?.() }, placement);
  }, []);
  useLayoutEffect(() => {
    latest.current = { viewport, box, size, frame, wipe, split, map, mask, tool, marks };
    paint();
  });
  useLayers(
    canvas,
    layers,
    { session, recipe, viewport, box, size, clipped, softProof, frame, map, mask, ready },
    paint,
  );
  useStandIn(layers, result?.picture, paint);
  const moves = useBoxAndKeys(canvas);
  const pointers = usePointers({
    workspace,
    tool,
    canvas,
    moves,
    split: wipe ? split : undefined,
    onSplit: setSplit,
    paint,
  });

  const zoomIn = (e: React.MouseEvent): void => {
    const r = canvas.current!.getBoundingClientRect();
    const at = { x: e.clientX - r.left, y: e.clientY - r.top };
    view.setState({
      viewport:
        viewport.zoom === "fit"
          ? zoomAt(viewport, size, box, at, 1)
          : settle({ zoom: "fit", cx: 0, cy: 0 }, size, box),
    });
  };
  const turn = useTurnedOnScreen();
  const resting = viewport.zoom === "fit" ? "cursor-default" : "cursor-grab";
  return (
    <div className="relative min-h-0 grow overflow-hidden bg-well">
      <canvas
        ref={canvas}
        tabIndex={0}
        aria-label="The picture"
        className={`absolute inset-0 touch-none outline-none ${turn ? "opacity-0" : ""} ${tool?.pointer ? "cursor-crosshair" : resting}`}
        onDoubleClick={zoomIn}
        {...pointers}
      />
      {turn && <TurnedPicture of={canvas} turn={turn} />}
    </div>
  );
}

/** A canvas as large as its box. */
function fit(element: HTMLCanvasElement, { width, height }: Size): void {
  if (element.width === width && element.height === height) return;
  element.width = width;
  element.height = height;
}

/** Shows the last picture of the stack until its merge is there. */
function useStandIn(
  layers: React.RefObject<Layers>,
  picture: Blob | undefined,
  paint: () => void,
): void {
  useEffect(() => {
    if (!picture) return;
    const held = layers.current;
    let live = true;
    void createImageBitmap(picture).then((bitmap) => {
      if (!live) return;
      held.standIn = bitmap;
      paint();
    });
    return () => {
      live = false;
      held.standIn?.close();
      delete held.standIn;
    };
  }, [layers, picture, paint]);
}

/**
 * Follows the room that the picture has, its wheel, and the space bar.
 *
 * @returns whether the space bar is held: the picture is moved then, whatever is in hand
 */
function useBoxAndKeys(
  canvas: React.RefObject<HTMLCanvasElement | null>,
): React.RefObject<boolean> {
  const { view, session } = useWorkspace();
  const space = useRef(false);
  useEffect(() => {
    const host = canvas.current!.parentElement!;
    const watch = new ResizeObserver(() => {
      const box = { width: Math.round(host.clientWidth), height: Math.round(host.clientHeight) };
      view.setState(({ viewport }) => ({
        box,
        viewport: settle(viewport, session.state.size, box),
      }));
    });
    watch.observe(host);
    const wheel = (e: WheelEvent): void => {
      e.preventDefault();
      const { viewport, box } = view.getState();
      const { size } = session.state;
      const r = host.getBoundingClientRect();
      const at = { x: e.clientX - r.left, y: e.clientY - r.top };
      const zoom = zoomOf(viewport, size, box) * Math.exp(-e.deltaY * WHEEL);
      view.setState({ viewport: zoomAt(viewport, size, box, at, zoom) });
    };
    host.addEventListener("wheel", wheel, { passive: false });
    const key = (e: KeyboardEvent): void => {
      if (e.key === " " && !(e.target as HTMLElement).closest?.("input, button, [role=slider]")) {
        e.preventDefault();
        space.current = e.type === "keydown";
      }
    };
    window.addEventListener("keydown", key);
    window.addEventListener("keyup", key);
    return () => {
      watch.disconnect();
      host.removeEventListener("wheel", wheel);
      window.removeEventListener("keydown", key);
      window.removeEventListener("keyup", key);
    };
  }, [canvas, view, session]);
  return space;
}
