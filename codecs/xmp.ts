import type { Caption } from "./codec";

const escape = (t: string): string =>
  t.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`).replace(/[\0-\x08\x0b\x0c\x0e-\x1f]/g, "");

/** The open photo-sphere fields, by which viewers know how a picture lies on its sphere. */
const SPHERE = {
  FullPanoWidthPixels: "width",
  FullPanoHeightPixels: "height",
  CroppedAreaLeftPixels: "left",
  CroppedAreaTopPixels: "top",
  CroppedAreaImageWidthPixels: "croppedWidth",
  CroppedAreaImageHeightPixels: "croppedHeight",
} as const;

/** The fields of gain maps, by which readers know them that are older than ISO 21496-1. */
const GAIN_MAP_SPACE = 'xmlns:hdrgm="http://ns.adobe.com/hdr-gain-map/1.0/"';

const packet = (descriptions: string): string =>
  `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">${descriptions}</rdf:RDF></x:xmpmeta><?xpacket end="w"?>`;

/** What a gain map says of itself. @param headroom  of the display at which all of it applies, EV */
export function gainMapXmp(headroom: number, offset: number): string {
  const fields = {
    Version: "1.0",
    GainMapMin: "0",
    GainMapMax: String(headroom),
    Gamma: "1",
    OffsetSDR: String(offset),
    OffsetHDR: String(offset),
    HDRCapacityMin: "0",
    HDRCapacityMax: String(headroom),
    BaseRenditionIsHDR: "False",
  };
  const attributes = Object.entries(fields).map(([name, value]) => `hdrgm:${name}="${value}"`);
  return packet(
    `<rdf:Description rdf:about="" ${GAIN_MAP_SPACE} ${attributes.join(" ")}></rdf:Description>`,
  );
}

/** What a picture says of a gain map that follows it in the file. */
function gainMapFollows(bytes: number): string {
  const item = (fields: string): string =>
    `<rdf:li rdf:parseType="Resource"><Container:Item Item:Mime="image/jpeg" ${fields}/></rdf:li>`;
  return `<rdf:Description rdf:about="" ${GAIN_MAP_SPACE} xmlns:Container="http://ns.google.com/photos/1.0/container/" xmlns:Item="http://ns.google.com/photos/1.0/container/item/" hdrgm:Version="1.0"><Container:Directory><rdf:Seq>${item('Item:Semantic="Primary"')}${item(`Item:Semantic="GainMap" Item:Length="${bytes}"`)}</rdf:Seq></Container:Directory></rdf:Description>`;
}

/**
 * An XMP packet (ISO 16684-1) with what was merged and whose it is. What the reference frame's
 * packet says otherwise is kept, except orientation and what this one says itself.
 *
 * @param gainMap  bytes of a gain map that follows the picture
 */
export function writeXmp(caption: Caption, from: string | undefined, gainMap?: number): string {
  const { sphere } = caption;
  const evs = caption.evs.filter((e): e is number => e !== undefined);
  const list = (tag: string, kind: "Seq" | "Alt", items: string[]): string =>
    `<${tag}><rdf:${kind}>${items.map((t) => `<rdf:li${kind === "Alt" ? ' xml:lang="x-default"' : ""}>${escape(t)}</rdf:li>`).join("")}</rdf:${kind}></${tag}>`;
  const merged = [
    `<rhizome:Kind>${escape(caption.kind)}</rhizome:Kind>`,
    list("rhizome:Frames", "Seq", caption.frames),
  ];
  const own = [
    // of a picture that was not merged there is nothing to say of it
    ...(caption.kind ? merged : []),
    ...(evs.length
      ? [
          `<rhizome:LowestEV>${Math.min(...evs).toFixed(2)}</rhizome:LowestEV><rhizome:HighestEV>${Math.max(...evs).toFixed(2)}</rhizome:HighestEV>`,
        ]
      : []),
    ...(caption.rating ? [`<xmp:Rating>${caption.rating}</xmp:Rating>`] : []),
    ...(caption.label ? [`<xmp:Label>${escape(caption.label)}</xmp:Label>`] : []),
    ...(sphere
      ? [
          `<GPano:ProjectionType>equirectangular</GPano:ProjectionType><GPano:UsePanoramaViewer>True</GPano:UsePanoramaViewer>`,
          ...Object.entries(SPHERE).map(
            ([tag, key]) => `<GPano:${tag}>${Math.round(sphere[key])}</GPano:${tag}>`,
          ),
        ]
      : []),
    ...(caption.description ? [list("dc:description", "Alt", [caption.description])] : []),
    ...(caption.creator ? [list("dc:creator", "Seq", [caption.creator])] : []),
    ...(caption.copyright ? [list("dc:rights", "Alt", [caption.copyright])] : []),
  ].join("");
  const description = `<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:GPano="http://ns.google.com/photos/1.0/panorama/" xmlns:rhizome="urn:rhizome:merge:1">${own}</rdf:Description>${gainMap === undefined ? "" : gainMapFollows(gainMap)}`;
  const kept = from && /<rdf:RDF[\s>]/.test(from) && /<\/rdf:RDF>/.test(from) ? from : undefined;
  if (!kept) return packet(description);
  const without = [
    "tiff:Orientation",
    ...(caption.rating ? ["xmp:Rating"] : []),
    ...(caption.label ? ["xmp:Label"] : []),
    ...(caption.description ? ["dc:description"] : []),
    ...(caption.creator ? ["dc:creator"] : []),
    ...(caption.copyright ? ["dc:rights"] : []),
  ].reduce(
    (t, tag) =>
      t
        .replace(new RegExp(`<${tag}[\\s>][\\s\\S]*?</${tag}>`, "g"), "")
        .replace(new RegExp(`\\s${tag}="[^"]*"`, "g"), ""),
    kept,
  );
  return without.replace("</rdf:RDF>", `${description}</rdf:RDF>`);
}
