import Vips from "wasm-vips";

/** A printer's profile with tables: that of a common press, which libvips carries with it. */
export async function printerProfile(): Promise<Uint8Array> {
  const vips = await Vips({ dynamicLibraries: [] });
  const white = vips.Image.newFromMemory(
    new Uint8Array(3).fill(255),
    1,
    1,
    3,
    vips.BandFormat.uchar,
  );
  const srgb = white.copy({ interpretation: "srgb" });
  const printed = srgb.iccTransform("cmyk", { input_profile: "srgb" });
  const profile = new Uint8Array(printed.getBlob("icc-profile-data"));
  for (const image of [white, srgb, printed]) image.delete();
  return profile;
}
