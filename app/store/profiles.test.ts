import { jest } from "@jest/globals";
import { writeProfile } from "../../codecs/icc";
import { emptyStorage } from "./forStorage";

type Profiles = typeof import("./profiles");
let profiles: Profiles;
beforeEach(async () => {
  emptyStorage();
  jest.resetModules();
  profiles = await import("./profiles");
});

const fileOf = (bytes: Uint8Array<ArrayBuffer>, name: string): File => new File([bytes], name);
const profileOf = (space: "p3" | "adobe"): Uint8Array<ArrayBuffer> =>
  new Uint8Array(writeProfile(space));

test("a profile is kept with its own name and its bytes, once", async () => {
  const { id, name } = await profiles.keepProfile(fileOf(profileOf("p3"), "a.icc"));
  expect(name).toContain("P3");
  await profiles.keepProfile(fileOf(profileOf("adobe"), "b.icc"));
  await profiles.keepProfile(fileOf(profileOf("p3"), "copy of a.icc"));
  const kept = await profiles.readProfiles();
  expect(kept.map((profile) => profile.id === id)).toEqual([false, true]);
  expect(await profiles.profileBytes(id)).toEqual(profileOf("p3"));
});

test("what is no profile is refused by name, and nothing is kept of it", async () => {
  const text = new Uint8Array(500).fill(65);
  await expect(profiles.keepProfile(fileOf(text, "odd.icc"))).rejects.toMatchObject({
    code: "not-a-profile",
    message: expect.stringContaining("odd.icc"),
  });
  expect(await profiles.readProfiles()).toEqual([]);
});

test("a profile that is forgotten takes its bytes with it", async () => {
  const { id } = await profiles.keepProfile(fileOf(profileOf("p3"), "a.icc"));
  await profiles.dropProfile(id);
  expect(await profiles.readProfiles()).toEqual([]);
  expect(await profiles.profileBytes(id)).toBeUndefined();
});

test("entries that cannot be read are left out", async () => {
  const { db } = await import("./db");
  await profiles.keepProfile(fileOf(profileOf("p3"), "a.icc"));
  const stored = (await (await db()).get("settings", "profiles")) as unknown[];
  await (await db()).put("settings", [7, { id: 3 }, ...stored], "profiles");
  expect(await profiles.readProfiles()).toHaveLength(1);
});
