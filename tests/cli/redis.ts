import { spawn, spawnSync, type ChildProcess } from "node:child_process";
import { mkdtemp, rm } from "node:fs/promises";
import { connect, createServer, type AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";

const COMMAND = "redis-server";
/** Whether this machine has a queue's server. */
export const hasQueueServer = spawnSync(COMMAND, ["--version"]).status === 0;

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

  /** @param bind  address at which it is found */
  constructor(private readonly bind = "127.0.0.1") {}

  get url(): string {
    return this.urlAt("127.0.0.1");
  }
  /** How it is called by machines that know this one by another address. */
  urlAt(host: string): string {
    return `redis://${host}:${this.port}`;
  }

  async start(): Promise<void> {
    this.dir ||= await mkdtemp(join(tmpdir(), "rhizome-queue-"));
    this.port ||= await freePort();
    const how = ["--port", `${this.port}`, "--bind", this.bind, "--dir", this.dir];
    // it has no password, and holds only what is made up
    if (this.bind !== "127.0.0.1") how.push("--protected-mode", "no");
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
  /** a command by which the next calls are made */
  static through: readonly string[] = [];
  out = "";
  err = "";
  private code: number | undefined;
  private readonly ended: Promise<void>;

  private readonly process: ChildProcess;
  constructor(...args: string[]) {
    const [command, ...before] = Running.through;
    const all = [...before, process.execPath, "bin/rhizome", ...args];
    this.process = command ? spawn(command, all) : spawn(all[0]!, all.slice(1));
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
