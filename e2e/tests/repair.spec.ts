// The repair: taken off and put back, tightened by stages, proven on the same climb, reopened by a recurrence.
import { execFileSync } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { binary, expect, importLog, nextMove, openJob, sheet, test, write } from "./workshop";

const off = (page: Page) => page.getByRole("region", { name: "Off the car now" });

/** Opens a kind of entry from the menu. */
async function add(page: Page, kind: string): Promise<void> {
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("a");
  await page.getByRole("dialog").getByRole("button", { name: kind, exact: true }).click();
}

async function back(page: Page, what: string): Promise<void> {
  await off(page)
    .getByRole("button", { name: `${what} is back` })
    .first()
    .click();
  await off(page)
    .getByRole("button", { name: `${what.replace(/^\d+ × /, "")} is back`, exact: true })
    .last()
    .click();
}

test("the intake manifold of W-12 comes off and goes on again before the engine may be started", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("r");
  const line = page.getByLabel("What comes off");
  await line.fill("engine cover, throttle connector");
  await line.press("Enter");
  await line.fill("8 manifold bolts");
  await line.press("Enter");
  await line.fill("manifold gasket, coolant drained");
  await line.press("Enter");
  const taking = page.getByRole("region", { name: "Taking off" });
  // What the words give away needs no further touch.
  await expect(taking.getByRole("button", { name: "New manifold gasket when it goes back" })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await taking.getByRole("button", { name: "More" }).nth(2).click();
  const stages = page.getByLabel("The maker's stages, with their units");
  await stages.fill("8; 90°");
  await expect(taking.getByText(/has no unit: say which/)).toBeVisible();
  await stages.fill("8 N·m; 1900°");
  await expect(taking.getByText(/has a digit slipped in/)).toBeVisible();
  await stages.fill("8 N·m; 90°");
  await expect(taking.getByText("All in by hand, then in a spiral from the middle: 8 N·m, then 90° on.")).toBeVisible();
  await taking.getByRole("button", { name: "Write down 5 things as off" }).click();
  await expect(off(page)).toContainText("Do not start the engine yet");
  await expect(off(page)).toContainText("Have new before it goes back: manifold gasket");

  // The start is held back, with what is missing.
  await page.getByRole("link", { name: "Back to the job" }).click();
  await add(page, "New part fitted");
  await sheet(page).getByLabel("Part", { exact: true }).fill("intake gasket");
  await sheet(page).getByRole("button", { name: "the right number" }).click();
  await write(page);
  await expect(nextMove(page)).toContainText("Put back what is off. Next: coolant: fill it up and bleed it");
  await add(page, "Engine started");
  await expect(sheet(page).getByRole("alert").first()).toContainText("5 things are not back");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(
    sheet(page)
      .getByText(/Then say why: it stands on the report/)
      .first(),
  ).toBeVisible();
  await sheet(page).getByRole("button", { name: "Later" }).click();

  await nextMove(page).getByRole("button", { name: "Go to what is off" }).click();
  await back(page, "coolant");
  await expect(off(page)).toContainText("4 things are not back");
  // An old gasket is not taken without a word.
  await back(page, "manifold gasket");
  await expect(off(page).getByRole("alert")).toContainText("manifold gasket must be new");
  await off(page)
    .getByLabel(/New manifold gasket used/)
    .check();
  await off(page).getByRole("button", { name: "manifold gasket is back", exact: true }).last().click();
  await expect(off(page)).toContainText("3 things are not back");

  // Through the stages, fastener by fastener; a wrench that cannot is turned away by its name.
  await off(page).getByRole("button", { name: "8 × manifold bolts is back" }).click();
  await off(page).getByLabel("Torque wrench").fill("half-inch click");
  await off(page).getByLabel("reads from").fill("40 Nm");
  await off(page).getByLabel("up to").fill("210 Nm");
  await expect(
    off(page)
      .getByText(/below the range of half-inch click \(40 to 210 N·m\)/)
      .first(),
  ).toBeVisible();
  await off(page).getByLabel("Torque wrench").fill("quarter-inch click");
  await off(page).getByLabel("reads from").fill("4 Nm");
  await off(page).getByLabel("up to").fill("20 Nm");
  const walk = off(page).getByRole("region", { name: "Tightening, step by step" });
  await expect(walk).toContainText("By hand – fastener 2");
  await walk.getByRole("button", { name: "Fastener 2 is done" }).click();
  await expect(walk).toContainText("By hand – fastener 7");
  await walk.getByRole("button", { name: "All of this stage" }).click();
  await expect(walk).toContainText("Stage 1: 8 N·m – fastener 2");
  await walk.getByRole("button", { name: "All of this stage" }).click();
  await expect(walk).toContainText("Stage 2: 90° on – fastener 2");
  await walk.getByRole("button", { name: "All of this stage" }).click();
  await expect(walk).toContainText("All fasteners are through all stages");
  await off(page).getByRole("button", { name: "manifold bolts is back", exact: true }).last().click();
  await expect(off(page)).toContainText("2 things are not back");
  await back(page, "throttle connector");
  await expect(off(page)).toContainText("One thing is not back");
  await back(page, "engine cover");
  await expect(off(page)).toContainText("Everything is back. The engine may be started.");

  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(nextMove(page)).toContainText("Start it with open eyes");
  await nextMove(page).getByRole("button", { name: "It was started" }).click();
  await sheet(page).getByLabel("Leaks, noises, lights").fill("no leak, idle steady");
  await write(page);
  await expect(nextMove(page)).toContainText(/clear/i);
});

