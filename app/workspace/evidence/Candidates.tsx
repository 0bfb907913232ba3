import { useEffect, useRef, useState } from "react";
import type { Recipe } from "../../../pipeline/recipe/recipe";
import type { StackSession } from "../../work/session";
import type { View } from "../../work/sessionState";
import { signed } from "../../ui/format";
import type { Area } from "../picture/area";

interface Props {
  session: StackSession;
  recipe: Recipe;
  area: Area;
  frames: readonly { id: string; name: string; ev: number; used: boolean }[];
  onTake: (id: string) => void;
}

/** The box round an area in full-size px, with some of what lies about it. */
export function boxOf(
  { points, radius }: Area,
  size: { width: number; height: number },
): { x: number; y: number; width: number; height: number } {
  const xs = points.map((p) => p[0] * size.width);
  const ys = points.map((p) => p[1] * size.height);
  const pad = radius * size.width + Math.max(24, 0.15 * (Math.max(...xs) - Math.min(...xs)));
  const x = Math.max(0, Math.min(...xs) - pad);
  const y = Math.max(0, Math.min(...ys) - pad);
  return {
    x,
    y,
    width: Math.min(size.width, Math.max(...xs) + pad) - x,
    height: Math.min(size.height, Math.max(...ys) + pad) - y,
  };
}

/** Longer side of a candidate's picture, px: sharp on a dense screen too. */
const CROP_EDGE = 280;

/**
 * What each frame shows of an area, all at the same exposure; one click gives the area to that
 * frame.
 */
export function Candidates({ session, recipe, area, frames, onTake }: Props) {
  const [views, setViews] = useState<(View | undefined)[]>([]);
  useEffect(() => {
    let live = true;
    const region = boxOf(area, session.state.size);
    setViews([]);
    void Promise.all(
      frames.map(async (f, i) => {
        if (!f.used) return;
        const v = await session
          .view({
            region,
            zoom: Math.min(1, CROP_EDGE / Math.max(region.width, region.height)),
            recipe,
            clipped: false,
            frame: i,
            lift: -f.ev,
          })
          .catch(() => undefined);
        if (live && v) setViews((was) => Object.assign([...was], { [i]: v }));
      }),
    );
    return () => {
      live = false;
    };
  }, [area]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <>
      <p className="mb-2 text-[12px] text-quiet">
        All at the same exposure. White is clipped in that frame.
      </p>
      <ul className="grid grid-cols-2 gap-2">
        {frames.map(
          (f, i) =>
            f.used && (
              <li key={f.id}>
                <button
                  type="button"
                  onClick={() => onTake(f.id)}
                  className="w-full rounded border border-line p-1 text-left hover:border-accent"
                >
                  <Crop view={views[i]} />
                  <span className="block truncate text-[12px]">{f.name}</span>
                  <span className="block text-[12px] text-quiet">{signed(f.ev)} EV</span>
                </button>
              </li>
            ),
        )}
      </ul>
    </>
  );
}

function Crop({ view }: { view: View | undefined }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!view || !canvas.current) return;
    canvas.current.width = view.width;
    canvas.current.height = view.height;
    canvas.current
      .getContext("2d")!
      .putImageData(new ImageData(view.pixels, view.width, view.height), 0, 0);
  }, [view]);
  return view ? (
    <canvas ref={canvas} className="h-20 w-full object-contain" />
  ) : (
    <span aria-hidden className="block h-20 bg-raised" />
  );
}
