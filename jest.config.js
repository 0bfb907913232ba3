const transform = { "^.+\\.tsx?$": "<rootDir>/tests/transform.cjs" };
const common = { transform, extensionsToTreatAsEsm: [".ts", ".tsx"], testEnvironment: "node" };

export default {
  projects: [
    {
      ...common,
      displayName: "unit",
      testMatch: [
        "<rootDir>/{core,kernels,codecs,runtime,pipeline,simulate,cli,app,server}/**/*.test.ts",
      ],
    },
    {
      ...common,
      displayName: "browser",
      testMatch: ["<rootDir>/tests/browser/**/*.test.ts"],
      globalSetup: "<rootDir>/tests/browser/demoProfile.ts",
      globalTeardown: "<rootDir>/tests/browser/dropDemoProfile.ts",
    },
    {
      ...common,
      displayName: "firefox",
      testMatch: ["<rootDir>/tests/firefox/**/*.test.ts"],
    },
  ],
  // Jest leaves a core free by itself, which is half of two
  maxWorkers: "100%",
  // a shared machine may be several times slower for an hour
  testTimeout: 400000,
};
