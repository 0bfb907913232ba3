import { useEffect, useMemo } from "react";
import { useShownFrame } from "../state/shownFrame";
import { useSession, useView, useWorkspace } from "../state/workspace";
import type { Tool, ToolName } from "./tool";
import { TOOLS } from "./tools";

/** The tool that is in hand, if any: the one taken up, or else the one that an open step has. */
export function useToolName(): ToolName | undefined {
  const tool = useView((view) => view.tool);
  const isOpen = useView((view) => view.open === "edges");
  const isReady = useSession((s) => s.phase === "ready");
  const frame = useShownFrame();
  const crops = isOpen && isReady && frame === undefined;
  return tool ?? (crops ? "crop" : undefined);
}

/** Takes up and puts away the tools that are asked for. */
export function useTool(): Tool | undefined {
  const workspace = useWorkspace();
  const name = useToolName();
  const tool = useMemo(() => name && TOOLS[name](workspace), [workspace, name]);
  useEffect(() => {
    tool?.enter?.();
    return () => tool?.leave?.();
  }, [tool]);
  return tool;
}
