// The evidence views and the screens around them: what they hold, what they say when there is too little, what can be
// taken away from them.
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { demo, expect, importLog, nextMove, openJob, sheet, test, write } from "./workshop";

const scratch = (name: string, text: string) => {
  const file = join(mkdtempSync(join(tmpdir(), "gritty-ember-")), name);
  writeFileSync(file, text);
  return file;
};

/** Presses what saves a plot and gives the saved text. */
async function saved(page: Page, button: string): Promise<string> {
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: button }).click();
  return readFileSync(await (await download).path(), "utf8");
}

async function evidence(page: Page, fleetNo: string, view: string): Promise<void> {
  await openJob(page, fleetNo);
  await page.getByRole("link", { name: /Open recording of entry/ }).click();
  await page.getByRole("tab", { name: view }).click();
}

test("the trims leave as a drawing and as a table", async ({ page }) => {
  await evidence(page, "W-12", "Trims");
  const drawing = await saved(page, "Save as SVG");
  expect(drawing).toContain("<svg");
  expect(drawing).toContain("air flow, g/s");
  const table = await saved(page, "Save as CSV");
  const [head, ...rows] = table.split("\r\n");
  expect(head).toBe("bank,airflow_gps,rpm,load_pct,map_kpa,short_pct,long_pct");
  expect(rows.length).toBeGreaterThan(40);
  expect(rows.every((row) => row.split(",").length === 7)).toBe(true);
});

test("the figure under the cursor is told with its doubt", async ({ page }) => {
  await evidence(page, "W-12", "Trims");
  const plot = page.getByRole("img", { name: /^Trims against air flow/ });
  const box = await plot.boundingBox();
  if (!box) throw new Error("the plot is not drawn");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await expect(page.getByText(/bank 1 at [\d.]+ g\/s: [\d.]+ % \([\d.]+ to [\d.]+\)/)).toBeVisible();
});

test("the charge pressure leaves as a table, and the cursor names the moment", async ({ page }) => {
  await evidence(page, "W-15", "Charge pressure");
  const table = await saved(page, "Save as CSV");
  expect(table.split("\r\n")[0]).toBe("time_s,requested_kpa,actual_kpa,rpm");
  const plot = page.getByRole("img", { name: /^Requested and actual charge pressure/ });
  const box = await plot.boundingBox();
  if (!box) throw new Error("the plot is not drawn");
  await page.mouse.move(box.x + box.width / 2, box.y + 60);
  await expect(page.getByText(/s: requested \d+ kPa, actual \d+ kPa, \d+ rpm/)).toBeVisible();
});

test("the map leaves as a table with every cell that was driven", async ({ page }) => {
  await openJob(page, "W-07");
  await importLog(page, demo("w07-where-it-misses.csv"));
  await page.getByRole("tab", { name: "Where it misses" }).click();
  await page.getByRole("table").waitFor();
  const rows = (await saved(page, "Save as CSV")).split("\r\n");
  expect(rows[0]).toContain("speed_from_rpm,speed_to_rpm,load_from_pct");
  const driven = await page.locator("td[title]").count();
  expect(rows.length - 1).toBe(driven * 4);
});

test("a file that is put on the trail becomes counts and a place on the road", async ({ page }) => {
  await openJob(page, "W-07");
  const before = await page.getByRole("button", { name: /^Correct entry/ }).count();
  await importLog(page, demo("w07-where-it-misses.csv"));
  await page.getByLabel("Odometer after it").fill("84 990");
  await page.getByLabel("How it was driven").fill("pass road");
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(page.getByText(/^On the trail as entry|entry \d+ of the trail/).first()).toBeVisible();
  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(page.getByRole("button", { name: /^Correct entry/ })).toHaveCount(before + 2);
  await expect(page.getByRole("region", { name: "Road" })).toContainText("84 990");
});

test("an odometer that runs backwards is refused and what was typed stays", async ({ page }) => {
  await openJob(page, "W-07");
  await importLog(page, demo("w07-where-it-misses.csv"));
  await page.getByLabel("Odometer after it").fill("100");
  await page.getByLabel("How it was driven").fill("pass road");
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(page.getByText(/runs backwards/)).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("How it was driven")).toHaveValue("pass road");
});

test("how a recording was driven can be put right", async ({ page }) => {
  await openJob(page, "W-12");
  await page.getByRole("button", { name: "Correct entry 4" }).click();
  await expect(sheet(page)).toContainText("What was recorded stays as it is");
  await sheet(page).getByLabel("How it was driven").fill("loop without the hill");
  await write(page);
  await expect(page.getByText(/loop without the hill/)).toBeVisible();
  await expect(nextMove(page)).toContainText("Look where the recording points");
});

