import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["piscina", "@libsql/client", "libsql", "music-metadata"],
  poweredByHeader: false,
  // Types are checked once for the whole project by `npm run check`.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  sassOptions: {
    quietDeps: true,
    silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
  },
};

export default config;
