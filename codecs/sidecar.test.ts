import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { readSidecar, writeSidecar } from "./sidecar";
import { sidecarNames } from "./sidecarNames";

const WORDS = {
  rating: 4,
  label: "keep",
  caption: 'The dome, <"open"> & lit',
  creator: "A. Lindqvist",
  copyright: "© 2026 Quillmoor",
};
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

test("what is written is read back, by us and by another program", () => {
  const text = writeSidecar(WORDS);
  expect(readSidecar(bytes(text))).toEqual(WORDS);
  const folder = mkdtempSync(join(tmpdir(), "rhizome-sidecar-"));
  try {
    writeFileSync(join(folder, "a.xmp"), text);
    const said = execFileSync("exiftool", ["-j", "a.xmp"], { cwd: folder, encoding: "utf8" });
    expect(JSON.parse(said)[0]).toMatchObject({
      Rating: 4,
      Label: "keep",
      Description: WORDS.caption,
      Creator: WORDS.creator,
      Rights: WORDS.copyright,
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test("what another program wrote stays, but for what is said anew", () => {
  const theirs = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/" xmp:Rating="2" xmp:CreatorTool="Other 1.0"><dc:subject><rdf:Bag><rdf:li>hill</rdf:li></rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>`;
  const text = writeSidecar({ rating: 5 }, theirs);
  expect(readSidecar(bytes(text)).rating).toBe(5);
  expect(text).toContain('xmp:CreatorTool="Other 1.0"');
  expect(text).toContain("<rdf:li>hill</rdf:li>");
});

test.each([
  ["nothing", ""],
  ["no XML", "hello"],
  ["cut off", writeSidecar(WORDS).slice(0, 300)],
  ["of other kind", "<html><body>no</body></html>"],
  ["stars that there are not", writeSidecar({ rating: 4 }).replace(">4<", ">-1<")],
])("%s says nothing and throws nothing", (_what, text) => {
  expect(readSidecar(bytes(text))).toEqual({});
});

test("lies beside its file under either name", () => {
  expect(sidecarNames("QM_0412.JPG")).toEqual(["qm_0412.xmp", "qm_0412.jpg.xmp"]);
});
