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

/**
 * An XMP packet (ISO 16684-1) with what was merged and whose it is. What the reference frame's
 * packet says otherwise is kept, except orientation and what this one says itself.
 */
export function writeXmp(caption: Caption, from: string | undefined): string {
  const { sphere } = caption;
  const evs = caption.evs.filter((e): e is number => e !== undefined);
  const list = (tag: string, kind: "Seq" | "Alt", items: string[]): string =>
    `<${tag}><rdf:${kind}>${items.map((t) => `<rdf:li${kind === "Alt" ? ' xml:lang="x-default"' : ""}>${escape(t)}</rdf:li>`).join("")}</rdf:${kind}></${tag}>`;
  const own = [
    `<rhizome:Kind>${escape(caption.kind)}</rhizome:Kind>`,
    list("rhizome:Frames", "Seq", caption.frames),
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
    ...(caption.creator ? [list("dc:creator", "Seq", [caption.creator])] : []),
    ...(caption.copyright ? [list("dc:rights", "Alt", [caption.copyright])] : []),
  ].join("");
  const description = `<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:GPano="http://ns.google.com/photos/1.0/panorama/" xmlns:rhizome="urn:rhizome:merge:1">${own}</rdf:Description>`;
  const kept = from && /<rdf:RDF[\s>]/.test(from) && /<\/rdf:RDF>/.test(from) ? from : undefined;
  if (!kept)
    return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">${description}</rdf:RDF></x:xmpmeta><?xpacket end="w"?>`;
  const without = [
    "tiff:Orientation",
    ...(caption.rating ? ["xmp:Rating"] : []),
    ...(caption.label ? ["xmp:Label"] : []),
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
