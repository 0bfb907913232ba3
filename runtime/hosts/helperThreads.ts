/**
 * A worker's request for a thread of its library: the page starts it, since a worker that starts
 * workers of its own can stand still for ever in Firefox, within the very constructor.
 */
export interface HelperRequest {
  kind: "helper";
  /** the library's script */
  url: string;
  /** the worker's end of the connection with the thread */
  port: MessagePort;
}

/** What a thread is told first: which script it is, and how it is heard. */
export type HelperStart = Pick<HelperRequest, "url" | "port">;

/** Whether a worker's message asks for a thread. */
export const isHelperRequest = (message: unknown): message is HelperRequest =>
  (message as { kind?: unknown } | null)?.kind === "helper";

/**
 * What stands in a worker for `Worker`: libraries that start threads get them from the page, and
 * are connected with them directly.
 *
 * @param ask  hands a request to the page
 */
export function pageWorker(
  ask: (request: HelperRequest, transfer: Transferable[]) => void,
): new (url: string | URL) => Pick<Worker, "onmessage" | "onerror" | "postMessage" | "terminate"> {
  return class PageWorker {
    onmessage: Worker["onmessage"] = null;
    onerror: Worker["onerror"] = null;
    private readonly port: MessagePort;

    constructor(url: string | URL) {
      const { port1, port2 } = new MessageChannel();
      this.port = port1;
      this.port.onmessage = (event) => this.onmessage?.call(this as unknown as Worker, event);
      ask({ kind: "helper", url: String(url), port: port2 }, [port2]);
    }

    postMessage(
      message: unknown,
      transfer: Transferable[] | StructuredSerializeOptions = [],
    ): void {
      if (Array.isArray(transfer)) this.port.postMessage(message, transfer);
      else this.port.postMessage(message, transfer);
    }

    /** The page ends threads with the worker that they belong to. */
    terminate(): void {
      this.port.close();
    }
  };
}
