// Bundles the command line, its worker and the web server for Node.
import { build } from "esbuild";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));
await build({
  absWorkingDir: root,
  outdir: "build/node",
  bundle: true,
  // what a command alone needs is loaded by it alone
  splitting: true,
  platform: "node",
  format: "esm",
  target: "node20",
  packages: "external",
  sourcemap: "linked",
  logLevel: "warning",
  entryPoints: {
    cli: "cli/main.ts",
    worker: "pipeline/worker/nodeWorker.ts",
    server: "server/main.ts",
    demoFrames: "demo/takeFrames.ts",
    benchFrames: "bench/frames.ts",
    benchBringIn: "bench/bringIn.ts",
    benchAccuracy: "bench/accuracy.ts",
    benchSweep: "bench/sweep.ts",
    benchFocus: "bench/focusRun.ts",
    benchFocusTable: "bench/focusTable.ts",
    benchKernels: "bench/kernels.ts",
    benchFinish: "bench/finish.ts",
    benchMutatedFiles: "bench/mutatedFiles.ts",
    benchNoise: "bench/noise.ts",
    benchRepair: "bench/repair.ts",
    benchTone: "bench/tone.ts",
    benchPhotographBracket: "bench/photographBracket.ts",
    benchPhotographShoot: "bench/photographShoot.ts",
    benchResiduals: "bench/residuals.ts",
    benchUpright: "bench/upright.ts",
    benchThinOverlap: "bench/thinOverlap.ts",
    benchOutput: "bench/output.ts",
    benchStudioThroughput: "bench/studio/throughput.ts",
    benchStudioKills: "bench/studio/kills.ts",
  },
});