test("the climb that W-21 could not make shows its rail pressure after the repair", async ({ page }) => {
  const folder = mkdtempSync(join(tmpdir(), "climb-"));
  const drive = (name: string, ...faults: string[]) => {
    const file = join(folder, name);
    const options = faults.flatMap((fault) => ["--fault", fault]);
    execFileSync(binary, [
      "sim",
      "--vehicle",
      "W-21",
      "--csv",
      file,
      "--seconds",
      "420",
      "--per-second",
      "4",
      ...options,
    ]);
    return file;
  };
  await openJob(page, "W-21");
  const job = page.url();
  const import_ = async (file: string) => {
    await page.goto(job);
    await expect(nextMove(page)).toBeVisible();
    await importLog(page, file);
    await page.goto(job);
    await expect(nextMove(page)).toBeVisible();
  };
  const compare = async (file: RegExp) => {
    await add(page, "Reading to compare");
    await sheet(page).getByLabel("Out of a recording").click();
    await page.getByRole("option", { name: file }).click();
    await expect(sheet(page).getByLabel("Came")).not.toHaveValue("");
    await write(page);
  };
  await import_(drive("climb-before.csv", "weak-pump=0.62"));
  await compare(/climb-before.*fuel rail pressure/);
  await add(page, "New part fitted");
  await sheet(page).getByLabel("Part", { exact: true }).fill("suction line seal");
  await write(page);
  await nextMove(page).getByRole("button", { name: "Codes are cleared" }).click();
  await write(page);
  await import_(drive("climb-after.csv"));
  await compare(/climb-after.*fuel rail pressure/);
  await page.getByRole("link", { name: "Proof" }).click();
  const besides = page.getByRole("region", { name: "Besides kilometres" });
  await expect(besides).toContainText("as it should be");
  await expect(besides).toContainText(/fuel rail pressure: \d+ of \d+ kPa before, \d+ of \d+ kPa now/);
});

/** The proof as the rule gives it, reckoned here once more: where the confidence reaches a level. */
function reached(level: number): number {
  const [from, repaired, prior] = [36_000, 37_420, 0.6];
  const times = [36_480, 36_910, 37_160, 37_300, 37_395].map((at) => at - from);
  const span = repaired - from;
  const s = times.reduce((sum, t) => sum + Math.log(span / t), 0);
  const k = times.length;
  const silence = (prior * (1 - level)) / (level * (1 - prior));
  const steady = span * (silence ** (-1 / k) - 1);
  const worsening = span * Math.expm1(((silence ** (-1 / (k - 1)) - 1) * s) / k);
  return Math.min(steady, worsening);
}

test("W-03's worsening stall is proven gone at the right kilometres, comes back, and opens the job again", async ({
  page,
}) => {
  await openJob(page, "W-03");
  const job = page.url();
  await add(page, "New part fitted");
  await sheet(page).getByLabel("Part", { exact: true }).fill("crank sensor");
  await write(page);
  await nextMove(page).getByRole("button", { name: "Codes are cleared" }).click();
  await write(page);
  await expect(nextMove(page)).toContainText(`Prove it: ${Math.ceil(reached(0.95))} km more`);
  const drive = async (km: number) => {
    await add(page, "Driven clean");
    await sheet(page).getByLabel("Odometer").fill(String(km));
    await write(page);
  };
  const sure = async () => {
    await page.goto(`${job}/proof`);
    const text = await page
      .getByText(/sure that it is gone, by/)
      .locator("..")
      .innerText();
    await page.goto(job);
    await expect(nextMove(page)).toBeVisible();
    return Number(text.match(/([\d.]+)/)?.[1]);
  };
  await drive(37_420 + Math.floor(reached(0.95)) - 1);
  expect(await sure()).toBeLessThanOrEqual(95);
  await expect(nextMove(page)).toContainText("Prove it");
  await drive(37_420 + Math.ceil(reached(0.95)));
  await expect(nextMove(page)).toContainText(/counts as enough/);
  await expect(nextMove(page)).not.toContainText("Prove it");
  await drive(37_420 + Math.ceil(reached(0.99)));
  expect(await sure()).toBeGreaterThanOrEqual(99);
  await nextMove(page).getByRole("button", { name: "Close the job" }).click();
  await sheet(page).getByLabel("What it was").fill("crank sensor fails when hot");
  await write(page);
  await expect(nextMove(page)).toContainText("Closed");

  await add(page, "It came");
  await sheet(page)
    .getByLabel("Odometer")
    .fill(String(37_420 + Math.ceil(reached(0.99)) + 80));
  await write(page);
  await expect(nextMove(page)).toContainText("It came back");
  await page.goto(`${job}/proof`);
  await expect(page.getByText(/No proof can be reckoned: .*came back/)).toBeVisible();
  // What was thought to be proven is no longer counted as learnt.
  await page.goto(job.replace(/\/jobs\/\d+/, "/book/workshop"));
  await expect(page.getByRole("region", { name: "Learnt from closed jobs" })).not.toContainText("W-03");
  await page.goto(job.replace(/\/jobs\/\d+/, "/depot"));
  await expect(page.getByRole("region", { name: "Fitted and not needed" })).toContainText("crank sensor");
});
