const config = {
  // Real workers and real files: slow machines may take their time.
  testTimeout: 60_000,
  projects: [
    {
      displayName: "node",
      // In plain Node, where a thread keeps its modules, and what it has compiled of them, from one file
      // of tests to the next. In threads, not in processes: of two that begin at once one may take the
      // other's answer, and that one then waits for ever.
      runner: "jest-light-runner",
      setupFiles: ["<rootDir>/scripts/readTypeScript.mjs"],
      testMatch: ["<rootDir>/src/**/*.test.ts", "<rootDir>/bench/**/*.test.ts"],
    },
    {
      displayName: "browser",
      testEnvironment: "jsdom",
      testMatch: ["<rootDir>/src/**/*.test.tsx"],
      extensionsToTreatAsEsm: [".ts", ".tsx"],
      transform: {
        "^.+\\.tsx?$": [
          "@swc/jest",
          {
            module: { type: "es6" },
            jsc: {
              target: "es2022",
              parser: { syntax: "typescript", tsx: true },
              transform: { react: { runtime: "automatic" } },
            },
          },
        ],
      },
      transformIgnorePatterns: ["/node_modules/"],
      moduleNameMapper: {
        // Elements as in the built pages: in development each takes down where in the code it was made.
        "^react/jsx-runtime$": "<rootDir>/node_modules/react/cjs/react-jsx-runtime.production.js",
        // The address bar of the tests.
        "^next/navigation$": "<rootDir>/src/views/testing/navigation.ts",
        "^@/(.*)$": "<rootDir>/src/$1",
      },
    },
  ],
};

export default config;
