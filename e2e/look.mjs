import { chromium } from "@playwright/test";
const [out, path, w = "1280", h = "800", theme = "bay"] = process.argv.slice(2);
const b = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox","--disable-gpu","--disable-quic","--no-first-run","--disable-background-networking","--disable-component-update","--disable-sync"] });
const p = await b.newPage({ viewport: { width: +w, height: +h } });
p.on("console", (m) => m.type() === "error" && console.log("console:", m.text()));
p.on("pageerror", (e) => console.log("pageerror:", e.message));
await p.goto(`http://127.0.0.1:8400${path}`);
await p.waitForLoadState("networkidle");
if (process.env.DO) { await eval(`(async()=>{${process.env.DO}})()`); await p.waitForTimeout(400); }
await p.screenshot({ path: out });
await b.close();
