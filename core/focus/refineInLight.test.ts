import { Heap } from "../../kernels/heap";
import { logPyramid, type LogPyramid } from "../align/logPyramid";
import { registerPair } from "../align/registerPair";
import { TEMPLATE_BYTES, templateOf } from "../align/template";
import { decode, SPACES } from "../colour/spaces";
import { simulateFocusRun } from "../../simulate/focusRun";
import { offPose } from "../../simulate/scoreFocus";
import { plainGround } from "../../simulate/plainGround";
import { refineInLight } from "./refineInLight";

const W = 480;
const H = 320;
const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);

test("neighbours of a run that breathes lie on each other to a small part of a px by their light, where logarithms see them grow too much", () => {
  const run = simulateFocusRun(plainGround(W, H, 6), {
    width: W,
    height: H,
    count: 7,
    blur: W / 60,
    breathing: 0.03,
    shift: 6,
    roll: 0.6,
    flicker: 0.1,
    seed: 6,
  });
  const heap = Heap.local(60e6 + 3 * TEMPLATE_BYTES);
  const off: [number, number][] = [];
  for (let k = 0; k + 1 < run.frames.length; k++) {
    const mark = heap.mark();
    const [a, b] = [run.frames[k]!, run.frames[k + 1]!];
    const loaded = [a, b].map(({ samples }): LogPyramid =>
      logPyramid(
        heap,
        { ptr: heap.putBytes(samples), type: "u8", width: W, height: H, lut: LUT },
        0,
      ),
    ) as [LogPyramid, LogPyramid];
    const light = [a, b].map(
      ({ samples }) => samples.reduce((s, v) => s + LUT[v]!, 0) / samples.length,
    ) as [number, number];
    const found = registerPair(heap, templateOf(heap, loaded[0]), loaded[1], "similarity");
    const refined = refineInLight(heap, ...loaded, "similarity", found.transform, light);
    off.push([
      offPose(run, found.transform, b.pose, a.pose),
      offPose(run, refined, b.pose, a.pose),
    ]);
    heap.release(mark);
  }
  const [logs, lights] = [0, 1].map((c) => off.reduce((s, o) => s + o[c]!, 0) / off.length) as [
    number,
    number,
  ];
  process.stdout.write(
    `neighbours of a focus run before a plain ground: off by ${logs.toFixed(3)} px by logarithms, ${lights.toFixed(3)} by light\n`,
  );
  expect(lights).toBeLessThan(0.05);
  expect(lights).toBeLessThan(0.6 * logs);
});

test("frames that are taken as they lie stay so", () => {
  const found = [1, 0, 3, 0, 1, 0, 0, 0, 1];
  expect(
    refineInLight(Heap.local(1e6), { levels: [] }, { levels: [] }, "none", found, [1, 1]),
  ).toEqual(found);
});
