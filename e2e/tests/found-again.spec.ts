// Reports as files, jobs found again, a vehicle's history, numbers, buying, learning, and a backup.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { binary, expect, nextMove, openJob, test } from "./workshop";

test("the report leaves as PDF, Markdown and JSON, for the owner and for the technician", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/1/report`);
  const article = page.getByRole("article");
  await expect(article).toContainText("The plug of cylinder 3 carried the fault");
  await expect(article).not.toContainText("decibans");
  await page.getByRole("tab", { name: "For the technician" }).click();
  await expect(article).toContainText("The trail");
  await expect(article).toContainText("Hairline crack in the insulator");
  for (const [kind, type] of [
    [".pdf", "application/pdf"],
    [".md", "text/markdown; charset=utf-8"],
    ["", "application/json"],
  ]) {
    const answer = await page.request.get(`${server.address}/api/jobs/1/report${kind}?reader=technician`);
    expect(answer.headers()["content-type"]).toBe(type);
    const bytes = await answer.body();
    if (kind === ".pdf") expect(bytes.subarray(0, 5).toString()).toBe("%PDF-");
    else expect(bytes.toString()).toContain("CD-4417");
  }
});

test("a job is found by any of its words, and its vehicle's history shows what was replaced", async ({ page }) => {
  await page.keyboard.press("/");
  const words = page.getByLabel("Words, a code, a part, a fleet number");
  await words.fill("hairline");
  await expect(page.getByRole("link", { name: /W-07.*Hairline crack/ })).toBeVisible();
  await words.fill("P0087");
  await page.getByRole("button", { name: "code", exact: true }).click();
  await expect(page.getByRole("link", { name: /W-21/ })).toBeVisible();
  await words.fill("nosuchword");
  await expect(page.getByText("No job holds all of these words.")).toBeVisible();
  await words.fill('"*');
  await expect(page.getByText(/write a word, a code, a part/)).toBeVisible();
  await words.fill("4417");
  await page.getByRole("button", { name: "part", exact: true }).click();
  await page.getByRole("link", { name: /W-07/ }).click();
  await expect(nextMove(page)).toBeVisible();
  await page.getByRole("link", { name: "W-07" }).click();
  await expect(page.getByRole("region", { name: "Replaced" })).toContainText("plug at cylinder 2");
  await expect(page.getByRole("region", { name: "Replaced" })).toContainText("was needed");
  await page.keyboard.press("d");
  await expect(page.getByText(/Right first time 1 of 1/)).toBeVisible();
});

test("numbers are compared, and an old number from another cylinder stops the work", async ({ page }) => {
  await openJob(page, "W-15");
  await page.keyboard.press("r");
  await page.getByRole("tab", { name: "Numbers" }).click();
  await page.getByRole("button", { name: "Another cylinder" }).click();
  await page.getByLabel("printed on the old part").first().fill("A7F2C1");
  await page.getByLabel("stored in the unit before").first().fill("B8B8B8");
  await page.getByLabel("stored in the unit before").nth(1).fill("a7f2c1000");
  const compared = page.getByRole("region", { name: "Comparison" });
  await expect(compared).toContainText("The old part's number is stored for cylinder 2, not here.");
  await page.getByLabel("stored in the unit before").first().fill("A7F2C1FFF");
  await page.getByLabel("printed on the new part").first().fill("C0");
  await expect(page.getByText("has 2 characters; 6 to 30 are printed on such a part").first()).toBeVisible();
  await page.getByLabel("printed on the new part").first().fill("C0FFEE");
  await page.getByLabel("read back after writing").first().fill("C0FFEE");
  await expect(compared).toContainText("the stored one, filled up: this is the right cylinder. The new number is in.");
});

test("what to buy is weighed, and a cure that does not fit is not offered", async ({ page }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("r");
  await page.getByRole("tab", { name: "What to buy" }).click();
  await page.getByLabel("Part", { exact: true }).fill("lead");
  await page.getByLabel("How likely it is to blame").fill("95 %");
  await page.getByLabel("Like it on this engine").fill("3");
  await page.getByLabel("The way it failed").click();
  await page.getByRole("option", { name: "cracked or broken" }).click();
  await page.getByLabel("Price").first().fill("24,50");
  await page.getByLabel("What", { exact: true }).nth(1).click();
  await page.getByRole("option", { name: "repair kit" }).click();
  await page.getByLabel("Price").nth(1).fill("6");
  const weighed = page.getByRole("region", { name: "Weighed" });
  await expect(weighed).toContainText("Not offered: repair kit. It does not cure a part that is cracked or broken.");
  await weighed.getByRole("button", { name: "new, from the maker: one" }).click();
  await page.getByRole("button", { name: "Decide and order" }).click();
  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("Decided what to buy");
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("Ordered: 1 × lead");
});

test("what is learnt again has its timer, which outlives a reload", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("r");
  await page.getByRole("tab", { name: "Learn again" }).click();
  await page.getByRole("button", { name: "Begin" }).nth(1).click();
  await page.reload();
  await expect(page.getByRole("timer", { name: /Let the throttle find its stops/ })).not.toHaveText("0:30");
  await page.getByRole("button", { name: /Write down after/ }).click();
  await expect(page.getByText("Let the throttle find its stops – done")).toBeVisible();
  await page
    .getByRole("group", { name: "Not ready yet" })
    .getByRole("button", { name: "catalyst", exact: true })
    .click();
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("not yet: catalyst");
});

test("a backup of the running server comes back as it was", async ({ page, server }) => {
  await page.goto(`${server.address}/book/workshop`);
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Make a backup now" }).click();
  const file = join(mkdtempSync(join(tmpdir(), "backup-")), "copy");
  await (await download).saveAs(file);
  expect(readFileSync(file).subarray(0, 15).toString()).toBe("SQLite format 3");
  const folder = join(file, "..", "back");
  const said = execFileSync(binary, ["restore", "--from", file, "--data", folder]).toString();
  expect(said).toContain("7 vehicles, 8 jobs");
  expect(execFileSync(binary, ["check", "--data", folder]).toString()).toContain("is sound");
});
