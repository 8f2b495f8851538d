// At the car: the simulated vehicles are scanned, driven and recorded, and the evidence names what was given them.
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { binary, demo, expect, importLog, nextMove, openJob, test } from "./workshop";

const scratch = (name: string) => join(mkdtempSync(join(tmpdir(), "gritty-ember-log-")), name);

/** A drive of a simulated car as a log. */
function driven(vehicle: string, fault: string, seconds = 420): string {
  const file = scratch(`${vehicle}.csv`);
  execFileSync(binary, [
    "sim",
    "--vehicle",
    vehicle,
    "--fault",
    fault,
    "--seed",
    "5",
    "--seconds",
    String(seconds),
    "--per-second",
    "4",
    "--csv",
    file,
  ]);
  return file;
}

async function connect(page: Page, address?: string): Promise<void> {
  await page.getByRole("link", { name: "At the car" }).click();
  if (address) {
    await page.getByLabel("Address of another adapter").fill(address);
    await page.getByRole("button", { name: "Connect", exact: true }).click();
  } else {
    await page.getByRole("button", { name: /^Connect to/ }).click();
  }
  await expect(page.getByRole("status").first()).toContainText("linked, at rest");
}

test("W-12 is scanned, cleared and driven, and its air leak is found with its size", async ({ page }) => {
  await openJob(page, "W-12");
  await connect(page);
  await page.getByRole("button", { name: "Scan all units" }).click();
  const read = page.getByRole("region", { name: "Just read" });
  await expect(read).toContainText("P0171");
  await expect(read).toContainText("U0401");
  await expect(read).toContainText("it did not answer: an unread unit is not a clean one");
  await read.getByRole("button", { name: "Freeze frame of P0171" }).click();
  await expect(read).toContainText("coolant");
  // Nothing is cleared before it is saved.
  await expect(page.getByRole("button", { name: "Clear all units" })).toBeHidden();
  await page.getByRole("button", { name: "Write the scan on the trail" }).click();
  const units = page.getByRole("region", { name: "Units" });
  await expect(units).toContainText("Begin with the engine unit.");
  await expect(units).toContainText("Not read, and so not known to be clean: body.");
  await page.getByLabel(/Clearing resets the emission readiness monitors/).check();
  await page.getByRole("button", { name: "Clear all units" }).click();
  await page.getByRole("button", { name: "Write the clearing on the trail" }).click();

  await page.getByRole("button", { name: "Simulated driver: drive the loop" }).click();
  await page.getByRole("tab", { name: "Live data" }).click();
  await page.getByRole("button", { name: "Record a drive" }).click();
  const recording = page.getByRole("region", { name: "Recording" });
  await expect(recording).toContainText(/^[5-9]:/, { timeout: 40_000 });
  await expect(page.getByRole("region", { name: "Live figures" })).toContainText("rpm");
  await recording.getByRole("button", { name: "Pause" }).click();
  await recording.getByRole("button", { name: "Go on" }).click();
  await recording.getByRole("button", { name: "End the recording" }).click();
  await recording.getByLabel("How it was driven").fill("loop with the hill");
  await recording.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(recording).toContainText("On the trail as entry");
  await recording.getByRole("link", { name: "Look at it" }).click();
  await page.getByRole("tab", { name: "Trims" }).click();
  const found = Number(await page.locator("[data-leak]").getAttribute("data-leak"));
  expect(Math.abs(found / 2.2 - 1)).toBeLessThan(0.15);
  await expect(page.getByText(/Unmetered air on bank 1, like a hole of 2/).first()).toBeVisible();
  // A thinner ambient makes the same air a larger hole.
  await page.getByLabel("Ambient pressure").fill("0.8 bar");
  await expect
    .poll(async () => Number(await page.locator("[data-leak]").getAttribute("data-leak")))
    .toBeGreaterThan(found * 1.05);

  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(nextMove(page)).toContainText("Look where the recording points");
  await expect(page.getByRole("region", { name: "Road" })).toContainText("recorded: Unmetered air on bank 1");
  // After the drive the lean code is back, and the old one is not.
  await connect(page).catch(() => {});
  await page.getByRole("button", { name: /Scan all units/ }).click();
  await page.getByRole("button", { name: "Write the scan on the trail" }).click();
  await expect(units).toContainText("back after the drive");
  await expect(units).toContainText("not back");
});

test("the map of W-07 lights the load cells of cylinder 3 and leaves idle clean", async ({ page }) => {
  await openJob(page, "W-07");
  await importLog(page, demo("w07-where-it-misses.csv"));
  await page.getByRole("tab", { name: "Where it misses" }).click();
  await expect(page.getByText("Misfire on cylinder 3.")).toBeVisible();
  const map = page.getByRole("table", { name: "Misfires of cylinder 3 by speed and load" });
  const lit = map.locator("td[data-lit]");
  expect(await lit.count()).toBeGreaterThan(0);
  for (const row of await map.getByRole("row").all()) {
    const load = Number((await row.getByRole("rowheader").textContent())?.split("–")[0]);
    if ((await row.locator("td[data-lit]").count()) > 0) expect(load).toBeGreaterThanOrEqual(50);
  }
  const idle = map
    .getByRole("row", { name: /^20–35/ })
    .locator("td")
    .first();
  await expect(idle).toContainText(/^0(\.\d+)? %/);
  await expect(map.getByText("not driven").first()).toBeAttached();
  await page.getByRole("button", { name: "1", exact: true }).click();
  await expect(page.locator("td[data-lit]")).toHaveCount(0);
});

