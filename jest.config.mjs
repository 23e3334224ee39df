const shared = {
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
  moduleNameMapper: { "^@/(.*)$": "<rootDir>/src/$1" },
};

const config = {
  // Real workers and real files: slow machines may take their time.
  testTimeout: 60_000,
  projects: [
    {
      ...shared,
      displayName: "node",
      testEnvironment: "node",
      testMatch: ["<rootDir>/src/**/*.test.ts", "<rootDir>/bench/**/*.test.ts"],
    },
    {
      ...shared,
      displayName: "browser",
      testEnvironment: "jsdom",
      testMatch: ["<rootDir>/src/**/*.test.tsx"],
      moduleNameMapper: {
        ...shared.moduleNameMapper,
        // The address bar of the tests.
        "^next/navigation$": "<rootDir>/src/views/testing/navigation.ts",
      },
    },
  ],
};

export default config;
