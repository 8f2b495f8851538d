import { chromium } from "@playwright/test";
import { pathToFileURL } from "node:url";
const steps = (await import(pathToFileURL(process.argv[2]).href)).default;
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox","--disable-gpu","--disable-quic","--no-first-run","--disable-background-networking","--disable-component-update","--disable-sync"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("console", (m) => m.type() === "error" && console.log("console:", m.text().slice(0, 300)));
page.on("pageerror", (e) => console.log("pageerror:", e.message.slice(0, 300)));
await page.addInitScript(() => localStorage.setItem("gritty-ember.preferences", JSON.stringify({ theme: window.name || "bay", author: "Ines", keys: true })));
page.setDefaultTimeout(6000);
const base = process.env.BASE ?? "http://127.0.0.1:8399";
const shot = async (name) => { await page.mouse.move(2, 2); await page.waitForTimeout(500); await page.screenshot({ path: `/tmp/shots/${name}.png` }); };
try { await steps({ page, base, shot }); } catch (e) { console.log(String(e).slice(0, 1500)); await page.screenshot({ path: "/tmp/shots/failed.png" }); }
await browser.close();
