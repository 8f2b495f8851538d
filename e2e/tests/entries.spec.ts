// Every kind of entry, from the sheet to the trail, and what it does to the job.
import type { Page } from "@playwright/test";
import { expect, nextMove, openJob, sheet, test, write } from "./workshop";

const trail = (page: Page) => page.getByRole("region", { name: "Trail" });

async function add(page: Page, kind: string): Promise<void> {
  await page.getByRole("button", { name: "Add to the trail" }).click();
  await sheet(page).getByRole("button", { name: kind, exact: true }).click();
  await expect(sheet(page).getByRole("heading", { name: kind })).toBeVisible();
}

test.beforeEach(async ({ page }) => {
  await openJob(page, "M-02");
});

test("a need that was checked stands among the needs with how it was checked", async ({ page }) => {
  const needs = page.getByRole("region", { name: "Needs" });
  await needs.getByRole("button", { name: /compression/ }).click();
  await sheet(page).getByRole("button", { name: "✓ proven" }).click();
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("how was it checked?").first()).toBeVisible();
  await sheet(page).getByLabel("How it was checked").fill("all three within a tenth of a bar");
  await write(page);
  await expect(needs.getByRole("button", { name: /compression/ })).toContainText("✓ proven");
  await expect(trail(page)).toContainText("compression: proven (all three within a tenth of a bar)");
});

test("codes read before the drive show what came back at once", async ({ page }) => {
  await add(page, "Codes read");
  await sheet(page).getByLabel("Codes, as the tool shows them").fill("P0302 pending, P03");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("P03 is no trouble code").first()).toBeVisible();
  await sheet(page).getByLabel("Codes, as the tool shows them").fill("P0302 pending; p1234");
  await expect(sheet(page).getByText("The maker's own code (powertrain)")).toBeVisible();
  await expect(sheet(page).getByText(/It cannot tell why that cylinder misses/)).toBeVisible();
  await expect(sheet(page).getByLabel("Read with")).toHaveValue("bay 2 reader");
  await write(page);
  await expect(page.getByRole("region", { name: "Embers" })).toContainText("Swap: stayed");
});

test("a drive that is not over yet asks for more revolutions", async ({ page }) => {
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await sheet(page).getByLabel("Crankshaft revolutions").fill("0.4k");
  await sheet(page).getByLabel("Cylinder 1").fill("4");
  await sheet(page).getByLabel("Cylinder 2").fill("0");
  await sheet(page).getByLabel("Cylinder 3").fill("0");
  await sheet(page).getByRole("group", { name: "Conditions" }).getByRole("button", { name: "wet" }).click();
  await write(page);
  await expect(nextMove(page)).toContainText("Drive on: not decided yet");
  await expect(nextMove(page)).toContainText(/About \d+ more revolutions like these would decide it/);
  await expect(trail(page)).toContainText("1: 4 2: 0 3: 0 over 400 revolutions, wet");
});

test("a part is fitted on suspicion, and the proof starts from less", async ({ page }) => {
  await add(page, "New part fitted");
  await sheet(page).getByLabel("Part", { exact: true }).fill("Plug");
  await sheet(page).getByLabel("Cylinder").click();
  await page.getByRole("option", { name: "3" }).click();
  await sheet(page).getByLabel("Cost of the part").fill("minus");
  await expect(sheet(page).getByText("minus is no number that can be read here")).toBeVisible();
  await sheet(page).getByLabel("Cost of the part").fill("9,80");
  await sheet(page).getByLabel("Time (min").fill("20 s");
  await write(page);
  await expect(page.locator('[data-cylinder="3"]')).toContainText("P3′");
  await expect(nextMove(page)).toContainText("Start, look for leaks, save and clear the codes");
  await nextMove(page).getByRole("button", { name: "Codes are cleared" }).click();
  await write(page);
  await expect(nextMove(page)).toContainText("60 % the new plug cured it");
});

test("a fault that comes back opens the verdict, and a closed job too", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/1`);
  await expect(nextMove(page)).toContainText("Closed");
  await nextMove(page).getByRole("button", { name: "Open it again" }).click();
  await sheet(page).getByLabel("Why").fill("The driver felt it again");
  await write(page);
  await add(page, "It came");
  await sheet(page).getByLabel("How it showed").fill("Two kicks on the pass");
  await sheet(page).getByLabel("Odometer").fill("85 100");
  await write(page);
  await expect(nextMove(page)).toContainText("It came back: the verdict is open again");
  await page.getByRole("link", { name: "Proof", exact: true }).click();
  await expect(page.getByText(/No proof can be reckoned: clean_until: the fault came back/)).toBeVisible();
  await page.goto(`${server.address}/jobs/1/report`);
  await expect(page.getByRole("article")).toContainText("No: it came back after the repair.");
});

test("a correction counts in the place of what it corrects, and both can be read", async ({ page }) => {
  await page.getByRole("button", { name: "Correct entry 3" }).click();
  await expect(sheet(page).getByLabel("Cylinder 2")).toHaveValue("388");
  await sheet(page).getByLabel("Cylinder 2").fill("38");
  await write(page);
  await expect(page.locator('[data-cylinder="2"]')).toContainText("0.36 %");
  await expect(trail(page)).toContainText("Misfires counted (corrects 3)");
  await expect(trail(page)).toContainText("Misfires counted – corrected, counts no more");
});

test("the complaint can be completed later", async ({ page }) => {
  await page.getByRole("button", { name: "Correct entry 1" }).click();
  await sheet(page).getByLabel("Noticed at").fill("6190; 6288; 7000");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("7000 km lies beyond the reading now").first()).toBeVisible();
  await sheet(page).getByLabel("Noticed at").fill("6190; 6288");
  await write(page);
  await expect(page.getByRole("region", { name: "Road" })).toContainText("noticed 2 times");
});

test("parts can be listed by hand, and put back without asking a question", async ({ page }) => {
  await add(page, "Parts moved");
  await expect(sheet(page).getByText("Nothing is moved yet.")).toBeVisible();
  await sheet(page).getByRole("button", { name: "Add", exact: true }).click();
  await expect(sheet(page).getByRole("list", { name: "Parts that changed places" })).toContainText("lead 1 ↔ 2");
  await sheet(page).getByLabel("Only put back where they belong").check();
  await write(page);
  await expect(trail(page)).toContainText("put back: lead 1 ↔ 2");
  await expect(page.locator('[data-cylinder="2"]')).toContainText("L2");
});

test("a planned move can be taken back, and a reload keeps the rest", async ({ page }) => {
  await page.getByRole("button", { name: /^lead L3,/ }).click();
  await page.getByRole("button", { name: "Put L3 on cylinder 1" }).click();
  await page.getByRole("button", { name: /^plug P1,/ }).click();
  await page.getByRole("button", { name: "Put P1 on cylinder 2" }).click();
  const planned = page.getByRole("region", { name: "Planned moves" });
  await planned.getByRole("button", { name: "Take back plug 1 ↔ 2" }).click();
  await page.reload();
  await expect(planned).toContainText("lead 3 ↔ 1");
  await expect(planned).not.toContainText("plug");
});
