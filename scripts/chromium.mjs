/** The browser that the tests drive. */
import { existsSync } from "node:fs";

/** Debian's Chromium without a window: it does a quarter less beside the pages than the whole one. */
export const chromiumPackage = "chromium-headless-shell";

const places = [`/usr/bin/${chromiumPackage}`, "/usr/bin/chromium"];

/** Where it is, unless the environment says otherwise; null where it is not installed. */
export const chromiumPath = () => process.env.CHROMIUM ?? places.find(existsSync) ?? null;
