import { frameName } from "../state/frameName";
import { seen, type Camera } from "../../../core/panorama/camera";
import type { Part } from "../../../core/panorama/seams/masks";
import { directionAt } from "../../../core/panorama/canvas/projection";
import type { Layout } from "../../../pipeline/panorama/layout";
import { Button } from "../../ui/Button";
import type { Area } from "../picture/area";

/** A stroke is kept in steps of so much of its brush's radius. */
const STEP = 0.3;

/**
 * What was drawn on the picture, in shares of it, as it lies in a frame, in shares of the frame;
 * undefined if that frame does not show the place.
 */
export function partIn(
  camera: Camera,
  { canvas }: Layout,
  { shape, points, radius }: Area,
): Part | undefined {
  const placeOf = (x: number, y: number): [number, number] | undefined => {
    const d = directionAt(canvas, x * canvas.width, y * canvas.height);
    const p = d && seen(camera, d);
    return p && [p[0] / camera.width, p[1] / camera.height];
  };
  const near = ([x, y]: readonly [number, number]): boolean =>
    Math.abs(x - 0.5) < 1.4 && Math.abs(y - 0.5) < 1.4;
  const inside = ([x, y]: readonly [number, number]): boolean => x > 0 && x < 1 && y > 0 && y < 1;
  const drawn = points.flatMap(([x, y]) => {
    const own = placeOf(x, y);
    return own && near(own) ? [{ x, y, own }] : [];
  });
  if (shape === "outline")
    return drawn.length > 2 && drawn.some((p) => inside(p.own))
      ? { shape, points: drawn.map((p) => p.own), radius: 0 }
      : undefined;
  // as large as the brush is there, taken to the side where the frame still shows it
  const away = (a: readonly [number, number], b: readonly [number, number]): number =>
    Math.hypot(a[0] - b[0], ((a[1] - b[1]) * camera.height) / camera.width);
  const sizes = drawn.flatMap(({ x, y, own }) => {
    const side = placeOf(x + radius, y) ?? placeOf(x - radius, y);
    return side ? [away(own, side)] : [];
  });
  const own = sizes.reduce((s, v) => s + v, 0) / Math.max(1, sizes.length);
  if (
    !sizes.length ||
    !drawn.some(({ own: [x, y] }) => x > -own && x < 1 + own && y > -own && y < 1 + own)
  )
    return undefined;
  const kept = drawn
    .map((p) => p.own)
    .filter(
      (_, i, all) =>
        i === 0 || i === all.length - 1 || i % Math.max(1, Math.ceil(all.length / 2000)) === 0,
    );
  return {
    shape,
    radius: Math.min(1, own),
    points: kept.reduce<[number, number][]>(
      (line, p, i) =>
        i && i < kept.length - 1 && away(line.at(-1)!, p) < STEP * own ? line : [...line, p],
      [],
    ),
  };
}

interface Props {
  layout: Layout;
  area: Area;
  frames: readonly { id: string; name: string }[];
  onHide: (masks: (Part & { frame: string })[], label: string) => void;
  onHover: (i: number | undefined) => void;
}

/** Which of the frames that show a place are hidden there, or which one alone is shown. */
export function MaskChoice({ layout, area, frames, onHide, onHover }: Props) {
  const there = frames.flatMap((f, i) => {
    const c = layout.cameras[i];
    const own = c && partIn(c, layout, area);
    return own ? [{ ...f, i, own }] : [];
  });
  return (
    <>
      {there.length === 0 && <p className="text-quiet">No frame shows this place.</p>}
      {there.length === 1 && (
        <p className="mb-2 text-quiet">
          Only one frame shows this place: hidden in it, the place is empty.
        </p>
      )}
      <ul className="flex flex-col gap-1">
        {there.map((f) => (
          <li
            key={f.id}
            className="flex items-center gap-1"
            onMouseEnter={() => onHover(f.i)}
            onMouseLeave={() => onHover(undefined)}
          >
            <span className="min-w-0 grow truncate">{frameName(f.name)}</span>
            {there.length > 1 && (
              <Button
                className="px-2"
                aria-label={`Only ${f.name}`}
                onClick={() =>
                  onHide(
                    there.filter((o) => o !== f).map((o) => ({ ...o.own, frame: o.id })),
                    `Only ${f.name} here`,
                  )
                }
                hint="Hides this area in all other frames"
              >
                Only this
              </Button>
            )}
            <Button
              variant="plain"
              className="px-2"
              aria-label={`Hide in ${f.name}`}
              onClick={() => onHide([{ ...f.own, frame: f.id }], `Hide in ${f.name}`)}
              hint="The seam goes around it"
            >
              Hide
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
