import { writeFileSync } from "node:fs";
import { join } from "node:path";
import {
  EXCESS_SCALE,
  OUTSIDE_FROM,
  SOFT_PROOF_SIDE,
  type SoftProofTable,
} from "../core/output/softProof";
import { codec, ownFolder } from "../tests/files/codecs";
import { printerProfile } from "../tests/files/printerProfile";
import { writeProfile } from "./icc";
import { printerProfileName } from "./softProof";

const folder = ownFolder();
let printer: Uint8Array;
beforeAll(async () => {
  printer = await printerProfile();
});

const LAST = SOFT_PROOF_SIDE - 1;
type Node = readonly [number, number, number];
const at = ([r, g, b]: Node): number => ((r * SOFT_PROOF_SIDE + g) * SOFT_PROOF_SIDE + b) * 4;
const nodeOf = (table: SoftProofTable, node: Node): number[] => [
  ...table.subarray(at(node), at(node) + 4),
];

test.each(["relative", "perceptual"] as const)(
  "%s: colours are those that another colour engine's user gets by hand",
  async (intent) => {
    const table = await codec.softProofTable(printer, "press.icc", intent, "srgb");
    writeFileSync(join(folder.dir(), "press.icc"), printer);
    writeFileSync(join(folder.dir(), "srgb.icc"), writeProfile("srgb"));
    const nodes: Node[] = [
      [0, 0, 0],
      [32, 32, 32],
      [16, 16, 16],
      [32, 0, 0],
      [0, 32, 0],
      [0, 0, 32],
      [24, 12, 6],
      [4, 20, 28],
      [30, 28, 10],
    ];
    const text = nodes.map((node) => node.map((i) => Math.round((i / LAST) * 65535)).join(" "));
    writeFileSync(
      join(folder.dir(), "nodes.ppm"),
      `P3\n${nodes.length} 1\n65535\n${text.join("\n")}\n`,
    );
    const profile = (name: string): string[] => ["-profile", name];
    const values = folder
      .tool(
        "convert",
        "nodes.ppm",
        "-black-point-compensation",
        ...["-intent", intent === "relative" ? "Relative" : "Perceptual"],
        ...profile("srgb.icc"),
        ...profile("press.icc"),
        ...["-intent", "Relative"],
        ...profile("srgb.icc"),
        ...["-depth", "8", "-compress", "none", "ppm:-"],
      )
      .split(/\s+/)
      .slice(4)
      .map(Number);
    nodes.forEach((node, i) => {
      const own = nodeOf(table, node);
      [0, 1, 2].forEach((c) => {
        const theirs = values[i * 3 + c]!;
        // near black, codes are far apart in light that hardly differs
        expect(Math.abs(own[c]! - theirs)).toBeLessThan(theirs < 16 ? 8 : 3);
      });
    });
  },
);

test("what a press cannot show is known: pure blue and green, not greys nor skin", async () => {
  const table = await codec.softProofTable(printer, "press.icc", "relative", "srgb");
  const isOutside = (node: Node): boolean => nodeOf(table, node)[3]! >= OUTSIDE_FROM * EXCESS_SCALE;
  expect(isOutside([0, 0, 32])).toBe(true);
  expect(isOutside([0, 32, 0])).toBe(true);
  expect(isOutside([16, 16, 16])).toBe(false);
  expect(isOutside([28, 22, 19])).toBe(false);
});

test("more of a wider space is outside", async () => {
  const share = async (space: "srgb" | "rec2020"): Promise<number> => {
    const table = await codec.softProofTable(printer, "press.icc", "relative", space);
    const nodes = table.length / 4;
    let outside = 0;
    for (let i = 0; i < nodes; i++) if (table[i * 4 + 3]! >= OUTSIDE_FROM * EXCESS_SCALE) outside++;
    return outside / nodes;
  };
  expect(await share("rec2020")).toBeGreaterThan((await share("srgb")) + 0.1);
});

test("a screen's own profile changes next to nothing", async () => {
  const table = await codec.softProofTable(writeProfile("srgb"), "screen.icc", "relative", "srgb");
  for (let r = 0; r <= LAST; r += 8)
    for (let g = 0; g <= LAST; g += 8)
      for (let b = 0; b <= LAST; b += 8) {
        const [red, green, blue, excess] = nodeOf(table, [r, g, b]);
        [red!, green!, blue!].forEach((v, c) =>
          expect(Math.abs(v - ([r, g, b][c]! / LAST) * 255)).toBeLessThan(2),
        );
        expect(excess).toBeLessThan(EXCESS_SCALE);
      }
});

test("a profile says its name", () => {
  expect(printerProfileName(printer, "press.icc").length).toBeGreaterThan(3);
  expect(printerProfileName(writeProfile("p3"), "p3.icc")).toContain("P3");
});

test.each([
  ["no bytes", () => new Uint8Array()],
  ["a text", () => new TextEncoder().encode("x".repeat(2000))],
  ["a link between devices", () => changed((bytes) => bytes.set([...Buffer.from("link")], 12))],
  ["codes of seven inks", () => changed((bytes) => bytes.set([...Buffer.from("7CLR")], 16))],
])("%s is no profile to proof by, and the file is named", async (_, bytes) => {
  await expect(codec.softProofTable(bytes(), "odd.icc", "relative", "srgb")).rejects.toMatchObject({
    code: "not-a-profile",
    message: expect.stringContaining("odd.icc"),
  });
});

test("damaged profiles are refused by name, or give a table; none stops the engine", async () => {
  for (let cut = 200; cut < printer.length; cut += Math.ceil(printer.length / 12)) {
    const damaged = printer.slice(0, cut);
    const outcome = await codec
      .softProofTable(damaged, "cut.icc", "perceptual", "srgb")
      .then((table) => table.length)
      .catch((e: { code: string }) => e.code);
    expect(["not-a-profile", SOFT_PROOF_SIDE ** 3 * 4]).toContain(outcome);
  }
  const whole = await codec.softProofTable(printer, "press.icc", "relative", "srgb");
  expect(whole.length).toBe(SOFT_PROOF_SIDE ** 3 * 4);
});

function changed(change: (bytes: Uint8Array) => void): Uint8Array {
  const bytes = printer.slice();
  change(bytes);
  return bytes;
}
