import type { Layout } from "../../../pipeline/panorama/layout";
import { tieList, without } from "./tieList";

const frames = ["f1", "f2", "f3"].map((id, i) => ({
  id,
  name: `QM_000${i}.jpg`,
  width: 1000,
  height: 500,
}));
const camera = {
  rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1],
  focalPx: 800,
  distortion: [0, 0, 0],
  width: 1000,
  height: 500,
};
const layout = {
  cameras: [camera, camera, undefined],
  pairs: [
    {
      a: 0,
      b: 1,
      points: [
        [100, 50, 200, 60],
        [300, 100, 400, 110],
        [500, 250, 600, 260],
      ],
      errors: [0.4, 2.5, 0.9],
    },
    { a: 1, b: 2, points: [[1, 1, 2, 2]], errors: [9] },
  ],
} as unknown as Layout;
const own = [
  {
    id: "t1",
    a: "f2",
    b: "QM_0000.jpg",
    from: [0.6, 0.52] as [number, number],
    to: [0.5, 0.5] as [number, number],
  },
];

test("ties stand worst first, with those set manually distinguished, whichever frame they name first", () => {
  const list = tieList(layout, frames, own);
  expect(list.map((t) => t.errorPx)).toEqual([2.5, 0.9, 0.4]);
  expect(list.map((t) => t.own)).toEqual([undefined, "t1", undefined]);
  expect(list[0]!.from).toEqual([0.3, 0.2]);
});

test("a found tie is removed, one set manually is taken away", () => {
  const [worst, mine] = tieList(layout, frames, own);
  expect(without({ ties: own, dropped: [] }, [worst!, mine!], frames)).toEqual({
    ties: [],
    dropped: [{ a: "f1", b: "f2", from: [0.3, 0.2] }],
  });
});

test("a manual tie that holds nothing yet stands first, also where no frame has found its place", () => {
  const more = [
    ...own,
    {
      id: "t2",
      a: "f3",
      b: "f1",
      from: [0.1, 0.2] as [number, number],
      to: [0.9, 0.3] as [number, number],
    },
    {
      id: "gone",
      a: "f9",
      b: "f1",
      from: [0, 0] as [number, number],
      to: [0, 0] as [number, number],
    },
  ];
  const waiting = {
    key: "own/t2",
    a: 0,
    b: 2,
    from: [0.9, 0.3],
    to: [0.1, 0.2],
    errorPx: undefined,
    own: "t2",
  };
  expect(tieList(layout, frames, more)[0]).toEqual(waiting);
  expect(tieList(layout, frames, more)).toHaveLength(4);
  expect(tieList(undefined, frames, more).map((t) => [t.own, t.errorPx])).toEqual([
    ["t1", undefined],
    ["t2", undefined],
  ]);
  expect(
    without({ ties: more, dropped: [] }, [tieList(undefined, frames, more)[1]!], frames).ties.map(
      (t) => t.id,
    ),
  ).toEqual(["t1", "gone"]);
});