test("a scan that is corrected keeps the units of its codes", async ({ page }) => {
  await openJob(page, "W-12");
  await page.getByRole("button", { name: "Correct entry 6" }).click();
  await sheet(page).getByLabel("Codes, as the tool shows them").fill("P0171 stored; U0401 pending; U0140 stored");
  await write(page);
  await page.getByRole("link", { name: "Units" }).click();
  const units = page.getByRole("region", { name: "Units" });
  await expect(units.getByText("gearbox", { exact: true })).toBeVisible();
  await expect(units).toContainText("U0401");
});

test("units are ordered, compared with before the clearing, and the stale code is told", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("u");
  const units = page.getByRole("region", { name: "Units" });
  await expect(units).toContainText("compared with entry 2 from before the clearing");
  await expect(units).toContainText("3 of 5 codes only echo another fault");
  await expect(units.getByText("stale").first()).toBeVisible();
  await expect(units).toContainText("An unread unit is not a clean one.");
});

test("the report tells what a recording found", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("o");
  await expect(page.getByRole("article")).toContainText("Unmetered air on bank 1, like a hole of 2.2 mm");
});

test("traces are moved and scaled by button", async ({ page }) => {
  await evidence(page, "W-12", "Traces");
  const span = page.getByRole("status").filter({ hasText: / s/ }).last();
  await page.getByRole("button", { name: "Closer" }).click();
  await expect(span).toContainText("105.0 to 315.0 s");
  await page.getByRole("button", { name: "Earlier" }).click();
  await expect(span).toContainText("0.0 to 210.0 s");
  await expect(page.getByRole("button", { name: "Earlier" })).toBeDisabled();
  await page.getByRole("button", { name: "Later" }).click();
  await expect(span).toContainText("105.0 to 315.0 s");
  await page.getByRole("button", { name: "Further" }).click();
  await expect(span).toContainText("0.0 to 420.0 s");
});

test("the figure of every lane follows one cursor", async ({ page }) => {
  await evidence(page, "W-12", "Traces");
  const lane = page.getByRole("img", { name: /^air flow over time/ });
  await lane.waitFor();
  const box = await lane.boundingBox();
  if (!box) throw new Error("the lane is not drawn");
  const speed = page.getByText("engine speed", { exact: true }).locator("xpath=following-sibling::*[1]");
  const whole = await speed.textContent();
  await page.mouse.move(box.x + box.width * 0.1, box.y + 30);
  await expect(speed).not.toHaveText(whole ?? "");
  const idle = Number((await speed.textContent())?.split("…")[0]?.replace(/[^\d.]/g, ""));
  expect(idle).toBeLessThan(1000);
});

test("a recording that holds too little says what is missing", async ({ page }) => {
  const rows = Array.from({ length: 30 }, (_, i) => `${i / 10},${800 + i},12.5`).join("\n");
  await openJob(page, "W-12");
  await importLog(page, scratch("short.csv", `time,rpm,supply voltage\n${rows}`));
  await expect(page.getByRole("tab")).toHaveText(["Traces"]);
  const flat = Array.from({ length: 30 }, (_, i) => `${i / 10},${800 + i * 90},${5 + i * 3},1,2`).join("\n");
  await page.goBack();
  await page.locator('input[type="file"]').setInputFiles(scratch("ramp.csv", `time,rpm,MAF,STFT1,LTFT1\n${flat}`));
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByRole("tab", { name: "Trims" }).click();
  await expect(page.getByText(/No steady stretch of warm, closed-loop running was recorded/)).toBeVisible();
});

test("recordings and pages that are not there are said", async ({ page, server }) => {
  await page.goto(`${server.address}/recordings/999`);
  await expect(page.getByText(/no such recording|is not here|There is no/i).first()).toBeVisible();
  await page.goto(`${server.address}/jobs/2/units`);
  await expect(page.getByRole("heading", { name: "M-02: units" })).toBeVisible();
});

test("figures are chosen and kept on the tablet", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("l");
  await page.getByRole("button", { name: /Connect to W-12/ }).click();
  await page.getByRole("tab", { name: "Live data" }).click();
  await page.getByRole("button", { name: "Watch live data" }).click();
  const figures = page.getByRole("region", { name: "Live figures" });
  await expect(figures).toContainText("engine speed");
  await page.getByRole("button", { name: "Choose figures" }).click();
  await page.getByRole("group", { name: "Figures" }).getByRole("button", { name: "engine speed" }).click();
  await expect(figures).not.toContainText("engine speed");
  await page.reload();
  await page.getByRole("tab", { name: "Live data" }).click();
  await expect(figures).toContainText("load");
  await expect(figures).not.toContainText("engine speed");
});
