// What people get wrong, and what goes wrong: a clear message, and nothing lost.
import { writeFileSync } from "node:fs";
import { expect, nextMove, openJob, sheet, test, write } from "./workshop";

test("counts that cannot be are refused at their field and stay typed", async ({ page }) => {
  await openJob(page, "M-02");
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  const open = sheet(page);
  await open.getByLabel("Crankshaft revolutions").fill("1000");
  await open.getByLabel("Cylinder 1").fill("501");
  await open.getByLabel("Cylinder 2").fill("-3");
  await expect(open.getByText("a count cannot be negative, and this is -3")).toBeVisible();
  await open.getByLabel("Cylinder 2").fill("2.5");
  await expect(open.getByText("a count is a whole number, and this is 2.5")).toBeVisible();
  await open.getByLabel("Cylinder 2").fill("2");
  await open.getByRole("button", { name: "Write it down" }).click();
  await expect(open.getByText("501 misfires in 500 firings").first()).toBeVisible();
  await open.getByLabel("Cylinder 1").fill("5");
  await open.getByRole("button", { name: "Write it down" }).click();
  await expect(open.getByText("this cylinder is left out; write 0 if it had none").first()).toBeVisible();
  await open.getByLabel("Crankshaft revolutions").fill("0");
  await open.getByLabel("Cylinder 3").fill("0");
  await open.getByRole("button", { name: "Write it down" }).click();
  await expect(open.getByText("must be above zero").first()).toBeVisible();

  // A reload keeps what was typed.
  await page.reload();
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await expect(sheet(page).getByLabel("Cylinder 1")).toHaveValue("5");
});

test("an odometer that runs backwards is refused at its field", async ({ page }) => {
  await openJob(page, "M-02");
  await page.getByRole("button", { name: "Add to the trail" }).click();
  await page.getByRole("button", { name: "Note" }).click();
  await sheet(page).getByRole("textbox", { name: "Note" }).fill("Belt looks worn");
  await sheet(page).getByLabel("Odometer").fill("6000");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("runs backwards: entry 5 stands at 6419 km").first()).toBeVisible();
  await sheet(page).getByLabel("Odometer").fill("6420");
  await write(page);
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("Belt looks worn");
});

for (const [name, file, message] of [
  ["no counter column", { name: "a.csv", text: "time,rpm\n0,800\n1,800\n" }, "file: has no counter column"],
  ["a ragged row", { name: "b.csv", text: "time,rpm,cyl 1,cyl 2,cyl 3\n0,800,0,0,0\n1,800,0\n" }, "row 3: has 3 cells"],
  ["text in a number", { name: "c.csv", text: "cylinder,misfires\n1,0\n2,many\n3,0\n" }, 'row 3: "many"'],
  ["a binary", { name: "d.csv", text: "PK\u0000\u0003\u0004" }, "file: is not a text file"],
  ["50 MB", { name: "e.csv", text: "1,2,3,4,5,6\n".repeat(4_370_000) }, "at most 20 MB are read"],
] as const) {
  test(`a file with ${name} is refused with its place`, async ({ page }, info) => {
    const path = info.outputPath(file.name);
    writeFileSync(path, file.text, "latin1");
    await openJob(page, "M-02");
    await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
    await sheet(page).locator('input[type="file"]').setInputFiles(path);
    await expect(sheet(page).getByRole("alert")).toContainText(message, { timeout: 30_000 });
  });
}

test("a firing order that repeats is seen while the engine is described", async ({ page }) => {
  await page.getByRole("link", { name: "New job" }).last().click();
  await page.getByRole("button", { name: "Another vehicle" }).click();
  await expect(page.locator('[data-cylinder="3"]')).toContainText("fires 2nd, at 180°");
  await page.getByLabel("Firing order").fill("1-3-3-2");
  await expect(page.getByRole("alert")).toContainText("firing order: cylinder 3 stands in it twice");
  await page.getByLabel("Cylinders", { exact: true }).fill("6");
  await page.getByLabel("Firing order").fill("1-4-3-6-2-5");
  await page.getByLabel("Banks").fill("1-3-5 / 2-4-9");
  await expect(page.getByRole("alert")).toContainText("cylinder 9 does not exist on an engine with 6");
  await page.getByLabel("Banks").fill("1-3-5 / 2-4-6");
  await expect(page.locator('[data-cylinder="6"]')).toContainText("fires 4th, at 360°");
});

