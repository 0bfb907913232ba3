import { seen, type Camera } from "../../core/panorama/camera";
import type { Outline } from "../../core/panorama/masks";
import { directionAt } from "../../core/panorama/projection";
import type { Placing } from "../../core/steps/panorama/placing";
import { Button } from "../ui/Button";

/** What a closed line on the picture (in shares of it) goes round in a frame, in shares of the frame; undefined if that frame does not show the place. */
export function outlineIn(camera: Camera, { canvas }: Placing, points: Outline): Outline | undefined {
  const places = points.map(([x, y]) => { const d = directionAt(canvas, x * canvas.width, y * canvas.height), p = d && seen(camera, d); return p && ([p[0] / camera.width, p[1] / camera.height] as [number, number]); });
  const known = places.filter((p): p is [number, number] => p !== undefined && Math.abs(p[0] - 0.5) < 1.4 && Math.abs(p[1] - 0.5) < 1.4);
  return known.length > 2 && known.some(([x, y]) => x > 0 && x < 1 && y > 0 && y < 1) ? known : undefined;
}

interface Props { placing: Placing; points: Outline; frames: readonly { id: string; name: string }[]; onHide: (masks: { frame: string; points: Outline }[], label: string) => void; onCancel: () => void; onHover: (i: number | undefined) => void }

/** Which of the frames that show a place shall not, or which alone shall. */
export function MaskChoice({ placing, points, frames, onHide, onCancel, onHover }: Props) {
  const there = frames.flatMap((f, i) => { const c = placing.cameras[i], own = c && outlineIn(c, placing, points); return own ? [{ ...f, i, own }] : []; });
  return (
    <section aria-label="Which frame shall show it">
      <div className="mb-2 flex items-center gap-2"><h2 className="grow font-semibold">Which frame shall show it</h2><Button look="plain" className="px-2" onClick={onCancel}>Cancel</Button></div>
      {there.length === 0 ? <p className="text-quiet">No frame shows this place.</p> : there.length === 1 ? <p className="mb-2 text-quiet">Only one frame shows this place: hidden in it, the place is empty.</p> : null}
      <ul className="flex flex-col gap-1">
        {there.map((f) => (
          <li key={f.id} className="flex items-center gap-1" onMouseEnter={() => onHover(f.i)} onMouseLeave={() => onHover(undefined)}>
            <span className="min-w-0 grow truncate">{f.name.replace(/\.[^.]+$/, "")}</span>
            {there.length > 1 && <Button className="px-2" aria-label={`Only ${f.name}`} onClick={() => onHide(there.filter((o) => o !== f).map((o) => ({ frame: o.id, points: o.own })), `Only ${f.name} here`)} hint="Hides the place in all other frames">Only this</Button>}
            <Button look="plain" className="px-2" aria-label={`Hide in ${f.name}`} onClick={() => onHide([{ frame: f.id, points: f.own }], `Hide in ${f.name}`)} hint="The seam goes round it">Hide</Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
