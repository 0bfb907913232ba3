import { NumberSlider } from "../ui/NumberSlider";
import { useView, useWorkspace } from "./state/workspace";

/** A brush's width is shown as if the picture were so many px wide. */
const SHOWN_WIDTH = 2000;

/** Width of what one paints or marks with. */
export function BrushSize({
  label = "Brush",
  most = 0.15,
  step = 0.002,
  reset = 0.03,
}: {
  label?: string;
  /** all in shares of the picture's width */
  most?: number;
  step?: number;
  reset?: number;
}) {
  const { view } = useWorkspace();
  const brush = useView((v) => v.brush);
  const change = (radius: number): void => view.setState({ brush: radius });
  return (
    <NumberSlider
      label={label}
      hint="Its width."
      unit="px"
      min={0.004}
      max={most}
      step={step}
      reset={reset}
      value={brush}
      shown={(radius) => String(Math.round(radius * SHOWN_WIDTH))}
      parse={(px) => px / SHOWN_WIDTH}
      onChange={change}
      onCommit={change}
    />
  );
}
