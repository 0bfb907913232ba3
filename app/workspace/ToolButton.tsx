import { Button } from "../ui/Button";
import { toggleTool } from "./actions/look";
import { useView, useWorkspace } from "./state/workspace";
import type { ToolName } from "./tools/tool";

/** Takes a tool up, or puts it away. */
export function ToolButton({
  tool,
  text,
  hint,
  label,
  isCell = false,
}: {
  tool: ToolName;
  text: string;
  hint: string;
  /** where the text alone would not tell which one it is */
  label?: string;
  /** it is as wide as its cell */
  isCell?: boolean;
}) {
  const workspace = useWorkspace();
  const isInHand = useView((view) => view.tool === tool);
  return (
    <Button
      className={isCell ? "justify-center px-1" : "px-2"}
      variant={isInHand ? "accent" : "raised"}
      aria-pressed={isInHand}
      {...(label ? { "aria-label": label } : {})}
      onClick={() => toggleTool(workspace, tool)}
      hint={hint}
    >
      {text}
    </Button>
  );
}
