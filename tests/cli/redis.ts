import { spawn, spawnSync, type ChildProcess } from "node:child_process";
import { mkdtemp, rm } from "node:fs/promises";
import { connect, createServer, type AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";

const COMMAND = "redis-server";
const isThere = spawnSync(COMMAND, ["--version"]).status === 0;

/** Tests that need a queue's server; where it is missing they are left out by name. */
export const describeWithQueue = isThere ? describe : describe.skip;

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => resolve(port));
    });
  });

/** Whether something listens at a port. */
const answers = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(port, "127.0.0.1")
      .once("connect", () => {
        socket.destroy();
        resolve(true);
      })
      .once("error", () => resolve(false));
  });

export async function until(is: () => Promise<boolean> | boolean, ms = 60_000): Promise<void> {
  const began = Date.now();
  while (!(await is())) {
    if (Date.now() - began > ms) throw new Error("It did not happen in time.");
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

/** A queue's server of its own, with its data on disk. */
export class OwnQueue {
  private server?: ChildProcess;
  private dir = "";
  private port = 0;

  get url(): string {
    return `redis://127.0.0.1:${this.port}`;
  }

  async start(): Promise<void> {
    this.dir ||= await mkdtemp(join(tmpdir(), "rhizome-queue-"));
    this.port ||= await freePort();
    const how = ["--port", `${this.port}`, "--bind", "127.0.0.1", "--dir", this.dir];
    const kept = ["--appendonly", "yes", "--appendfsync", "always", "--save", ""];
    this.server = spawn(COMMAND, [...how, ...kept], { stdio: "ignore" });
    await until(() => answers(this.port));
  }

  /** Ends it as a failing machine would. */
  async kill(): Promise<void> {
    const { server } = this;
    if (!server) return;
    const gone = new Promise((resolve) => server.once("exit", resolve));
    server.kill("SIGKILL");
    await gone;
    delete this.server;
  }

  /** Removes what it has on disk. */
  async forget(): Promise<void> {
    await rm(this.dir, { recursive: true, force: true });
    this.dir = "";
  }

  async end(): Promise<void> {
    await this.kill();
    await this.forget();
  }
}

/** A call of the command line that goes on by itself. */
export class Running {
  out = "";
  err = "";
  private code: number | undefined;
  private readonly ended: Promise<void>;

  private readonly process: ChildProcess;
  constructor(...args: string[]) {
    this.process = spawn(process.execPath, ["bin/rhizome", ...args]);
    this.process.stdout!.on("data", (text) => (this.out += String(text)));
    this.process.stderr!.on("data", (text) => (this.err += String(text)));
    this.ended = new Promise((resolve) => {
      this.process.once("close", (code) => {
        this.code = code ?? -1;
        resolve();
      });
    });
  }

  signal(signal: NodeJS.Signals): void {
    this.process.kill(signal);
  }
  get isOver(): boolean {
    return this.code !== undefined;
  }
  /** @returns its exit status; -1 where it was killed */
  async end(): Promise<number> {
    await this.ended;
    return this.code!;
  }
  async kill(): Promise<void> {
    this.signal("SIGKILL");
    await this.ended;
  }
}
