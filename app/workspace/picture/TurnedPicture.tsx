import { useLayoutEffect, useRef } from "react";
import { invert, isIdentity, multiply } from "../../../core/math/matrix3";
import { placeWith, shownPlace } from "../actions/straighten";
import { useRecipe, useSession, useView, useWorkspace } from "../state/workspace";
import { zoomOf, type Size, type Viewport } from "./viewport";

/** Places nearer than this to where they were, px, are where they were. */
const STILL_PX = 0.02;

/** The picture's px as they lie on screen. */
function onScreen(viewport: Viewport, picture: Size, box: Size): number[] {
  const zoom = zoomOf(viewport, picture, box);
  return [
    zoom,
    0,
    box.width / 2 - viewport.cx * zoom,
    0,
    zoom,
    box.height / 2 - viewport.cy * zoom,
    0,
    0,
    1,
  ];
}

const cssMatrix = ([a, b, c, d, e, f, g, h, i]: readonly number[]): string =>
  `matrix3d(${[a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, i].join(",")})`;

/**
 * How the picture that is shown has to be turned on screen to be as it will be once it is merged so;
 * undefined where it is so already, or where that is not known yet.
 */
export function useTurnedOnScreen(): string | undefined {
  const workspace = useWorkspace();
  const recipe = useRecipe();
  const size = useSession((s) => s.size);
  // what is shown lies so
  useSession((s) => s.aligned);
  const { turning, viewport, box } = useView((view) => view);
  if (recipe.kind === "panorama") return undefined;
  const wanted = placeWith(workspace, { ...recipe.edges, ...turning });
  const shown = shownPlace(workspace);
  if (!wanted) return undefined;
  const move = multiply(invert(wanted), shown);
  if (isIdentity(move.map(settled))) return undefined;
  const screen = onScreen(viewport, size, box);
  return cssMatrix(multiply(screen, multiply(move, invert(screen))));
}

const settled = (v: number): number => {
  const whole = Math.round(v);
  return Math.abs(v - whole) < STILL_PX * 1e-4 ? whole : v;
};

/**
 * A copy of the picture that is turned on screen while the turned one is not merged yet. The picture
 * itself stays where it is, and takes the pointer.
 */
export function TurnedPicture({
  of,
  turn,
}: {
  of: React.RefObject<HTMLCanvasElement | null>;
  turn: string;
}) {
  const copy = useRef<HTMLCanvasElement>(null);
  const { box } = useView((view) => view);
  useLayoutEffect(() => {
    const from = of.current;
    const to = copy.current;
    if (!from?.width || !to) return;
    to.width = from.width;
    to.height = from.height;
    to.getContext("2d")!.drawImage(from, 0, 0);
  }, [of, box]);
  return (
    <canvas
      ref={copy}
      aria-hidden
      className="pointer-events-none absolute inset-0 origin-top-left"
      style={{ transform: turn }}
    />
  );
}
