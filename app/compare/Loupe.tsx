import { useEffect, useRef } from "react";
import { sideView } from "./sideView";
import type { Side } from "./useSides";

/** px of each side that the loupe shows, one px a px. */
const WIDTH = 240;
const HEIGHT = 160;

/** The same place of every side at 100 %. @param place  shares of the picture */
export function Loupe({
  sides,
  place,
}: {
  sides: readonly Side[];
  place: readonly [number, number];
}) {
  const canvases = useRef<(HTMLCanvasElement | null)[]>([]);
  const latest = useRef(place);
  const isBusy = useRef(false);
  useEffect(() => {
    latest.current = place;
    if (isBusy.current) return;
    isBusy.current = true;
    void (async () => {
      // what was pointed at meanwhile is looked at next, and only the last of it
      let seen: readonly [number, number] | undefined;
      while (seen !== latest.current) {
        seen = latest.current;
        for (const [i, side] of sides.entries()) await drawAt(side, seen, canvases.current[i]);
      }
      isBusy.current = false;
    })();
  }, [sides, place]);
  return (
    <div
      aria-label="Loupe"
      role="group"
      className="pointer-events-none absolute right-3 top-3 z-10 flex flex-col gap-1 rounded border border-line bg-panel p-1"
    >
      {sides.map(({ name }, i) => (
        <div key={i}>
          <canvas
            ref={(canvas) => {
              canvases.current[i] = canvas;
            }}
            width={WIDTH}
            height={HEIGHT}
          />
          <p className="truncate text-[12px] text-quiet" style={{ width: WIDTH }}>
            {i + 1} {name}
          </p>
        </div>
      ))}
    </div>
  );
}

async function drawAt(
  side: Side,
  [x, y]: readonly [number, number],
  canvas: HTMLCanvasElement | null | undefined,
): Promise<void> {
  const { width, height } = side.session.state.size;
  const region = {
    x: Math.min(width - WIDTH, Math.max(0, Math.round(x * width - WIDTH / 2))),
    y: Math.min(height - HEIGHT, Math.max(0, Math.round(y * height - HEIGHT / 2))),
    width: WIDTH,
    height: HEIGHT,
  };
  const view = await sideView(side, region, 1);
  if (!view || !canvas) return;
  // a picture that does not fit in memory at full size comes smaller
  canvas.width = view.width;
  canvas.height = view.height;
  canvas.style.width = `${WIDTH}px`;
  canvas.style.height = `${HEIGHT}px`;
  const image = new ImageData(view.pixels, view.width, view.height);
  canvas.getContext("2d")!.putImageData(image, 0, 0);
  canvas.dataset["drawn"] = String(Number(canvas.dataset["drawn"] ?? 0) + 1);
}
