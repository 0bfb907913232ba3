import { demoComplete, merged, openRow, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

test("the guide is searched, and leads to the place that was found", async () => {
  const { page, base } = r;
  await page.goto(`${base}/help`);
  await page.getByRole("article").getByRole("heading", { name: "Bring in frames" }).waitFor();
  await page.keyboard.press("/");
  await page.keyboard.type("vertical line");
  await page.getByRole("list", { name: "Found" }).getByRole("link").first().click();
  await page.waitForURL(/\/help\/[a-z-]+/);
  await page.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Keys" }).click();
  await page.getByText("Find a command, a setting or a page").waitFor();
  await page.getByRole("heading", { name: "Opened stack" }).waitFor();
});

test("an address with a heading opens at it", async () => {
  const { page, base } = r;
  await page.goto(`${base}/help/settings#tone-strength`);
  const setting = page.locator("#tone-strength");
  await setting.waitFor();
  await page.waitForFunction(() => {
    const { top } = document.querySelector("#tone-strength")!.getBoundingClientRect();
    return top >= 0 && top < innerHeight / 2;
  });
});

test("a page that there is not says so", async () => {
  const { page, base } = r;
  await page.goto(`${base}/help/nothing`);
  await page.getByText("The guide has no page nothing.").waitFor();
  await page.getByRole("link", { name: "To the shelf" }).click();
  await page.getByRole("link", { name: /Quillmoor/ }).waitFor();
});

test("beside every opened step stands the way to its page", async () => {
  const { page } = r;
  await page.getByRole("link", { name: /Quillmoor/ }).click();
  await demoComplete(page);
  await openRow(page, 3);
  await merged(page);
  await page.getByTestId("step ghosts").click();
  const link = page.getByLabel("Recipe").getByRole("link", { name: "Help: Remove ghosts" });
  expect(await link.getAttribute("href")).toBe("/help/ghosts");
});

test("the evidence of the first merge is explained once, and never in the way again", async () => {
  const { page } = r;
  await page.evaluate(() => localStorage.removeItem("rhizome:evidence-explained"));
  await page.reload();
  await merged(page);
  const said = page.getByRole("region", { name: "What stands here" });
  await said.getByRole("button", { name: "Close" }).click();
  await said.waitFor({ state: "detached" });
  await page.reload();
  await merged(page);
  expect(await said.count()).toBe(0);
});
