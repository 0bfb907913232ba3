import type { Workspace } from "../state/workspace";
import { areaTool } from "./areaTools";
import { cropTool } from "./cropTool";
import { dustTool } from "./dustTool";
import { facadeTool } from "./facadeTool";
import { guideTool } from "./guideTool";
import { lightTool } from "./lightTool";
import { hueTool } from "./hueTool";
import { partTool, pickPartTool } from "./partTools";
import { vignetteTool } from "./vignetteTool";
import { repairTool } from "./repairTools";
import { pickTool } from "./pickTool";
import type { Tool, ToolName } from "./tool";
import { turnTool } from "./turnTool";

/** Every tool: a new one is a file and a line here. */
export const TOOLS: Readonly<Record<ToolName, (workspace: Workspace) => Tool>> = {
  outline: areaTool("outline"),
  brush: areaTool("brush"),
  level: guideTool("level"),
  vertical: guideTool("vertical"),
  straight: guideTool("straight"),
  facade: facadeTool,
  turn: turnTool("turn"),
  roll: turnTool("roll"),
  dust: dustTool,
  "light outline": lightTool("outline"),
  "light brush": lightTool("brush"),
  "light gradient": lightTool("gradient"),
  pick: pickTool,
  crop: cropTool,
  "repair brush": repairTool("brush"),
  "repair outline": repairTool("outline"),
  "part outline": partTool("outline"),
  "part brush": partTool("brush"),
  "part gradient": partTool("gradient"),
  "part ellipse": partTool("ellipse"),
  "part tones": pickPartTool("tones"),
  "part colours": pickPartTool("colours"),
  "part sample": pickPartTool("sample"),
  vignette: vignetteTool,
  hue: hueTool,
};
