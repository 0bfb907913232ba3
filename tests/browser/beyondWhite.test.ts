import { eventually, openDemoStack, openStep, settled, start, type Running } from "./harness";

let r: Running;
beforeAll(async () => {
  r = await start();
});
afterAll(async () => {
  await r?.close();
});

const picture = () => r.page.getByAltText("The picture, beyond white");
const box = () => r.page.getByRole("checkbox", { name: "Show the picture beyond white" });
const headroom = () => r.page.getByRole("slider", { name: /HDR headroom/ });

/** Where a PNG says in which code its samples are, and what: colours, curve, matrix, range. */
const codeOfPicture = (): Promise<number[]> =>
  r.page.evaluate(async () => {
    const { lastPng } = window as unknown as { lastPng: Blob };
    const bytes = new Uint8Array(await lastPng.arrayBuffer());
    const name = [..."cICP"].map((letter) => letter.charCodeAt(0));
    const at = bytes.findIndex((_, i) => name.every((code, k) => bytes[i + k] === code));
    return [...bytes.subarray(at + 4, at + 8)];
  });

test("a display that stays within white is said to, and nothing is offered that it cannot show", async () => {
  await openDemoStack(r, 3);
  await openStep(r.page, "deliver");
  await headroom().focus();
  await r.page.keyboard.press("End");
  await r.page.getByText(/display does not go beyond white/).waitFor();
  expect(await box().count()).toBe(0);
});

test("on a display that goes beyond white the picture is shown so, where it lies, and follows changes", async () => {
  const { page } = r;
  await page.addInitScript(() => {
    const ask = matchMedia.bind(window);
    window.matchMedia = (query: string) =>
      query.includes("dynamic-range")
        ? (Object.assign(new EventTarget(), { matches: true, media: query }) as MediaQueryList)
        : ask(query);
    // a picture's address cannot be read from within the page
    const addressOf = URL.createObjectURL.bind(URL);
    URL.createObjectURL = (blob: Blob) => {
      if (blob.type === "image/png") Object.assign(window, { lastPng: blob });
      return addressOf(blob);
    };
  });
  await page.reload();
  await openStep(page, "deliver");
  await settled(page);
  await box().click();
  await picture().waitFor();
  expect(await codeOfPicture()).toEqual([9, 16, 0, 1]);
  const canvas = (await page.getByLabel("The picture", { exact: true }).boundingBox())!;
  const placed = (await picture().boundingBox())!;
  expect(placed.width / placed.height).toBeCloseTo(3 / 2, 1);
  expect(placed.x).toBeGreaterThanOrEqual(canvas.x);
  expect(placed.x + placed.width / 2).toBeCloseTo(canvas.x + canvas.width / 2, -1);
  // another headroom, another picture
  const first = await picture().getAttribute("src");
  await headroom().focus();
  await page.keyboard.press("ArrowLeft");
  await eventually(async () => expect(await picture().getAttribute("src")).not.toBe(first));
  // it gives way to what else is seen over the picture, and comes back
  await page.getByLabel("The picture", { exact: true }).focus();
  await page.keyboard.press("c");
  await picture().waitFor({ state: "detached" });
  await page.keyboard.press("c");
  await picture().waitFor();
  await box().click();
  await picture().waitFor({ state: "detached" });
});
