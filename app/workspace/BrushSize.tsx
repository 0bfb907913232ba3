import { NumberSlider } from "../ui/NumberSlider";
import { pixelWidth } from "./pixelWidth";
import { useView, useWorkspace } from "./state/workspace";

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
      {...pixelWidth}
      onChange={change}
      onCommit={change}
    />
  );
}