for (const [fault, verdict, says] of [
  ["sticking-vanes", "sticking-vanes", "the vanes or their drive stick"],
  ["boost-leak=0.25", "leak", "charge air escapes"],
  ["stuck-actuator", "no-response", "nothing regulates it"],
] as const) {
  test(`the charge pressure of W-15 with ${fault} is judged ${verdict}`, async ({ page }) => {
    const log = driven("W-15", fault);
    await openJob(page, "W-15");
    await importLog(page, log);
    await expect(page.locator("[data-verdict]")).toHaveAttribute("data-verdict", verdict);
    await expect(page.getByText("decided, from")).toBeVisible();
    await expect(page.getByText(new RegExp(says)).first()).toBeVisible();
    await expect(page.getByRole("heading", { name: "Look here first" })).toBeVisible();
  });
}

test("cylinders that take turns are seen over time, and the totals hide them", async ({ page }) => {
  await openJob(page, "W-12");
  await importLog(page, demo("w12-taking-turns.csv"));
  await page.getByRole("tab", { name: "When it misses" }).click();
  await expect(page.getByText("Groups take turns to misfire: 1, 3 and 5 against 2, 4 and 6.")).toBeVisible();
  const table = page.getByRole("table", { name: "Misfires in windows of time" });
  const totals = await Promise.all(
    [1, 2, 3, 4, 5, 6].map(async (one) => {
      const cells = await table
        .getByRole("row", { name: new RegExp(`^cylinder ${one} `) })
        .locator("td")
        .allTextContents();
      return Number(cells.at(-1)?.replace(/\D/g, ""));
    }),
  );
  // No cylinder's total stands out: the highest is less than twice the lowest.
  expect(Math.max(...totals)).toBeLessThan(2 * Math.min(...totals));
});

test("an actuator that obeys the tester and not the car is seen as such", async ({ page, simulate }) => {
  const car = await simulate("--vehicle", "W-15", "--fault", "vanes-not-driven");
  await openJob(page, "W-15");
  await connect(page, car.address);
  await page.getByRole("button", { name: "Simulated driver: drive the loop" }).click();
  await page.getByRole("tab", { name: "Live data" }).click();
  await page.getByRole("button", { name: "Watch live data" }).click();
  await expect(page.getByRole("region", { name: "Live figures" })).toContainText("requested charge pressure");
  await page.getByRole("tab", { name: "Drive outputs" }).click();
  await expect(page.getByText(/The car itself asks the vanes for/)).toBeVisible();
  await page.getByLabel(/Hands, tools and hair are clear/).check();
  const vanes = page.getByRole("group", { name: "vane actuator" });
  await page.waitForTimeout(2500);
  await vanes.getByRole("button", { name: "Drive to 50 %" }).click();
  // While the car moves no output is driven.
  await expect(vanes).toContainText("refused: road speed too high");
  await page.getByRole("button", { name: "Simulated driver: park" }).click();
  await page.waitForTimeout(1500);
  await vanes.getByRole("button", { name: "Drive to 50 %" }).click();
  await expect(vanes).toContainText(/driven to 50 %, stands at (49|50|51) %/);
  await vanes.getByRole("button", { name: "Let go" }).click();
  await expect(vanes).toContainText("driven to nothing");
});

test("a link that answers rubbish and drops is survived, and said", async ({ page, simulate }) => {
  const car = await simulate(
    "--vehicle",
    "W-12",
    "--fault",
    "dead-coil=3",
    "--rubbish-every",
    "60",
    "--drop-after",
    "500",
  );
  await openJob(page, "W-12");
  await connect(page, car.address);
  await page.getByRole("tab", { name: "Live data" }).click();
  await page.getByRole("button", { name: "Record a drive" }).click();
  await expect(page.getByText(/dropped \d times/)).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText(/lines were rubbish and were not used/)).toBeVisible();
  await expect(page.getByRole("region", { name: "On the line" })).toContainText("what was recorded is kept");
  const recording = page.getByRole("region", { name: "Recording" });
  await recording.getByRole("button", { name: "End the recording" }).click();
  await recording.getByRole("button", { name: "Put it on the trail" }).click();
  await expect(recording).toContainText("On the trail as entry");
  car.stop();
  await expect(page.getByText(/it was tried \d times again/)).toBeVisible({ timeout: 20_000 });
});

test("an address where nobody answers is said, and a wrong one refused", async ({ page }) => {
  await openJob(page, "W-12");
  await page.getByRole("link", { name: "At the car" }).click();
  const address = page.getByLabel("Address of another adapter");
  await address.fill("the red box");
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  await expect(page.getByText("is no address with a port")).toBeVisible();
  await address.fill("127.0.0.1:9");
  await page.getByRole("button", { name: "Connect", exact: true }).click();
  await expect(page.getByText(/cannot be reached/)).toBeVisible();
});

