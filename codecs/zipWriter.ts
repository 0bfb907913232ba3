import {
  BlobReader,
  configure,
  TextReader,
  ZipWriter,
} from "@zip.js/zip.js/lib/zip-core-native.js";

// the checksums are ours to make, where the call comes from; nothing is packed
configure({ useWebWorkers: false, useCompressionStream: true });

/**
 * Writes a zip piece by piece, its files as they are: pictures do not get smaller by packing. It may
 * be larger than 4 GB (zip64).
 */
export class ZipOut {
  private readonly writer: ZipWriter<unknown>;

  /**
   * Begins a zip.
   *
   * @param sink  takes the zip's bytes in their order; it is waited for
   */
  constructor(sink: WritableStream<Uint8Array<ArrayBuffer>>) {
    this.writer = new ZipWriter(sink, { level: 0, keepOrder: true, extendedTimestamp: false });
  }

  /**
   * Adds a file.
   *
   * @param path  in the zip, with slashes
   * @throws what the sink throws
   */
  async add(path: string, content: Blob | string): Promise<void> {
    const reader = typeof content === "string" ? new TextReader(content) : new BlobReader(content);
    await this.writer.add(path, reader);
  }

  /** Writes the index at the end and closes the sink. */
  async close(): Promise<void> {
    await this.writer.close();
  }
}
