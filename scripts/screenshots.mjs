/** Takes the pictures of the README from a running demo: `node scripts/screenshots.mjs [address]`. */
import { chromium } from "@playwright/test";

const address = process.argv[2] ?? "http://localhost:3000";
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox"],
});

async function picture(name, path, theme = "light", act = async () => {}) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript((t) => localStorage.setItem("theme", t), theme);
  await page.goto(address + path);
  await page.waitForTimeout(1500);
  await act(page);
  await page.waitForTimeout(300);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
  await page.close();
}

const page = await browser.newPage();
await page.goto(address);
const baseOf = async (title) =>
  (await page.getByRole("link", { name: title }).getAttribute("href")).replace(/\/overview$/, "");
const base = await baseOf("Copper Kites");
const tram = await baseOf("Paper Tram");
await page.close();
await picture("home", "/");
await picture("overview", `${base}/overview`);
await picture("grid", `${base}/grid?bars=21-24`);
await picture("harmony", `${base}/harmony?version=2`);
await picture("sections", `${base}/sections`);
await picture("drums", `${base}/drums`);
await picture("lowend", `${base}/lowend?version=3`);
await picture("bass-dark", `${base}/lowend?look=bass&version=3&bars=5-8`, "dark", async (page) => {
  await page.locator(".bass-note.differs").first().click();
});
await picture("hits", `${base}/hits?version=3`, "light", async (page) => {
  await page.getByTestId("hit-closeness").waitFor();
});
await picture("candidates", `${base}/hits?look=candidates`, "light", async (page) => {
  await page.getByRole("button", { name: "felt kick.wav", exact: true }).click();
  await page.getByRole("button", { name: "Find a layer among the others" }).click();
  await page.getByRole("list", { name: "Layers, best first" }).waitFor();
});
await picture("tone", `${base}/tone?version=3`);
await picture("tone-dark", `${base}/tone?version=3&bars=41-52`, "dark", async (page) => {
  await page.getByRole("button", { name: "difference" }).click();
  await page.getByRole("heading", { name: "Over time" }).evaluate((own) => own.scrollIntoView());
});
await picture("loudness", `${base}/loudness?version=3`);
await picture("stereo", `${base}/stereo?version=2`);
await picture("loop", `${tram}/overview`);
await picture("elements", `${base}/elements`);
await picture("yardstick-dark", `${base}/yardstick`, "dark");
await picture("versions", `${base}/versions`);
await picture("report", `${base}/report`);
await browser.close();
