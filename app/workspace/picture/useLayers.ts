import { useCallback, useEffect, useLayoutEffect, useRef, type RefObject } from "react";
import type { MaskStyle } from "../../../core/finish/paintMask";
import type { KeptPart } from "../../../pipeline/finish/partSchema";
import type { MapKind } from "../../../core/maps/maps";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { StackSession } from "../../work/session";
import type { SoftProof, View, ViewRequest } from "../../work/sessionState";
import type { Layer, Layers } from "./layers";
import { visible, zoomOf, type Size, type Viewport } from "./viewport";

/** What is to be seen. */
export interface Wanted {
  session: StackSession;
  recipe: Recipe;
  viewport: Viewport;
  box: Size;
  /** of the full-size picture, px */
  size: Size;
  clipped: boolean;
  /** the paper that the merge is seen as on */
  softProof: SoftProof | undefined;
  frame: number | undefined;
  map: MapKind | undefined;
  /** the part whose mask is seen, and how */
  mask: { part: KeptPart; style: MaskStyle } | undefined;
  /** changes whenever something else would be rendered for the same request */
  ready: string;
}

/** Pixels that were shown and may be written over. */
type Spent = Partial<Record<"after" | "before", View["pixels"]>>;

/** Takes rendered pixels into the canvas that is there: nothing is made anew while a slider moves. */
function layerOf({ pixels, ...view }: View, into: Layer | undefined, alpha: boolean): Layer {
  const fits = into?.canvas.width === view.width && into.canvas.height === view.height;
  const canvas = fits ? into!.canvas : new OffscreenCanvas(view.width, view.height);
  canvas
    .getContext("2d", { alpha, willReadFrequently: true })!
    .putImageData(new ImageData(pixels, view.width, view.height), 0, 0);
  return { ...view, canvas };
}

/** A map over what is seen, or else the mask of a part. */
function renderMap(
  { session, recipe, map, mask }: Wanted,
  request: ViewRequest,
): Promise<View | undefined> {
  if (map) return session.map(map, request.region, request.zoom);
  return session.mask(recipe, mask!.part, request, mask!.style);
}

/** Renders what is wanted into the layers. @returns whether the merge was there */
async function renderLayers(layers: Layers, spent: Spent, wanted: Wanted): Promise<boolean> {
  const { session, recipe, size, viewport, box, clipped, softProof, frame } = wanted;
  const request: ViewRequest = {
    region: visible(viewport, size, box),
    zoom: zoomOf(viewport, size, box),
    recipe,
    clipped,
  };
  const start = performance.now();
  const after = await session.view({ ...request, softProof, into: spent.after });
  if (after) {
    layers.after = layerOf(after, layers.after, false);
    spent.after = after.pixels;
    performance.measure("rhizome:shown", { start, end: performance.now() });
  }
  if (frame === undefined) delete layers.before;
  else {
    const before = await session.view({ ...request, frame, into: spent.before });
    if (before) {
      layers.before = layerOf(before, layers.before, false);
      spent.before = before.pixels;
    }
  }
  const isMapped = wanted.map !== undefined || wanted.mask !== undefined;
  const shownMap = isMapped ? await renderMap(wanted, request) : undefined;
  if (!isMapped) delete layers.map;
  else if (shownMap) layers.map = layerOf(shownMap, layers.map, true);
  return after !== undefined;
}

/**
 * Keeps the layers as they are wanted. Rendering happens in the workers, one request at a time;
 * what was wanted meanwhile is asked for next, and only the last of it.
 *
 * @param paint  shows the layers; called when they have changed
 */
export function useLayers(
  canvas: RefObject<HTMLCanvasElement | null>,
  layers: RefObject<Layers>,
  wanted: Wanted,
  paint: () => void,
): void {
  const latest = useRef(wanted);
  const spent = useRef<Spent>({});
  const asked = useRef({ wanted: 0, at: 0, busy: false });
  useLayoutEffect(() => {
    latest.current = wanted;
  });
  const request = useCallback(async () => {
    const queue = asked.current;
    queue.wanted++;
    if (queue.busy) return;
    queue.busy = true;
    // for tests and tools that wait for the picture
    const { dataset } = canvas.current!;
    dataset["pending"] = "true";
    try {
      while (queue.at !== queue.wanted) {
        queue.at = queue.wanted;
        if (!latest.current.box.width) continue;
        const isMerge = await renderLayers(layers.current, spent.current, latest.current);
        paint();
        if (isMerge) dataset["shown"] = String(Number(dataset["shown"] ?? 0) + 1);
        dataset["sharp"] = String(layers.current.after?.sharp ?? false);
      }
    } catch {
      // a view of a session that has been closed meanwhile
    } finally {
      queue.busy = false;
      delete dataset["pending"];
    }
  }, [canvas, layers, paint]);
  const { session, recipe, viewport, box, size, clipped, softProof, frame, map, mask, ready } =
    wanted;
  useEffect(() => {
    void request();
  }, [request, session, recipe, viewport, box, size, clipped, softProof, frame, map, mask, ready]);
}
