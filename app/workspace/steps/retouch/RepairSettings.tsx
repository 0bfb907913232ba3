import type { KeptRepair } from "../../../../pipeline/retouch/repairSchema";
import { Button } from "../../../ui/Button";
import { NumberSlider } from "../../../ui/NumberSlider";
import { sourceShown, withRepair } from "../../actions/repairs";
import { useRecipe, useSession, useWorkspace } from "../../state/workspace";

const percent = {
  unit: "%",
  shown: (v: number) => String(Math.round(v * 100)),
  parse: (n: number) => n / 100,
};

/** The settings of the repair that is shown. */
export function RepairSettings({ repair, index }: { repair: KeptRepair; index: number }) {
  const workspace = useWorkspace();
  const { edit } = workspace;
  const recipe = useRecipe();
  const size = useSession((s) => s.size);
  const isMade = useSession((s) => (s.repairSources?.length ?? 0) > index);
  const long = Math.max(size.width, size.height);
  const { kind, shape, source, softness } = repair;
  const taken = sourceShown(workspace, index);
  const set = (more: Partial<KeptRepair>): Parameters<typeof edit.show>[0] =>
    withRepair(recipe, index, more);
  const free = (): void => {
    const { source: _source, ...rest } = repair;
    const repairs = recipe.retouch.repairs.map((other, i) => (i === index ? rest : other));
    edit.keep({ ...recipe, retouch: { ...recipe.retouch, repairs } }, "Find a source anew");
  };
  return (
    <div className="mt-1">
      {shape.type !== "outline" && (
        <NumberSlider
          label="Width"
          hint="Of the spot or stroke."
          unit="px"
          shown={(v) => String(Math.round(2 * v * long))}
          parse={(n) => n / 2 / long}
          min={0.0005}
          max={0.08}
          step={0.0005}
          reset={shape.radius}
          value={shape.radius}
          onChange={(radius) => edit.show(set({ shape: { ...shape, radius } }))}
          onCommit={(radius) =>
            edit.keep(set({ shape: { ...shape, radius } }), "Width of a repair")
          }
        />
      )}
      {kind === "clone" && (
        <NumberSlider
          label="Softness"
          hint="How much of it fades at its border."
          {...percent}
          min={0}
          max={1}
          step={0.05}
          reset={0.3}
          value={softness}
          onChange={(value) => edit.show(set({ softness: value }))}
          onCommit={(value) => edit.keep(set({ softness: value }), "Softness of a repair")}
        />
      )}
      <div className="flex min-h-7 items-center gap-2 pl-2.5 text-[12px] text-quiet">
        <span className="grow" aria-live="polite">
          {isMade ? sourceSaid(kind, source !== undefined, taken, size) : "Working\u2026"}
        </span>
        {source && (
          <Button
            variant="plain"
            className="h-6 px-2"
            hint="Lets the best place be found again"
            onClick={free}
          >
            Find it
          </Button>
        )}
      </div>
    </div>
  );
}

/** Where a repair takes from, in words. */
function sourceSaid(
  kind: KeptRepair["kind"],
  isChosen: boolean,
  taken: { dx: number; dy: number } | undefined,
  { width, height }: { width: number; height: number },
): string {
  if (!taken) return kind === "fill" ? "From what lies round it" : "Made up of patches";
  const away = Math.round(Math.hypot(taken.dx * width, taken.dy * height));
  return `From ${away}\u00a0px away, ${isChosen ? "chosen" : "found"}`;
}
