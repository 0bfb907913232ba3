import { doubledEdges, softBands } from "./focusSuspects";

// a slope whose frames lie one above the other, 32 x 32 cells of 10 px; frames 3 and 4 share the
// band between their stripes
const W = 320;
const H = 320;
const slope = (soft: [number, number]): Uint8Array =>
  Uint8Array.from({ length: W * H }, (_, i) => {
    const y = Math.floor(i / W);
    const frame = Math.floor(y / 40);
    return 1 + (y >= soft[0] && y < soft[1] ? (i % 2 ? 3 : 4) : frame);
  });
const order = [0, 1, 2, 3, 4, 5, 6, 7];
const cells = Array.from({ length: 32 * 32 }, (_, c) => c);

test("where a step was too wide, the band between its two frames is listed at full size", () => {
  const [band, ...others] = softBands(slope([150, 170]), W, H, 2, {
    order,
    gaps: [3],
    sharp: { cells },
  });
  expect(others).toEqual([]);
  expect(band).toEqual({ kind: "soft band", x: 0, y: 300, width: 640, height: 40, score: 1 });
});

test("an even run has none; nor has a part that focus does not change", () => {
  expect(softBands(slope([150, 170]), W, H, 2, { order, gaps: [], sharp: { cells } })).toEqual([]);
  expect(
    softBands(slope([150, 170]), W, H, 2, {
      order,
      gaps: [3],
      sharp: { cells: cells.filter((c) => c < 32 * 10) },
    }),
  ).toEqual([]);
});

describe("edges that lie elsewhere in one of two frames", () => {
  const box = { x: 200, y: 280, width: 96, height: 80, frames: [3, 4] as [number, number], px: 4 };
  const sources = slope([0, 0]);
  test("are listed where the picture is made of both, and as bad as they lie apart", () => {
    expect(doubledEdges(sources, W, H, 2, [box], [])).toEqual([
      { kind: "double edge", x: 200, y: 280, width: 96, height: 80, score: 0.5 },
    ]);
  });
  test("are not where it is made of one or of others, nor where a part is reported to have moved", () => {
    expect(doubledEdges(sources, W, H, 2, [{ ...box, y: 244, height: 30 }], [])).toEqual([]);
    expect(doubledEdges(sources, W, H, 2, [{ ...box, frames: [0, 1] }], [])).toEqual([]);
    expect(
      doubledEdges(
        sources,
        W,
        H,
        2,
        [box],
        [{ x: 190, y: 300, width: 120, height: 200, times: 4 }],
      ),
    ).toEqual([]);
  });
});
