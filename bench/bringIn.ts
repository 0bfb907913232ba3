// Reads 100 JPEGs as bringing in does (metadata, hash, thumbnail), then groups them: node
// build/node/benchBringIn.js FILE...
import { basename } from "node:path";
import { nodeHost } from "../runtime/hosts/node";
import { Pool } from "../pipeline/pool";

const files = process.argv.slice(2);
const pool = new Pool(nodeHost(new URL("./worker.js", import.meta.url)));
await pool.run("inspect", {
  source: { name: basename(files[0]!), path: files[0]! },
  thumbnail: 360,
});
const t0 = performance.now();
const read = await Promise.all(
  files.map((path) =>
    pool.run("inspect", {
      source: { name: basename(path), path },
      thumbnail: 360,
      signature: true,
    }),
  ),
);
const t1 = performance.now();
await pool.run("group", {
  frames: read.map((r) => r.info),
  signatures: read.map((r) => r.signature),
});
console.log(
  JSON.stringify({
    ms: Math.round(performance.now() - t0),
    readMs: Math.round(t1 - t0),
    groupMs: Math.round(performance.now() - t1),
  }),
);
process.exit(0);
