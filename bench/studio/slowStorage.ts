import { connect, createServer, type AddressInfo, type Server, type Socket } from "node:net";

const CHUNK = 64 * 1024;
const TICK_MS = 5;

/** A storage that all share: it gives a number of bytes a second, in turns to all who wait. */
export class SlowStorage {
  private readonly waiting: { socket: Socket; left: number }[] = [];
  private readonly server: Server;
  private timer?: NodeJS.Timeout;
  private allowed = 0;

  /** @param rate  bytes a second */
  constructor(private readonly rate: number) {
    this.server = createServer((socket) => {
      socket.on("error", () => undefined);
      socket.once("data", (text) => this.waiting.push({ socket, left: Number(String(text)) }));
    });
  }

  async start(): Promise<void> {
    await new Promise<void>((resolve) => this.server.listen(0, "127.0.0.1", resolve));
    let last = performance.now();
    this.timer = setInterval(() => {
      const now = performance.now();
      // what nobody asked for is not saved up
      const most = this.waiting.length ? Infinity : CHUNK;
      this.allowed = Math.min(most, this.allowed + ((now - last) / 1000) * this.rate);
      last = now;
      this.giveInTurns();
    }, TICK_MS);
  }

  private giveInTurns(): void {
    while (this.allowed >= CHUNK && this.waiting.length) {
      const one = this.waiting.shift()!;
      const bytes = Math.min(CHUNK, one.left);
      one.socket.write(Buffer.alloc(bytes));
      one.left -= bytes;
      this.allowed -= bytes;
      if (one.left > 0) this.waiting.push(one);
      else one.socket.end();
    }
  }

  /** Takes bytes; writing them takes as long. */
  take(bytes: number): Promise<void> {
    const { port } = this.server.address() as AddressInfo;
    return new Promise((resolve, reject) => {
      const socket = connect(port, "127.0.0.1", () => socket.write(String(bytes)));
      socket.on("data", () => undefined);
      socket.once("close", () => resolve());
      socket.once("error", reject);
    });
  }

  end(): void {
    clearInterval(this.timer);
    this.server.close();
  }
}
