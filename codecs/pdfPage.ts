import { PDFDocument, PDFName, type PDFRawStream } from "@cantoo/pdf-lib";

/** Points an inch (ISO 32000-1, 8.3.2.3). */
const POINTS_PER_INCH = 72;

/** What a document says of itself. */
export interface PdfWords {
  title: string;
  author: string;
}

/** A picture that fills a page. */
export interface PdfPicture {
  /** a JPEG, RGB */
  jpeg: Uint8Array;
  /** px */
  width: number;
  height: number;
  /** px an inch, which make the page's size */
  ppi: number;
  /** what its colours are; RGB of no space if not given */
  profile?: Uint8Array;
}

/**
 * A document of pages that pictures fill, each in its size and with its profile. The same pictures
 * make the same bytes.
 */
export async function pdfOf(
  pictures: readonly PdfPicture[],
  { title, author }: PdfWords,
): Promise<Uint8Array<ArrayBuffer>> {
  const document = await PDFDocument.create({ updateMetadata: false });
  document.setTitle(title);
  if (author) document.setAuthor(author);
  document.setProducer("Rhizome");
  for (const { jpeg, width, height, ppi, profile } of pictures) {
    const size: [number, number] = [
      (width / ppi) * POINTS_PER_INCH,
      (height / ppi) * POINTS_PER_INCH,
    ];
    const picture = await document.embedJpg(jpeg);
    const page = document.addPage(size);
    page.drawImage(picture, { x: 0, y: 0, width: size[0], height: size[1] });
    await picture.embed();
    if (!profile) continue;
    const { context } = document;
    const stream = context.flateStream(profile, { N: 3 });
    const space = [PDFName.of("ICCBased"), context.register(stream)];
    const { dict } = context.lookup(picture.ref) as PDFRawStream;
    dict.set(PDFName.of("ColorSpace"), context.obj(space));
  }
  return new Uint8Array(await document.save({ useObjectStreams: false }));
}
