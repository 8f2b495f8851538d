// Throwaway looks: node look.mjs OUT PATH [WIDTH HEIGHT] [theme]
import { chromium } from "@playwright/test";
const [out, path, w = "1280", h = "800", theme = "bay"] = process.argv.slice(2);
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"] });
const page = await browser.newPage({ viewport: { width: +w, height: +h } });
page.on("console", (m) => m.type() === "error" && console.log("console:", m.text()));
page.on("pageerror", (e) => console.log("pageerror:", e.message));
await page.addInitScript((t) => localStorage.setItem("gritty-ember.preferences", JSON.stringify({ theme: t, author: "Ines", keys: true })), theme);
await page.goto(`http://127.0.0.1:8400${path}`);
await page.waitForTimeout(900);
if (process.env.DO) await (new Function("page", `return (async () => { ${process.env.DO} })()`))(page);
await page.waitForTimeout(300);
await page.screenshot({ path: out });
await browser.close();
