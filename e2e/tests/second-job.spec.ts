// Who has never seen it follows the next move only, from the yard to a decided verdict.
import { expect, importFile, nextMove, openJob, sheet, test, write } from "./workshop";

test("the second job is decided by following the next move", async ({ page }) => {
  await openJob(page, "M-02");
  await expect(nextMove(page)).toContainText("Drive it as when it misfired, then read the counters");
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await importFile(page, "m02-after-swap.csv");
  await sheet(page).getByLabel("Odometer").fill("6431");
  await write(page);
  await expect(nextMove(page)).toContainText("Fit a new lead at cylinder 1");
  await expect(page.getByRole("region", { name: "Embers" })).toContainText("Swap: moved, decided");
  await page.getByRole("link", { name: "Yard" }).click();
  await expect(page.getByRole("link", { name: /M-02/ })).toContainText("waits for a part");
});

test("a swap judged without clearing is void, and the screen says what to do", async ({ page }) => {
  await openJob(page, "M-02");
  // The entry that says the codes were cleared was a mistake.
  await page.getByRole("button", { name: "Correct entry 5" }).click();
  await sheet(page).getByRole("button", { name: "Withdraw it" }).click();
  await sheet(page).getByLabel("Why").fill("It was another machine");
  await write(page);
  await expect(nextMove(page)).toContainText("Save the codes, then clear them");
  await page.keyboard.press("m");
  await importFile(page, "m02-after-swap.csv");
  await write(page);
  await expect(nextMove(page)).toContainText("Void: clear the codes and drive again");
  await expect(page.getByRole("region", { name: "Embers" })).toContainText("Swap: void");
  // Clearing throws the void reading away and asks for the drive once more.
  await nextMove(page).getByRole("button", { name: "Codes are cleared" }).click();
  await write(page);
  await expect(nextMove(page)).toContainText("Drive it as when it misfired");
});
