import { chromium } from "@playwright/test";
const browser = await chromium.launch({ executablePath: process.env.CHROME || "/usr/bin/chromium", args: ["--no-sandbox"] });
const [, , base, path, out, w = "1280", h = "800", theme = "light", ...clicks] = process.argv;
const page = await browser.newPage({ viewport: { width: +w, height: +h }, colorScheme: theme });
await page.addInitScript((t) => localStorage.setItem("theme", t), theme);
await page.goto(base, { waitUntil: "networkidle" });
const link = await page.locator("a", { hasText: "Copper Kites" }).first().getAttribute("href");
const id = link.split("/")[2];
await page.goto(`${base}/studies/${id}/${path}`, { waitUntil: "networkidle" });
await page.waitForTimeout(1500);
for (const c of clicks) { if (c.startsWith("scroll:")) await page.locator(c.slice(7)).first().scrollIntoViewIfNeeded(); else await page.locator(c).first().click(); await page.waitForTimeout(700); }
await page.screenshot({ path: out });
await browser.close();
