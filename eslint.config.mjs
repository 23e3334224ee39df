import { dirname } from "node:path";
import { fileURLToPath } from "node:url";
import next from "eslint-config-next/core-web-vitals";
import nextTypescript from "eslint-config-next/typescript";
import prettier from "eslint-config-prettier";

const here = dirname(fileURLToPath(import.meta.url));

/** Forbids imports from the folders named; imports point inward. */
const not = (folders, message) => ({
  "no-restricted-imports": [
    "error",
    {
      patterns: folders.map((folder) => ({
        regex: `^(@/|(\\.\\./)+)${folder}(/|$)`,
        message,
        allowTypeImports: false,
      })),
    },
  ],
});

const config = [
  {
    ignores: [
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
  prettier,
  {
    files: ["**/*.{ts,tsx}"],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: here } },
    rules: {
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-explicit-any": "error",
      "no-console": ["error", { allow: ["error", "warn"] }],
    },
  },
  // Where there is no React, its slow rules have nothing to find.
  {
    files: ["src/{core,models,server,cli,demo}/**", "bench/**", "e2e/**", "scripts/**"],
    rules: Object.fromEntries(
      next
        .flatMap((entry) => Object.keys(entry.rules ?? {}))
        .filter((rule) => /^(react|react-hooks|jsx-a11y|@next\/next)\//.test(rule))
        .map((rule) => [rule, "off"]),
    ),
  },
  { files: ["bench/**", "src/demo/seed.ts", "scripts/**"], rules: { "no-console": "off" } },
  {
    files: ["src/core/**/*.ts"],
    ignores: ["src/core/**/*.test.ts"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: [
            { regex: "^@/(?!core/)", message: "The core imports nothing of ours from outside itself." },
            {
              regex: "^(node:|react|next|drizzle|@libsql)",
              message: "The core is plain TypeScript: no Node, no framework, no database.",
            },
          ],
        },
      ],
    },
  },
  {
    files: ["src/views/**/*.{ts,tsx}", "src/components/**/*.{ts,tsx}", "src/listening/**/*.{ts,tsx}"],
    rules: not(["server", "app", "demo", "cli"], "Views never reach into the server."),
  },
  {
    files: ["src/models/**/*.ts"],
    ignores: ["src/models/**/*.test.ts"],
    rules: not(
      ["server", "app", "views", "components", "listening", "demo", "cli"],
      "Models are pure: from results to what a page, the command line or a report says.",
    ),
  },
  {
    files: ["src/server/**/*.ts"],
    ignores: ["src/server/**/*.test.ts", "src/server/testing/**"],
    rules: not(
      ["views", "app", "components", "listening", "demo", "cli"],
      "The server knows the core and itself.",
    ),
  },
];

export default config;
