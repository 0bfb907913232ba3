// Holds the core against simulated truth and prints the tables: node build/node/benchAccuracy.js [deghosting]
import { MOVING } from "../core/simulate/moving";
import { simulatedRoom } from "../core/simulate/room";
import { scoreDeghosting } from "../core/simulate/scoreDeghosting";

const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): void => { process.stdout.write(`\n| ${head.join(" | ")} |\n|${head.map(() => "---").join("|")}|\n${rows.map((r) => `| ${r.join(" | ")} |`).join("\n")}\n`); };
const sets: Record<string, () => void> = {
  deghosting() {
    const rows = [12, 77].flatMap((seed) => { const scene = simulatedRoom(1040, 700, seed); return Object.entries(MOVING).flatMap(([what, moving]) => [[3, 0], [5, 0], [5, 0.25], [9, 0.1]].map(([count, hand]) => {
      const evs = Array.from({ length: count! }, (_, i) => (i - (count! >> 1)) * (count === 9 ? 1 : 2)), s = scoreDeghosting(scene, evs, moving, hand!, seed + 40);
      return [what, seed, count!, hand ? "yes" : "no", s.untreatedDb.toFixed(1), s.withinDb.toFixed(1), (s.stillDb - s.elsewhereDb).toFixed(2)];
    })); });
    table(["what moves", "scene", "frames", "hand-held", "untreated dB", "deghosted dB", "lost elsewhere dB"], rows);
  },
};
for (const name of process.argv[2] ? [process.argv[2]] : Object.keys(sets)) sets[name]!();
