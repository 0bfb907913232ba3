/** Where a file's bytes are: a Blob in the browser, a path on Node. */
export interface FileSource {
  name: string;
  blob?: Blob;
  path?: string;
}

/** The bytes of a file that was made, piece by piece. */
export type Parts = Uint8Array<ArrayBuffer>[];
