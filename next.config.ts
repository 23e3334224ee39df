import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["piscina", "@libsql/client", "libsql", "music-metadata"],
  poweredByHeader: false,
  // Types are checked once for the whole project by `npm run check`.
  typescript: { ignoreBuildErrors: true },
  devIndicators: false,
  // What only the server reads needs to be neither small nor mapped back: that takes a quarter of the build.
  experimental: { serverMinification: false, turbopackSourceMaps: false },
  sassOptions: {
    quietDeps: true,
    silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
  },
};

export default config;
