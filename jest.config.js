const transform = { "^.+\\.tsx?$": "<rootDir>/tests/transform.cjs" };
const common = { transform, extensionsToTreatAsEsm: [".ts", ".tsx"], testEnvironment: "node" };

export default {
  projects: [
    {
      ...common,
      displayName: "unit",
      testMatch: ["<rootDir>/{core,kernels,codecs,engine,cli,app}/**/*.test.ts"],
    },
    { ...common, displayName: "browser", testMatch: ["<rootDir>/tests/browser/**/*.test.ts"] },
  ],
  // a shared machine may be several times slower for an hour
  testTimeout: 400000,
};
