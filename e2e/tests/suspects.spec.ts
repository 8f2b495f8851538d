// The suspects and the next move: findings at one touch and in the trade's words, limits, schools, the book.
import { expect, nextMove, openJob, sheet, test, write } from "./workshop";

const embers = (page: import("@playwright/test").Page) => page.getByRole("region", { name: "Embers" });

test("a car that does not start is traced by touching what the quick checks found", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/8`);
  await expect(nextMove(page)).toContainText("Listen for the fuel pump");
  // What each outcome would do stands there before the test is made.
  await expect(nextMove(page)).toContainText("then electric fuel pump dead");
  const before = Date.now();
  await nextMove(page).getByRole("button", { name: "silent" }).click();
  await expect(nextMove(page)).not.toContainText("Listen for the fuel pump");
  expect(Date.now() - before).toBeLessThan(5_000);
  await expect(page.getByRole("list", { name: /Entries/ })).toContainText("Listen for the fuel pump: silent");
  await expect(nextMove(page)).toContainText("relay");
  await nextMove(page).getByRole("button", { name: "cured" }).click();
  await expect(embers(page).getByRole("listitem").first()).toContainText("Fuel pump relay fails");
  await expect(nextMove(page)).toContainText(/[89]\d\s% that it is: fuel pump relay fails/);
});

test("a finding is entered in the trade's words and shows for whom it speaks", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/6`);
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("x");
  await sheet(page).getByLabel("What was tested or found, in your words").fill("clear hose bubbles");
  await sheet(page)
    .getByRole("list", { name: "Found in the book" })
    .getByRole("button", { name: /Clear hose/ })
    .click();
  await expect(sheet(page).getByRole("button", { name: /^bubbles/, pressed: true })).toBeVisible();
  await sheet(page).getByLabel("What else was seen or read").fill("A stream of them at full load");
  await write(page);
  const first = embers(page).getByRole("listitem").first();
  await expect(first).toContainText("Air drawn in on the suction side");
  await first.getByRole("button", { name: /Air drawn in/ }).click();
  await expect(first).toContainText("Clear hose in the suction line: bubbles");
  await expect(first).toContainText("speaks strongly for it");
  await expect(page.getByRole("list", { name: /Entries/ })).toContainText("Air drawn in on the suction side");
});

test("a test that this vehicle does not have cannot be found, and nothing typed is lost", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/7`);
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("x");
  await sheet(page).getByLabel("What was tested or found, in your words").fill("glow plug dead 2");
  await sheet(page)
    .getByRole("list", { name: "Found in the book" })
    .getByRole("button", { name: /Each glow plug|Glow plug/ })
    .first()
    .click();
  await sheet(page).getByLabel("What else was seen or read").fill("kept");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page)).toContainText("is no test for this vehicle");
  await expect(sheet(page).getByLabel("What else was seen or read")).toHaveValue("kept");
});

test("limits and schools change what is offered, and can be lifted", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/6`);
  const first = await nextMove(page).getByRole("heading", { level: 1 }).textContent();
  await nextMove(page).getByRole("button", { name: "Other ways" }).click();
  await expect(nextMove(page).getByRole("table")).toContainText("Fit the usual part");
  await nextMove(page).getByRole("button", { name: "Cannot do that test here" }).click();
  await expect(nextMove(page).getByRole("heading", { level: 1 })).not.toHaveText(first ?? "");
  await nextMove(page).getByRole("button", { name: "Lift the limits" }).click();
  await expect(nextMove(page).getByRole("heading", { level: 1 })).toHaveText(first ?? "");
  await nextMove(page).getByRole("button", { name: "Swap first" }).click();
  await expect(nextMove(page).getByRole("heading", { level: 1 })).toContainText("Swap the injector");
  await expect(nextMove(page).getByRole("button", { name: "Swap first" })).toHaveAttribute("aria-pressed", "true");
});

test("two faults are shown as such, and why it is not another", async ({ page }) => {
  await openJob(page, "W-15");
  await page.getByRole("link", { name: "All, and why" }).click();
  await expect(page.getByRole("region", { name: "Two faults" })).toContainText("Fuel runs back");
  await page.getByLabel(/Why not/).fill("injector returns cylinder 2");
  const suspect = page.getByRole("list", { name: "Suspects" }).getByRole("listitem").first();
  await expect(suspect).toContainText("Common-rail injector returns too much");
  await expect(suspect).toContainText("decibans");
  await page.getByLabel(/Why not/).fill("breaker points");
  await expect(page.getByText("Nothing of that name is left among the suspects")).toBeVisible();
});

test("the workshop keeps a figure of its own in the place of the book's, and goes back to it", async ({ page }) => {
  await page.getByRole("link", { name: "Book", exact: true }).click();
  await page.getByLabel("Search by the trade's words").fill("sticking vanes");
  await page.getByRole("link", { name: "Fault: Turbo's vanes stick" }).click();
  const rate = page.getByRole("form", { name: /How often it comes/ });
  await expect(rate).toContainText("14");
  await rate.getByLabel("This workshop's own").fill("30");
  await rate.getByRole("button", { name: "Keep it" }).click();
  await expect(rate).toContainText("30 here, 14 in the book");
  await page.reload();
  await expect(rate).toContainText("30 here, 14 in the book");
  await rate.getByRole("button", { name: "Back to the book's" }).click();
  await expect(rate).not.toContainText("here");
  await page
    .getByRole("link", { name: /The charger's rod/ })
    .first()
    .click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("The charger's rod");
});

test("what a closed job taught is shown with its effect and can be taken back", async ({ page, server }) => {
  await page.goto(`${server.address}/book/workshop`);
  const learnt = page.getByRole("region", { name: "Learnt from closed jobs" });
  await expect(learnt).toContainText("Job 1, W-07");
  await expect(page.getByRole("region", { name: "What that does" })).toContainText("→");
  await learnt.getByRole("button", { name: "Take it back" }).click();
  await expect(learnt).toContainText("does not count");
  await expect(page.getByRole("region", { name: "What that does" })).toHaveCount(0);
});
