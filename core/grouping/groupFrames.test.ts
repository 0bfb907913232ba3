import type { FrameInfo } from "../frame/frame";
import { groupFrames } from "./groupFrames";

let n = 0;
const frame = (takenAt: number | undefined, exposureTime: number, more: Partial<FrameInfo["exif"]> = {}): FrameInfo => ({ name: `A_${String(n++).padStart(4, "0")}.jpg`, format: "jpeg", width: 60, height: 40, depth: 8, profile: "sRGB", exif: { exposureTime, aperture: 8, iso: 100, focalLength: 20, camera: "C", ...(takenAt === undefined ? {} : { takenAt }), ...more } });
const set = (t: number, times: number[]): FrameInfo[] => times.map((e, i) => frame(t + i * 0.4, e));

test("brackets of any order and count, back to back, and a single", () => {
  const frames = [...set(0, [1 / 60, 1 / 250, 1 / 15]), ...set(1.4, [1 / 60, 1 / 250, 1 / 15]), frame(60, 1 / 60), ...set(120, [1 / 500, 1 / 125, 1 / 30, 1 / 8, 1 / 2])];
  const found = groupFrames(frames);
  expect(found.map((s) => [s.kind, s.frames.length])).toEqual([["bracket", 3], ["bracket", 3], ["single", 1], ["bracket", 5]]);
  expect(found.flatMap((s) => s.frames).sort((a, b) => a - b)).toEqual(frames.map((_, i) => i));
});

test("files in any order give the same stacks", () => {
  const frames = [...set(0, [1 / 60, 1 / 250, 1 / 15]), ...set(30, [1 / 60, 1 / 250, 1 / 15])];
  const names = (f: FrameInfo[]) => groupFrames(f).map((s) => s.frames.map((i) => f[i]!.name));
  expect(names([...frames].reverse())).toEqual(names(frames));
});

test("nominal shutter speeds are steps of whole stops", () => {
  expect(groupFrames(set(0, [1 / 15, 1 / 60, 1 / 4, 1 / 250, 1]))[0]!.why).toBe("5 exposures, \u22124 to +4 EV, within 1.6 s");
});

test("a long exposure may be followed by its dark frame's pause", () => {
  expect(groupFrames([frame(0, 1 / 4), frame(1, 2), frame(7, 8), frame(30, 1 / 2)]).map((s) => s.frames.length)).toEqual([3, 1]);
});

test("an hour's jump of the clock and the count beginning again after 9999 part nothing; a wait of a minute does not either", () => {
  const at = (name: string, t: number, e: number): FrameInfo => ({ ...frame(t, e), name });
  const frames = [at("A_9998.jpg", 100, 1 / 60), at("A_9999.jpg", 100.5, 1 / 250), at("A_0001.jpg", 101, 1 / 15), at("A_0002.jpg", 101 - 3600, 1 / 60), at("A_0003.jpg", 101.5 - 3600, 1 / 250), at("A_0004.jpg", 160 - 3600, 1 / 15)];
  expect(groupFrames([...frames].reverse()).map((s) => s.frames.length)).toEqual([3, 3]);
  expect(groupFrames(frames, [], 20).map((s) => s.frames.length)).toEqual([3, 2, 1]);
});

test("a missing exposure is named", () => {
  expect(groupFrames(set(0, [1 / 1000, 1 / 250, 1 / 15, 1 / 4]))[0]!.warnings[0]!.code).toBe("exposure-missing");
});

test("a changed aperture is named; another camera or lens ends a set; without times two frames are no bracket", () => {
  expect(groupFrames([frame(0, 1 / 60), frame(0.5, 1 / 250, { aperture: 5.6 }), frame(1, 1 / 15)])[0]!.warnings.map((w) => w.code)).toContain("aperture-varies");
  expect(groupFrames([frame(0, 1 / 60), frame(0.5, 1 / 250, { focalLength: 35 })])).toHaveLength(2);
  expect(groupFrames([frame(0, 1 / 60), frame(0.5, 1 / 250, { camera: "D" })])).toHaveLength(2);
  expect(groupFrames([frame(undefined, 1 / 60), frame(undefined, 1 / 250)])).toHaveLength(2);
  expect(groupFrames([])).toEqual([]);
});
