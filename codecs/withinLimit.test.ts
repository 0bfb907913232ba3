import { codec, input, picture, W, H } from "../tests/files/codecs";
import { random } from "../core/math/random";
import type { OutputFormat } from "./outputFormats";
import { joined } from "./stream";

const noise = random(5);
/** A picture that does not pack well. */
const samples = picture((n) => new Uint8Array(n), 255).map((v) => (v + noise() * 60) & 255);
const written = async (format: OutputFormat, more = {}) =>
  joined(await codec.encode({ ...input(samples, {}), format, quality: 95, ...more }));

test.each(["jpg", "webp", "avif"] as const)(
  "a %s is as good as its limit lets it be, and no larger",
  async (format) => {
    const whole = await written(format);
    const limit = Math.round(whole.length * 0.6);
    const limited = await written(format, { limit });
    expect(limited.length).toBeLessThanOrEqual(limit);
    expect(limited.length).toBeGreaterThan(limit * 0.8);
    const { width, height } = await codec.inspect(limited, `x.${format}`);
    expect([width, height]).toEqual([W, H]);
    // where there is room it is as it was
    expect(await written(format, { limit: whole.length })).toEqual(whole);
  },
);

test("a limit that no quality keeps is an error, and formats without loss have none", async () => {
  await expect(written("jpg", { limit: 100 })).rejects.toMatchObject({ code: "file-limit" });
  expect((await written("png", { limit: 100 })).length).toBeGreaterThan(100);
});

test("a progressive JPEG holds the same picture in another order", async () => {
  const baseline = await written("jpg");
  const progressive = await written("jpg", { progressive: true });
  const hasFrame = (file: Uint8Array, marker: number): boolean =>
    file.some((byte, i) => byte === 0xff && file[i + 1] === marker && file[i + 2] === 0);
  expect([hasFrame(baseline, 0xc0), hasFrame(progressive, 0xc2)]).toEqual([true, true]);
  const pixels = async (file: Uint8Array<ArrayBuffer>) =>
    (await codec.decode(file, "x.jpg", 1)).samples;
  expect(await pixels(progressive)).toEqual(await pixels(baseline));
});
