import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["piscina", "@libsql/client", "libsql"],
  poweredByHeader: false,
  devIndicators: false,
  sassOptions: {
    quietDeps: true,
    silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
  },
};

export default config;
