// The import rule of the architecture: an arrow is "may import"; nothing else may.
const may = {
  kernels: [],
  core: ["kernels"],
  codecs: ["core", "kernels"],
  runtime: ["kernels", "core"],
  simulate: ["core", "kernels"],
  pipeline: ["runtime", "core", "codecs", "kernels", "simulate"],
  app: ["pipeline", "runtime", "core", "codecs", "simulate"],
  cli: ["pipeline", "runtime", "core", "codecs"],
  server: ["pipeline"],
  demo: ["core", "codecs", "simulate"],
};
const test = "\\.test\\.tsx?$";

module.exports = {
  forbidden: [
    {
      name: "no-circular",
      severity: "error",
      from: {},
      to: { circular: true, dependencyTypesNot: ["type-only"] },
    },
    ...Object.entries(may).map(([folder, allowed]) => ({
      name: `${folder}-imports`,
      severity: "error",
      from: { path: `^${folder}/`, pathNot: test },
      to: {
        path: `^(${Object.keys(may)
          .filter((f) => f !== folder && !allowed.includes(f))
          .join("|")})/`,
      },
    })),
    {
      name: "runtime-knows-no-imaging",
      severity: "error",
      from: { path: "^runtime/", pathNot: test },
      to: { path: "^core/", pathNot: "^core/(error|math/)" },
    },
    {
      name: "core-is-pure",
      severity: "error",
      from: { path: "^(core|kernels)/", pathNot: test },
      to: { dependencyTypes: ["core", "npm"], pathNot: "node_modules/valibot" },
    },
    {
      name: "one-door-to-storage",
      severity: "error",
      from: { path: "^app/", pathNot: "^app/store/" },
      to: { path: "node_modules/idb" },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "kernels/src|\\+types" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
  },
};
