import { budgetFor } from "./pool";

test("merges take 2 GiB where there is as much to spare or nothing is known, and half of a smaller machine", () => {
  expect([undefined, 8, 4].map(budgetFor)).toEqual([2 ** 31, 2 ** 31, 2 ** 31]);
  expect([2, 1, 0.5].map(budgetFor)).toEqual([2 ** 30, 2 ** 29, 2 ** 28]);
});
