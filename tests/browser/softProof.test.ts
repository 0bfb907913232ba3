import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { printerProfile } from "../files/printerProfile";
import {
  choose,
  drawn,
  eventually,
  fingerprint,
  openDemoStack,
  openStep,
  settled,
  shownAfter,
  start,
  type Running,
} from "./harness";

let r: Running;
let dir: string;
let paper: string;
beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), "rhizome-paper-"));
  paper = join(dir, "paper.icc");
  await writeFile(paper, await printerProfile());
  r = await start();
  await openDemoStack(r, 1);
  await openStep(r.page, "deliver");
  await settled(r.page);
});
afterAll(async () => {
  await r?.close();
  await rm(dir, { recursive: true, force: true });
});

const field = () => r.page.getByLabel("A paper's profile");
const outside = () => r.page.getByLabel("Outside the paper's colours");
const seenAs = () => r.page.getByRole("combobox", { name: "Seen as on" });
const marks = () => r.page.getByRole("checkbox", { name: "Mark what the paper cannot show" });
const picture = async () => {
  await drawn(r.page);
  return fingerprint(r.page);
};

test("a file that is no profile is named, and the picture stays as on screen", async () => {
  const odd = join(dir, "holiday.icc");
  await writeFile(odd, "not a profile");
  const before = await picture();
  await field().setInputFiles(odd);
  await r.page.getByText(/holiday\.icc is not a colour profile/).waitFor();
  await r.page.getByRole("button", { name: "Close" }).first().click();
  expect(await picture()).toEqual(before);
  expect(await outside().count()).toBe(0);
});

test("with a paper's profile the picture is seen as on it, and says what is lost", async () => {
  const { page } = r;
  const onScreen = await picture();
  await shownAfter(page, () => field().setInputFiles(paper));
  await eventually(async () => expect(await outside().textContent()).toMatch(/\d %/));
  const marked = await picture();
  expect(marked).not.toEqual(onScreen);
  await shownAfter(page, () => marks().click());
  const relative = await picture();
  expect(relative).not.toEqual(marked);
  await shownAfter(page, () => choose(page, "Intent", "Perceptual"));
  expect(await picture()).not.toEqual(relative);
  // on screen again, to the byte, by the key; and back
  await page.getByLabel("The picture").focus();
  await shownAfter(page, () => page.keyboard.press("Shift+C"));
  expect(await picture()).toEqual(onScreen);
  await shownAfter(page, () => page.keyboard.press("Shift+C"));
  await shownAfter(page, () => page.getByRole("button", { name: "On paper" }).click());
  expect(await picture()).toEqual(onScreen);
});

test("the paper is remembered, and forgotten when that is asked", async () => {
  const { page } = r;
  await page.reload();
  await openStep(page, "deliver");
  await settled(page);
  expect(await seenAs().textContent()).toBe("Screen");
  const onScreen = await picture();
  await page.getByLabel("The picture").focus();
  await shownAfter(page, () => page.keyboard.press("Shift+C"));
  await eventually(async () => expect(await outside().textContent()).toMatch(/\d %/));
  await shownAfter(page, () => page.getByRole("button", { name: "Forget this paper" }).click());
  expect(await picture()).toEqual(onScreen);
  await seenAs().click();
  expect(await page.getByRole("option").allTextContents()).toEqual(["Screen", "Another paper…"]);
  await page.keyboard.press("Escape");
});
