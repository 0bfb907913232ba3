import { Heap } from "../kernels/heap";
import { alignStack } from "../core/align/alignStack";
import { decode, SPACES } from "../core/colour/spaces";
import { simulateBracket } from "../core/simulate/bracket";
import { MOVING } from "../core/simulate/moving";
import { simulatedRoom } from "../core/simulate/room";
import { invert, multiply, project } from "../core/raster/matrix3";
const LUT = Float32Array.from({ length: 768 }, (_, i) => decode(SPACES.srgb.curve, (i % 256) / 255));
const cases = [["glittering water",12,3,0],["glittering water",77,3,0],["a swaying curtain",77,5,0],["a swaying curtain",12,9,0.1],["drifting cloud",12,3,0],["drifting cloud",12,5,0.25],["drifting cloud",77,9,0.1],["a walking figure",12,9,0.1],["rolling leaves",77,9,0.1]] as const;
for (const [what, seed, count, hand] of cases) {
  const scene = simulatedRoom(1040, 700, seed), w = 960, h = 640, evs = Array.from({ length: count }, (_, i) => (i - (count >> 1)) * (count === 9 ? 1 : 2)), reference = count >> 1;
  const frames = evs.map((_, i) => { const own = hand > 0 && i !== reference; return simulateBracket(scene, { width: w, height: h, evs: [evs[i]!], baseEv: 0, hand: own ? hand : 0, seed: seed + 40 + i, reference: own ? -1 : 0, shot: { moving: MOVING[what]!(i) } }).frames[0]!; });
  const heap = Heap.local(w * h * (4 * 18 + 3 * count)), held = frames.map((f) => ({ ptr: heap.putBytes(f.samples as Uint8Array), type: "u8" as const, width: w, height: h, lut: LUT }));
  const found = alignStack(heap, held, evs, { motion: "auto", reference, deghost: true, strength: 0.5, forced: [], scale: 1 });
  const errs = found.map((f, i) => { const T = multiply(invert(frames[i]!.toScene), frames[reference]!.toScene); let s = 0, n = 0; for (let y = 20; y < h; y += 60) for (let x = 20; x < w; x += 60) { const [a, b] = project(T, x, y), [c, d] = project(f.fromReference, x, y); s += (a - c) ** 2 + (b - d) ** 2; n++; } return Math.sqrt(s / n).toFixed(2); });
  // share of touched cells that are marked, and of untouched ones
  const cover = found.map((f, i) => { if (i === reference) return "-"; let hit = 0, t = 0, fals = 0, u = 0; for (let y = 30; y < h - 30; y += 2) for (let x = 30; x < w - 30; x += 2) { const at = (k: number) => { const rgb: [number, number, number] = [0.1, 0.1, 0.1]; MOVING[what]!(k)(x + 41, y + 31, rgb); return rgb; }; const a = at(i), b = at(reference), moved = Math.abs(a[0] - b[0]) > 0.05 * b[0]; const v = f.ghosts ? f.ghosts.votes[(y >> 1) * f.ghosts.width + (x >> 1)]! : 255; if (moved) { t++; if (v < 128) hit++; } else { u++; if (v < 128) fals++; } } return `${(hit / t).toFixed(2)}/${(fals / u).toFixed(3)}`; });
  console.log(what, seed, count, hand, "err px", errs.join(" "), "marked", cover.join(" "), found.map((f) => (f.used ? "" : "x")).join(""));
}
