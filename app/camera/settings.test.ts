import { readSettings, writeSettings } from "./settings";

const scenes = [
  {
    id: "room",
    title: "A room",
    kind: "bracket" as const,
    frames: ["a", "b", "c"],
    focal: 20,
    time: 0.1,
    aperture: 8,
  },
  {
    id: "ridge",
    title: "A ridge",
    kind: "panorama" as const,
    frames: ["d"],
    focal: 35,
    time: 0.004,
    aperture: 8,
  },
];
const read = (query: string) => readSettings(new URLSearchParams(query), scenes);

test("an empty address is the first scene as it begins; each kind begins with its own programme", () => {
  expect(read("")).toMatchObject({
    scene: { id: "room" },
    settings: { scene: "room", focal: 20, frames: 5, step: 2, hand: false },
  });
  expect(read("scene=ridge").settings).toMatchObject({ focal: 35, frames: 1, turned: "portrait" });
});

test("settings written into an address are read from it again", () => {
  const { settings } = read(
    "scene=ridge&frames=3&step=1.5&hand=true&overlap=0.45&turned=landscape&iso=800&focal=50",
  );
  expect(settings).toMatchObject({
    frames: 3,
    step: 1.5,
    hand: true,
    overlap: 0.45,
    turned: "landscape",
    iso: 800,
    focal: 50,
  });
  expect(read(writeSettings(settings).toString()).settings).toEqual(settings);
});

test.each([
  "frames=999",
  "frames=2.5",
  "frames=abc",
  "iso=-1",
  "turned=sideways",
  "moving=%3Cimg%3E",
  "overlap=NaN",
  "hand=perhaps",
  "focal=3",
  "scene=nowhere",
])("what is no setting is left as it begins: %s", (query) => {
  expect({ ...read(query).settings, hand: false }).toEqual(read("").settings);
});
