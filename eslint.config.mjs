/**
 * What only the rules for React and Next.js find. All else, the direction of imports among it, is in
 * `.oxlintrc.json`, whose program takes seconds where this one takes a minute.
 */
import next from "eslint-config-next/core-web-vitals";
import nextTypescript from "eslint-config-next/typescript";

const config = [
  {
    ignores: [
      "**/*.test.{ts,tsx}",
      "src/{core,models,server,cli,demo}",
      "bench",
      "e2e",
      "scripts",
      "node_modules",
      ".next",
      "dist",
      "data",
      ".cache",
      "public",
      "next-env.d.ts",
      "playwright-report",
      "test-results",
    ],
  },
  ...next,
  ...nextTypescript,
  {
    files: ["**/*.{ts,tsx}"],
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
    },
  },
];

export default config;
