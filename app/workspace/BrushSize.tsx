import { NumberSlider } from "../ui/NumberSlider";
import { useSession, useView, useWorkspace } from "./state/workspace";

/** Width of what one paints or marks with. */
export function BrushSize({
  label = "Brush",
  most = 0.15,
  step = 0.002,
  reset = 0.03,
  of = "brush",
}: {
  label?: string;
  /** all in shares of the picture's width */
  most?: number;
  step?: number;
  reset?: number;
  /** what one paints with, or what one repairs with */
  of?: "brush" | "repairBrush";
}) {
  const { view } = useWorkspace();
  const size = useSession((s) => s.size);
  const brush = useView((v) => v[of]);
  const change = (radius: number): void => view.setState({ [of]: radius });
  return (
    <NumberSlider
      label={label}
      hint="Its width."
      unit="px"
      min={Math.min(0.004, reset / 4)}
      max={most}
      step={step}
      reset={reset}
      value={brush}
      shown={(v) => String(Math.round(2 * v * size.width))}
      parse={(n) => n / 2 / size.width}
      onChange={change}
      onCommit={change}
    />
  );
}