test("traces are looked at more closely by dragging, and the figure follows the cursor", async ({ page }) => {
  await openJob(page, "W-12");
  await page.getByRole("link", { name: /Open recording of entry/ }).click();
  await page.getByRole("tab", { name: "Traces" }).click();
  const lane = page.getByRole("img", { name: /^engine speed over time/ });
  await expect(lane).toBeVisible();
  await expect(page.getByText("0.0 to 420.0 s")).toBeVisible();
  const box = await lane.boundingBox();
  if (!box) throw new Error("the lane is not drawn");
  await page.mouse.move(box.x + box.width * 0.4, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + 30, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByText("0.0 to 420.0 s")).toBeHidden();
  await page.getByRole("button", { name: "Channels: 6 of 19" }).click();
  await page.getByRole("group", { name: "Channels" }).getByRole("button", { name: "coolant" }).click();
  await expect(page.getByRole("img", { name: /^coolant over time/ })).toBeVisible();
  await page.getByRole("button", { name: "All of it" }).click();
  await expect(page.getByText("0.0 to 420.0 s")).toBeVisible();
});

test("a log's columns are corrected by hand, and remembered", async ({ page }) => {
  const log = scratch("odd.csv");
  writeFileSync(
    log,
    `when;n;boost actual (psig)\n${Array.from({ length: 60 }, (_, i) => `${i};${800 + i};5,0`).join("\n")}`,
  );
  await openJob(page, "W-12");
  await page.keyboard.press("f");
  const choose = page.locator('input[type="file"]');
  await choose.setInputFiles(log);
  await expect(page.getByRole("row", { name: /^n / })).toContainText("not known: choose a channel if it is one");
  await page.getByLabel("n is kept as", { exact: true }).click();
  await page.getByRole("option", { name: "engine speed" }).click();
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.getByText(/a column holds a pressure above ambient/)).toBeVisible();
  await page.getByLabel("Ambient pressure").fill("98 kPa");
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.getByRole("img", { name: /^actual charge pressure over time, from 132/ })).toBeVisible();
  await page.goBack();
  await choose.setInputFiles(log);
  await expect(page.getByText("A file with these headings was read before")).toBeVisible();
  await expect(page.getByLabel("n is kept as", { exact: true })).toHaveText("engine speed");
});

test("a file that is no log says why, and a long one can be stopped", async ({ page }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("f");
  const choose = page.locator('input[type="file"]');
  await choose.setInputFiles({ name: "picture.csv", mimeType: "text/csv", buffer: Buffer.from([0, 1, 2, 0, 255]) });
  await expect(page.getByText(/is not a text file/)).toBeVisible();
  const long = scratch("long.csv");
  const rows = Array.from({ length: 4_000_000 }, (_, i) => `${i / 20},${800 + (i % 3000)},${i % 90}`).join("\n");
  writeFileSync(long, `time,rpm,load\n${rows}`);
  await choose.setInputFiles(long);
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText("Stopped: nothing of the file was kept.")).toBeVisible();
  await page.reload();
  await expect(page.getByRole("region", { name: "Recordings of this job" }).getByRole("link")).toHaveCount(1);
});

test("a job is taken along as a file and brought back elsewhere", async ({ page, server }) => {
  await openJob(page, "W-12");
  await page.keyboard.press("o");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Take the whole job along" }).click();
  await page.getByRole("link", { name: "Save it as a file (JSON)" }).click();
  const file = await (await download).path();
  await page.goto(server.address);
  const back = page.getByLabel("A job as a file");
  await back.setInputFiles(file);
  await expect(page.getByText("opened_at: this job is here already")).toBeVisible();
  const bundle = JSON.parse(execFileSync("cat", [file]).toString());
  bundle.opened_at = "2026-11-01T06:30:00Z";
  delete bundle.seal;
  const changed = scratch("bundle.json");
  writeFileSync(changed, JSON.stringify(bundle));
  await back.setInputFiles(changed);
  await expect(nextMove(page)).toContainText("Look where the recording points");
  await page.getByRole("link", { name: /Open recording of entry/ }).click();
  await expect(page.locator("[data-leak]")).toBeVisible();
});

test("which self-tests have run is taken from the car and put on the trail", async ({ page, server }) => {
  await openJob(page, "W-12");
  await connect(page);
  await page.getByRole("button", { name: "Scan all units" }).click();
  await expect(page.getByRole("region", { name: "Just read" })).toContainText("Self-tests");
  await page.goto(`${server.address}/jobs/3/repair?do=learn`);
  const take = page.getByRole("button", { name: "Take what the car said at the last scan" });
  await take.click();
  await expect(take).toBeHidden();
  const ready = page.getByRole("group", { name: "Ready", exact: true });
  await expect(ready.getByRole("button", { name: "misfire", pressed: true })).toBeVisible();
  await page.getByRole("button", { name: "Put it on the trail" }).click();
  await page.getByRole("link", { name: "Back to the job" }).click();
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("Ready: misfire, fuel system, components");
});
