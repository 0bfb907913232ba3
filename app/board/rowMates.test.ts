import { StackSchema, type Stack } from "../store/records";
import * as v from "valibot";
import { rowMates } from "./rowMates";

const stack = (id: string, part: Partial<Stack>): Stack =>
  v.parse(StackSchema, {
    id,
    shootId: "s",
    kind: "bracket",
    name: id,
    order: 0,
    frameIds: [`${id}1`, `${id}2`],
    why: "",
    warnings: [],
    takeId: `t${id}`,
    ...part,
  });

test("members of a nested panorama: those of their row, in the order of their taking, whatever order they are stored in", () => {
  const outer = stack("o", {
    kind: "panorama",
    frameIds: [],
    rows: [
      [0, 1],
      [2, 3],
    ],
  });
  const members = ["d", "b", "a", "c"].map((id) =>
    stack(id, { parentId: "o", order: "abcd".indexOf(id) }),
  );
  const all = [...members, outer, stack("x", {})];
  expect(rowMates(all, members[2]!, 0)).toEqual({ stacks: ["a", "b"] });
  expect(rowMates(all, members[0]!, 0)).toEqual({ stacks: ["c", "d"] });
  expect(rowMates([...members, { ...outer, rows: undefined }], members[0]!, 0)).toEqual({
    stacks: ["a", "b", "c", "d"],
  });
});

test("frames of a panorama: those of the frame's row; other stacks have none", () => {
  const pano = stack("p", {
    kind: "panorama",
    frameIds: ["1", "2", "3", "4", "5"],
    rows: [
      [0, 1, 2],
      [3, 4],
    ],
  });
  expect(rowMates([pano], pano, 4)).toEqual({ frames: ["4", "5"] });
  expect(rowMates([pano], { ...pano, rows: undefined }, 0)).toEqual({
    frames: ["1", "2", "3", "4", "5"],
  });
  expect(rowMates([stack("x", {})], stack("x", {}), 0)).toBeUndefined();
});
