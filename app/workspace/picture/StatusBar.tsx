import { useStore } from "zustand";
import { chosenProof, toggleProof } from "../../softProof/chosenProof";
import { luminance } from "../../../core/colour/luminance";
import { relativeEvs } from "../../board/exposures";
import { Button } from "../../ui/Button";
import { signed } from "../../ui/format";
import { zoomTo } from "../actions/look";
import { frameName } from "../state/frameName";
import { useShownFrame } from "../state/shownFrame";
import {
  useReading,
  useRecipe,
  useRecord,
  useSession,
  useView,
  useWorkspace,
} from "../state/workspace";
import { zoomOf } from "./viewport";

/** The darkest light whose EV is said. */
const DARKEST = 1e-6;
/** Zooms to choose; the last only where there is room. */
const ZOOMS = [
  ["fit", "Fit"],
  [1, "100 %"],
  [2, "200 %"],
] as const;

/** One line below the picture: zoom, what is read under the pointer, and how the picture is seen. */
export function StatusBar({ hasSheet }: { hasSheet: boolean }) {
  const workspace = useWorkspace();
  const { view } = workspace;
  const { kind } = useRecipe();
  const size = useSession((s) => s.size);
  const { viewport, box, held, wipe, clipped, evidence } = useView((v) => v);
  const zoom = zoomOf(viewport, size, box);
  const isOnPaper = useStore(chosenProof, ({ isOn }) => isOn);
  return (
    <div className="flex h-9 shrink-0 items-center gap-1 overflow-hidden border-t border-line bg-panel px-3 lg:gap-3 pointer-coarse:h-12">
      <span data-testid="zoom" className="w-12 shrink-0">
        {Math.round(zoom * 100)} %
      </span>
      <ReadingText />
      {ZOOMS.map(([to, text]) => (
        <Button
          key={text}
          variant="plain"
          className={to === 2 ? "px-2 max-lg:hidden" : "px-2"}
          aria-pressed={to === "fit" || viewport.zoom !== "fit" ? viewport.zoom === to : false}
          onClick={() => zoomTo(workspace, to)}
        >
          {text}
        </Button>
      ))}
      {kind !== "panorama" && (
        <>
          <Toggle
            on={held}
            text="Before"
            hint="Shows the frame while held (B)"
            onDown={() => view.setState({ held: true })}
            onUp={() => view.setState({ held: false })}
          />
          <Toggle
            on={wipe}
            text="Wipe"
            hint="Frame left, merge right (W)"
            onClick={() => view.setState({ wipe: !wipe })}
          />
        </>
      )}
      <Toggle
        on={clipped}
        text="Clipped"
        hint="Stripes where white is lost, dots where black is (C)"
        onClick={() => view.setState({ clipped: !clipped })}
      />
      {isOnPaper && (
        <Toggle
          on
          text="On paper"
          hint="Seen as on the paper chosen under Deliver (Shift C)"
          onClick={toggleProof}
        />
      )}
      {hasSheet && (
        <Toggle
          on={evidence}
          text="Evidence"
          hint="Measurements, maps and suspects over the picture (I)"
          onClick={() => view.setState({ evidence: !evidence })}
        />
      )}
    </div>
  );
}

/** Of the frame that is shown, the place under the pointer, or the size that is shown. */
function ReadingText() {
  const { frames } = useRecord();
  const shown = useShownFrame();
  const wipe = useView((v) => v.wipe);
  const { at, rgb, frame } = useReading();
  const fullShare = useSession((s) => s.fullShare);
  const shownBy = useSession((s) => s.shownBy);
  const text = (): string => {
    if (shown !== undefined) {
      const ev = relativeEvs(frames)[shown];
      const exposure = ev === undefined ? "" : `, ${signed(ev)} EV`;
      return `${wipe ? "Left: " : ""}${frames[shown]?.info.name}${exposure}, as taken`;
    }
    if (at) {
      const light = rgb && luminance(rgb[0]!, rgb[1]!, rgb[2]!);
      const ev = light ? `, ${signed(Math.log2(Math.max(DARKEST, light)))} EV` : "";
      const sharpest =
        frame === undefined ? "" : `, sharpest in ${frameName(frames[frame]?.info.name ?? "")}`;
      return `${Math.floor(at.x)}, ${Math.floor(at.y)} px${ev}${sharpest}`;
    }
    if (fullShare !== undefined) return `Full size, ${Math.round(fullShare * 100)} %`;
    if (shownBy !== undefined && shownBy > 1)
      return `Shown at 1/${shownBy} of its size; files are as large as they are`;
    return "";
  };
  return <span className="min-w-0 grow truncate text-quiet">{text()}</span>;
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
