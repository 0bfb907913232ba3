import { join } from "node:path";
import { run } from "../tests/cli/calls";

test("group finds the brackets, the sweeps, the focus runs and the sphere of the demo, and the one step that was left out", async () => {
  const { out } = await run("group", join(process.cwd(), "demo/frames"), "--json");
  const stacks = JSON.parse(out) as {
    kind: string;
    frames: string[];
    warnings: { code: string; message: string }[];
  }[];
  expect(stacks.map((s) => s.warnings.map((w) => w.code))).toEqual([
    [],
    [],
    [],
    [],
    [],
    [],
    ["focus-gap"],
    [],
    [],
    [],
    [],
  ]);
  expect(stacks.map((s) => [s.kind, s.frames.length])).toEqual([
    ["bracket", 5],
    ["bracket", 7],
    ["bracket", 5],
    ["bracket", 3],
    ["panorama", 7],
    ["focus", 24],
    ["focus", 18],
    ["panorama", 27],
    ["panorama", 15],
    ["focus", 36],
    ["panorama", 12],
  ]);
});
