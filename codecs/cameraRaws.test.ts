import { writeDng } from "../tests/files/dng";
import { inputFormatOf } from "./inputFormats";
import { codec, working } from "../tests/files/codecs";

describe("camera raws", () => {
  const raw = (bayer: boolean, more: object = {}): Uint8Array => {
    const w = 64;
    const h = 48;
    const samples = new Uint16Array(w * h * (bayer ? 1 : 3));
    const grey = [10000, 20000, 15000];
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const light = x < 32 ? 1 : 2.5;
        const at = (c: number): number => Math.min(60000, grey[c]! * light) + 600;
        if (bayer) samples[y * w + x] = at((y & 1) + (x & 1));
        else for (let c = 0; c < 3; c++) samples[(y * w + x) * 3 + c] = at(c);
      }
    return writeDng({
      width: w,
      height: h,
      samples,
      bayer,
      black: 600,
      white: 60600,
      neutral: [0.5, 1, 0.75],
      ...more,
    });
  };
  test.each([[true], [false]])(
    "a DNG, mosaic %s: linear, balanced as shot by the matrix, with room above where channels have it",
    async (bayer) => {
      const d = await codec.decode(raw(bayer), "x.dng", 1);
      const info = await codec.inspect(raw(bayer), "x.dng");
      expect(info).toMatchObject({
        format: "raw",
        width: 64,
        height: 48,
        depth: 16,
        exif: { aperture: 8, iso: 100 },
      });
      expect(info.exif.exposureTime).toBeCloseTo(1 / 60, 4);
      const dark = working(d, 16, 24);
      const bright = working(d, 50, 24);
      dark.forEach((v) => expect(v).toBeCloseTo(20000 / 60000, 2));
      bright.forEach((v) => expect(v).toBeCloseTo((20000 / 60000) * 2.5, 1));
      const half = await codec.decode(raw(bayer), "x.dng", 4);
      expect([half.width, half.height]).toEqual([16, 12]);
      expect(inputFormatOf(await codec.thumbnail(raw(bayer), "x.dng", 40), "x")?.id).toBe("jpeg");
    },
  );
  test("what the file says of its lens comes with it", async () => {
    const gain = new DataView(new ArrayBuffer(76));
    // one opcode, a gain of 1 + 0.25 r^2
    [
      [0, 1],
      [4, 3],
      [8, 0x01030000],
      [16, 56],
    ].forEach(([at, v]) => gain.setUint32(at!, v!));
    gain.setFloat64(20, 0.25);
    expect(
      (await codec.inspect(raw(true, { opcodes: [...new Uint8Array(gain.buffer)] }), "x.dng")).lens!
        .vignetting,
    ).toBeCloseTo(0.21, 1);
    expect((await codec.inspect(raw(true), "x.dng")).lens).toBeUndefined();
  });
  test("is turned upright", async () => {
    const bytes = raw(false, { orientation: 6 });
    const d = await codec.decode(bytes, "x.dng", 1);
    expect([d.width, d.height]).toEqual([48, 64]);
    expect(await codec.inspect(bytes, "x.dng")).toMatchObject({ width: 48, height: 64 });
    expect(working(d, 24, 50)[1]! / working(d, 24, 10)[1]!).toBeCloseTo(2.5, 1);
  });
});