test("markup in a note is text, however long", async ({ page }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("a");
  await page.getByRole("button", { name: "Note" }).click();
  const text = `<img src=x onerror="document.title='owned'"> ${"soot and ash ".repeat(8000)}`;
  await sheet(page).getByRole("textbox", { name: "Note" }).fill(text);
  await write(page);
  const trail = page.getByRole("region", { name: "Trail" });
  await expect(trail).toContainText("<img src=x onerror=");
  await expect(trail.getByRole("button", { name: "show all" })).toBeVisible();
  await expect(page).toHaveTitle("Gritty Ember");
});

test("a job that does not exist says so and leads home", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/77`);
  await expect(page.getByText("There is no such job")).toBeVisible();
  await page.getByRole("link", { name: "To the yard" }).click();
  await expect(page.getByRole("heading", { name: "Yard" })).toBeVisible();
});

test("a move between cylinders on one coil is refused with the reason", async ({ page }) => {
  await page.getByRole("link", { name: "New job" }).last().click();
  await page.getByRole("button", { name: "Another vehicle" }).click();
  await page.getByLabel("On the door").fill("X-1");
  await page.getByLabel("What it is").fill("Trial rig, paired coils");
  await page.getByLabel("Ignition").click();
  await page.getByRole("option", { name: "paired coils" }).click();
  await page.getByRole("group", { name: "What it does" }).getByRole("button", { name: "misfire" }).click();
  await page.getByLabel("Odometer now").fill("100");
  await page.getByRole("button", { name: "Open the job" }).click();
  await page.getByRole("button", { name: /^plug P1,/ }).click();
  await page.getByRole("button", { name: "Put P1 on cylinder 4" }).click();
  await page.getByRole("button", { name: "Write these moves" }).click();
  for (const box of await sheet(page).getByRole("checkbox").all()) {
    if (!(await box.isChecked()) && (await box.evaluate((e) => Boolean(e.closest("section"))))) await box.check();
  }
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("cylinders 1 and 4 share a coil").first()).toBeVisible();
});

test("the server may stop while a form is open, and nothing is lost", async ({ page, server }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("a");
  await page.getByRole("button", { name: "Note" }).click();
  await sheet(page).getByRole("textbox", { name: "Note" }).fill("Written while the server was down");
  await sheet(page).getByLabel("Odometer").fill("6421");
  await expect(sheet(page).getByText("= 6 421 km")).toBeVisible();
  await server.stop();
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByRole("alert")).toContainText("The server does not answer");
  await server.startAgain();
  await write(page);
  await expect(page.getByRole("region", { name: "Trail" })).toContainText("Written while the server was down");
});

test("the second of two browsers is told, and loses nothing", async ({ page, browser, server }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("a");
  await page.getByRole("button", { name: "Note" }).click();
  await sheet(page).getByRole("textbox", { name: "Note" }).fill("From the first tablet");

  // The other tablet writes first. It is asked directly, so that the first has no chance to notice before it saves.
  const other = await browser.newContext();
  await page.route("**/api/jobs/2", (route) => route.abort());
  const answer = await other.request.post(`${server.address}/api/jobs/2/entries`, {
    data: {
      seen: 5,
      request_key: "other tablet",
      entry: { odometer_km: 6419, author: "Tam", finding: { kind: "note", text: "From the second tablet" } },
    },
  });
  expect(answer.status()).toBe(201);
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByRole("alert")).toContainText("were added to this job meanwhile");
  await page.unroute("**/api/jobs/2");
  await expect(sheet(page).getByText("From the second tablet")).toBeVisible({ timeout: 15_000 });
  await expect(sheet(page).getByRole("textbox", { name: "Note" })).toHaveValue("From the first tablet");
  await write(page);
  const trail = page.getByRole("region", { name: "Trail" });
  await expect(trail).toContainText("From the first tablet");
  await expect(trail).toContainText("From the second tablet");
  await other.close();
});

test("an entry whose answer was lost can be edited, and both versions are kept", async ({ page }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("a");
  await page.getByRole("button", { name: "Note" }).click();
  await sheet(page).getByRole("textbox", { name: "Note" }).fill("As it was sent");
  await page.route("**/api/jobs/2/entries", async (route) => {
    await route.fetch();
    await route.abort();
  });
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByRole("alert")).toContainText("The server does not answer");
  await page.unroute("**/api/jobs/2/entries");
  await sheet(page).getByRole("textbox", { name: "Note" }).fill("As it was edited afterwards");
  await sheet(page).getByRole("button", { name: "Write it down" }).click();
  await expect(sheet(page).getByText("As it was sent")).toBeVisible({ timeout: 15_000 });
  await write(page);
  const trail = page.getByRole("region", { name: "Trail" });
  await expect(trail).toContainText("As it was sent");
  await expect(trail).toContainText("As it was edited afterwards");
});
