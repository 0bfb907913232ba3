// Automatic upright on simulated rooms and houses: cameras tilted up to 12 degrees and rolled up to
// 5, frames in 8 bit with noise. How far the vertical that is found is off.
//   node build/node/benchUpright.js [scenes of each]
import { decode, SPACES } from "../core/colour/spaces";
import { straightEdges } from "../core/panorama/level/findLevel";
import { makeSmallFrame } from "../core/panorama/seams/smallFrame";
import { random } from "../core/math/random";
import { findUpright, UPRIGHT_EDGE } from "../core/straighten/findUpright";
import { Heap } from "../kernels/heap";
import { photographBuilding } from "../simulate/building";

const WIDTH = 1200;
const HEIGHT = 800;
const LENSES_MM = [16, 20, 24, 35];
const count = Number(process.argv[2] ?? 20);
const lut = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i & 255) / 255),
);

interface Row {
  pitch: number;
  roll: number;
  found?: ReturnType<typeof findUpright>;
  seconds: number;
}

function measure(kind: "room" | "house", seed: number): Row {
  const uniform = random(1000 + seed);
  const isRoom = kind === "room";
  const mm = LENSES_MM[seed % LENSES_MM.length]! * (isRoom ? 1 : 1.3);
  const pitch = isRoom ? (uniform() - 0.5) * 24 : uniform() * 12;
  const roll = (uniform() - 0.5) * 10;
  const yaw = (uniform() - 0.5) * (isRoom ? 60 : 40);
  const focalPx = (mm / 36) * WIDTH;
  const lens = { width: WIDTH, height: HEIGHT, focalPx };
  const samples = photographBuilding(kind, seed, lens, { yaw, pitch, roll });
  const heap = Heap.local(64 << 20);
  const ptr = heap.alloc(samples.length);
  heap.u8(ptr, samples.length).set(samples);
  const begun = performance.now();
  const small = makeSmallFrame(
    heap,
    { ptr, type: "u8", width: WIDTH, height: HEIGHT, lut },
    1,
    UPRIGHT_EDGE,
  );
  const found = findUpright(straightEdges(small), lens);
  return { pitch, roll, found, seconds: (performance.now() - begun) / 1000 };
}

for (const kind of ["room", "house"] as const) {
  const errors: number[] = [];
  let seconds = 0;
  for (let seed = 1; seed <= count; seed++) {
    const row = measure(kind, seed);
    seconds += row.seconds;
    if (!row.found) {
      console.log(`${kind} ${seed}: not known`);
      continue;
    }
    const { pitch, roll, pitchSigma, rollSigma, edges } = row.found;
    const error = Math.max(Math.abs(pitch - row.pitch), Math.abs(roll - row.roll));
    errors.push(error);
    console.log(
      `${kind} ${seed}: pitch ${row.pitch.toFixed(2)} found ${pitch.toFixed(2)} ± ${pitchSigma.toFixed(2)}, roll ${row.roll.toFixed(2)} found ${roll.toFixed(2)} ± ${rollSigma.toFixed(2)}, ${edges} edges${error > 0.2 ? "  <-- " + error.toFixed(2) : ""}`,
    );
  }
  errors.sort((a, b) => a - b);
  console.log(
    `${kind}: ${errors.length} of ${count} known, ${errors.filter((e) => e <= 0.2).length} within 0.2 degrees, median ${errors[errors.length >> 1]?.toFixed(3)}, worst ${errors.at(-1)?.toFixed(3)}, ${((1000 * seconds) / count).toFixed(0)} ms each`,
  );
}
