// The same story without touching the mouse.
import type { Page } from "@playwright/test";
import { expect, importFile, nextMove, sheet, test } from "./workshop";

/** Presses Tab until the focus is where it should be. */
async function tabTo(page: Page, name: RegExp | string): Promise<void> {
  const matches = (text: string) => (typeof name === "string" ? text === name : name.test(text));
  for (let presses = 0; presses < 90; presses++) {
    const focused = await page.evaluate(() => {
      const element = document.activeElement as HTMLElement | null;
      const input = element as HTMLInputElement | null;
      const label = input?.labels?.[0]?.textContent ?? "";
      return element?.getAttribute("aria-label") ?? (label || element?.textContent || "");
    });
    if (matches(focused.trim())) return;
    await page.keyboard.press("Tab");
  }
  throw new Error(`Tab never reached ${name}`);
}

async function type(page: Page, field: RegExp, text: string): Promise<void> {
  await tabTo(page, field);
  await page.keyboard.press("Control+A");
  await page.keyboard.type(text);
}

/** Goes through the sheet by Tab: ticks what is to be ticked, then writes. */
async function writeByKeys(page: Page): Promise<void> {
  const cautions = sheet(page).getByRole("region", { name: "Cautions" }).getByRole("checkbox");
  for (const box of await cautions.all()) {
    if (await box.isChecked()) continue;
    await box.focus();
    await page.keyboard.press("Space");
  }
  await tabTo(page, "Write it down");
  await page.keyboard.press("Enter");
  await expect(sheet(page)).toBeHidden();
}

async function chooseFile(page: Page, file: string): Promise<void> {
  await tabTo(page, "Take them from a file");
  const chooser = page.waitForEvent("filechooser");
  await page.keyboard.press("Enter");
  await chooser;
  await importFile(page, file);
}

test("the whole story goes by keyboard alone", async ({ page }) => {
  await page.keyboard.press("j");
  await expect(page.getByRole("heading", { name: "New job" })).toBeVisible();
  await tabTo(page, /^W-07/);
  await page.keyboard.press("Enter");
  await tabTo(page, "misfire");
  await page.keyboard.press("Enter");
  await type(page, /^Watched since/, "82000");
  await type(page, /^Noticed at/, "83100; 83640; 83900; 84060; 84150");
  await type(page, /^Odometer now/, "84186");
  await page.keyboard.press("Enter");
  await expect(nextMove(page)).toContainText("Read every control unit");

  await page.keyboard.press("n");
  await page.keyboard.type("P0303 stored");
  await type(page, /^Read with/, "bay 2 reader");
  await writeByKeys(page);

  await page.keyboard.press("n");
  await chooseFile(page, "w07-before-swap.csv");
  await type(page, /^Odometer/, "84204");
  await writeByKeys(page);
  await expect(nextMove(page)).toContainText("Swap: coil 3 ↔ 1, plug 3 ↔ 2");

  // A part is taken up with Enter and put down with the number of a cylinder; the plug goes by Tab and Enter.
  await tabTo(page, /^coil C3,/);
  await page.keyboard.press("Enter");
  await expect(page.getByText("C3 taken up: press the number of a cylinder")).toBeVisible();
  await page.keyboard.press("1");
  await expect(page.getByText("C3 and the coil of cylinder 1 change places")).toBeVisible();
  await page.getByRole("button", { name: /^plug P3,/ }).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Enter");
  await page.keyboard.press("2");
  await expect(page.getByRole("region", { name: "Planned moves" })).toContainText("plug 3 ↔ 2");
  await page.keyboard.press("w");
  await writeByKeys(page);
  await expect(page.locator('[data-cylinder="2"]')).toContainText("P3");

  await page.keyboard.press("n");
  await writeByKeys(page);
  await page.keyboard.press("n");
  await chooseFile(page, "w07-after-swap.csv");
  await type(page, /^Odometer/, "84231");
  await writeByKeys(page);
  await expect(nextMove(page)).toContainText("Fit a new plug at cylinder 2");

  await page.keyboard.press("n");
  await writeByKeys(page);
  await page.keyboard.press("n");
  await writeByKeys(page);
  await page.keyboard.press("n");
  await type(page, /^Odometer/, "84975");
  await writeByKeys(page);
  await expect(nextMove(page)).toContainText("Proven");
  await expect(page.getByRole("region", { name: "Road" })).toContainText("99.4 % sure it is gone");

  await page.keyboard.press("?");
  await expect(sheet(page)).toContainText("answer the next move");
  await page.keyboard.press("Escape");
  await expect(sheet(page)).toBeHidden();
  await page.keyboard.press("o");
  await expect(page.getByRole("article")).toContainText("99.4 % sure");
});
