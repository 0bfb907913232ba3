import { readFileSync } from "node:fs";
import { join } from "node:path";
import { deflateSync } from "node:zlib";
import { codec, ownFolder } from "../tests/files/codecs";

const folder = ownFolder();

/** The known picture as another program writes it. */
function converted(name: string, ...how: string[]): Uint8Array {
  folder.tool("convert", "8.ppm", ...how, name);
  return new Uint8Array(readFileSync(join(folder.dir(), name)));
}

const ROWS = 16;
const text = (words: string): Buffer => Buffer.from(`${words}\0`, "latin1");
const ints = (...values: number[]): Buffer => Buffer.from(Int32Array.from(values).buffer);
const attribute = (name: string, type: string, value: Buffer): Buffer =>
  Buffer.concat([text(name), text(type), ints(value.length), value]);

/** An EXR file of one half channel that is black all over, packed by ZIP: small, however large. */
function blackExr(width: number, height: number): Uint8Array {
  const channels = Buffer.concat([text("Y"), ints(1, 0, 1, 1), Buffer.from([0])]);
  const window = ints(0, 0, width - 1, height - 1);
  const header = Buffer.concat([
    Buffer.from([0x76, 0x2f, 0x31, 0x01]),
    ints(2),
    attribute("channels", "chlist", channels),
    attribute("compression", "compression", Buffer.from([3])),
    attribute("dataWindow", "box2i", window),
    attribute("displayWindow", "box2i", window),
    attribute("lineOrder", "lineOrder", Buffer.from([0])),
    Buffer.from([0]),
  ]);
  const blocks = Math.ceil(height / ROWS);
  // differences of equal bytes, as the format has them before they are packed
  const packed = (rows: number): Buffer => {
    const raw = Buffer.alloc(width * rows * 2, 128);
    raw[0] = 0;
    return deflateSync(raw);
  };
  const whole = packed(ROWS);
  const bodies = Array.from({ length: blocks }, (_, i) => {
    const rows = Math.min(ROWS, height - i * ROWS);
    const body = rows === ROWS ? whole : packed(rows);
    return Buffer.concat([ints(i * ROWS, body.length), body]);
  });
  const index = Buffer.alloc(blocks * 8);
  let at = header.length + index.length;
  bodies.forEach((body, i) => {
    index.writeBigUInt64LE(BigInt(at), i * 8);
    at += body.length;
  });
  return new Uint8Array(Buffer.concat([header, index, ...bodies]));
}

test("a large EXR is unpacked some of its rows at a time", async () => {
  const [width, height] = [4000, 3001];
  const file = blackExr(width, height);
  let [largest, samples] = [0, 0];
  const read = await codec.decodeStrips(file, "large.exr", 1, (part, at) => {
    expect(at).toBe(samples);
    largest = Math.max(largest, part.length);
    samples += part.length;
  });
  expect([read.width, read.height, samples]).toEqual([width, height, width * height * 3]);
  expect(largest).toBeLessThan(4e6);
  expect(file.length).toBeLessThan(width * 100);
});

test("a large EXR in one of Node's buffers is read the same, and the buffer stays as it was", async () => {
  const [width, height] = [4000, 1501];
  const buffer = Buffer.from(blackExr(width, height));
  const before = Buffer.from(buffer);
  let samples = 0;
  await codec.decodeStrips(buffer, "large.exr", 1, (part) => void (samples += part.length));
  expect(samples).toBe(width * height * 3);
  expect(buffer.equals(before)).toBe(true);
});

test("an EXR whose blocks are too large to unpack is refused by its header", async () => {
  const file = blackExr(40, 20);
  const at = Buffer.from(file).indexOf("dataWindow") + 11 + 6 + 4;
  new DataView(file.buffer).setInt32(at + 8, 290e6, true);
  new DataView(file.buffer).setInt32(at + 12, 0, true);
  await expect(codec.inspect(file, "wide.exr")).rejects.toMatchObject({ code: "too-large" });
});

test.each(["JPEG", "none"])(
  "a JPEG (interlace %s) with less data than its size can have is refused",
  async (interlace) => {
    const file = converted(`short-${interlace}.jpg`, "-interlace", interlace);
    const frame = Buffer.from(file).indexOf(
      Buffer.from([0xff, interlace === "JPEG" ? 0xc2 : 0xc0]),
    );
    const view = new DataView(file.buffer, file.byteOffset);
    view.setUint16(frame + 5, 17000);
    view.setUint16(frame + 7, 17000);
    await expect(codec.inspect(file, "short.jpg")).rejects.toMatchObject({
      code: "damaged",
      message: expect.stringContaining("short.jpg"),
    });
  },
);

test("an animation that breaks off after its first picture is refused", async () => {
  const file = converted("moving.webp", "(", "+clone", "-negate", ")");
  expect((await codec.inspect(file, "moving.webp")).pages).toBe(2);
  // some programs write more behind the end that the file itself says
  const whole = new DataView(file.buffer, file.byteOffset).getUint32(4, true);
  const cut = file.slice(0, Math.round(whole * 0.7));
  await expect(codec.inspect(cut, "moving.webp")).rejects.toMatchObject({ code: "damaged" });
});

test("a JPEG smaller than its reduction is read", async () => {
  const tiny = converted("tiny.jpg", "-resize", "1x1!");
  const { width, height, samples } = await codec.decode(tiny, "tiny.jpg", 8);
  expect([width, height, samples.length]).toEqual([1, 1, 3]);
});
