// The states a screen can be in, the sizes it can have, and the ways through it.
import { readFileSync } from "node:fs";
import { expect, nextMove, openJob, sheet, test, write } from "./workshop";

test("an empty yard says what to do", async ({ page }) => {
  await page.route("**/api/yard*", (route) =>
    route.fulfill({ json: { open: [], open_count: 0, closed: [], closed_count: 0, refreshing: false } }),
  );
  await page.reload();
  await expect(page.getByText("Nothing stands in the yard.")).toBeVisible();
});

test("a yard that cannot be fetched says so, and tries again when asked", async ({ page }) => {
  await page.route("**/api/yard*", (route) => route.abort());
  await page.reload();
  await expect(page.getByRole("alert")).toContainText("The server does not answer", { timeout: 20_000 });
  await page.unroute("**/api/yard*");
  await page.getByRole("button", { name: "Try again" }).click();
  await expect(page.getByRole("link", { name: /M-02/ })).toBeVisible();
});

test("while a job is fetched the screen says so", async ({ page, server }) => {
  await page.route("**/api/jobs/2", async (route) => {
    await new Promise((later) => setTimeout(later, 700));
    await route.continue();
  });
  await page.goto(`${server.address}/jobs/2`);
  await expect(page.getByText("Fetching the job …")).toBeVisible();
  await expect(nextMove(page)).toBeVisible();
});

test("views with too little data say what is missing", async ({ page }) => {
  await page.getByRole("link", { name: "New job" }).last().click();
  await page.getByRole("button", { name: /W-15/ }).click();
  await page
    .getByRole("group", { name: "What it does" })
    .getByRole("button", { name: "starts hard when cold" })
    .click();
  await page.getByLabel("Odometer now").fill("120000");
  await page.getByRole("button", { name: "Open the job" }).click();
  await expect(page.getByRole("region", { name: "Embers" })).toContainText("Fuel runs back while it stands");
  await expect(page.getByRole("region", { name: "Road" })).toContainText("The road begins at 120 000 km.");
  await expect(page.getByRole("region", { name: "Needs" })).toContainText("heat");
  const job = page.url();
  await page.goto(`${job}/counts`);
  await expect(page.getByText("Nothing has been counted on this job yet.")).toBeVisible();
  await page.goto(`${job}/proof`);
  await expect(page.getByText("Nothing was repaired on this job yet")).toBeVisible();
  await page.goto(`${job}/report`);
  await expect(page.getByRole("article")).toContainText("Not yet. Next: Read every control unit");
});

test("the counts in full show the rates and the pattern of the second job", async ({ page }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("c");
  const row = page.getByRole("row", { name: /^2 / });
  // 388 of 10 700: reckoned elsewhere beforehand.
  await expect(row).toContainText("3.63 %");
  await expect(row).toContainText("3.28 – 3.99 %");
  await expect(page.getByRole("region", { name: "Patterns" })).toContainText("single 2");
});

test("the proof's curve leaves as a drawing, and its data as a table", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/1/proof`);
  const fetched = async (button: string) => {
    const download = page.waitForEvent("download");
    await page.getByRole("button", { name: button }).click();
    const file = await download;
    return { name: file.suggestedFilename(), text: readFileSync(await file.path(), "utf8") };
  };
  const picture = await fetched("Save as SVG");
  expect(picture.name).toBe("proof-W-07.svg");
  expect(picture.text).toMatch(/^<svg [\s\S]*95 % counts as enough[\s\S]*<\/svg>$/);
  const table = await fetched("Save as CSV");
  const rows = table.text.split("\r\n").map((row) => row.split(","));
  expect(rows[0]).toEqual(["km_since_repair", "confidence"]);
  expect(Number(rows[1]?.[1])).toBeCloseTo(0.9, 9);
  expect(rows.length).toBeGreaterThan(50);
});

test("a twelve-cylinder engine is drawn, counted and swapped", async ({ page }) => {
  await page.getByRole("link", { name: "New job" }).last().click();
  await page.getByRole("button", { name: "Another vehicle" }).click();
  await page.getByLabel("On the door").fill("X-12");
  await page.getByLabel("What it is").fill("Trial rig with twelve");
  await page.getByLabel("Cylinders", { exact: true }).fill("12");
  await page.getByLabel("Firing order").fill("1 7 5 11 3 9 6 12 2 8 4 10");
  await page.getByLabel("Banks").fill("1-2-3-4-5-6 / 7-8-9-10-11-12");
  await expect(page.locator('[data-cylinder="12"]')).toContainText("fires 8th, at 420°");
  await page.getByRole("group", { name: "What it does" }).getByRole("button", { name: "misfire" }).click();
  await page.getByLabel("Odometer now").fill("40 000");
  await page.getByRole("button", { name: "Open the job" }).click();
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("m");
  await sheet(page).getByLabel("Crankshaft revolutions").fill("36k");
  for (let cylinder = 1; cylinder <= 12; cylinder++)
    await sheet(page)
      .getByLabel(`Cylinder ${cylinder}`, { exact: true })
      .fill(cylinder === 10 ? "400" : "1");
  await write(page);
  await expect(nextMove(page)).toContainText("Swap: coil 10 ↔ 1, plug 10 ↔ 2");
  await expect(page.locator('[data-cylinder="10"]')).toContainText("2.22 %");
});

test("on a telephone the job stands in one column and nothing sticks out", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await openJob(page, "M-02");
  await expect(nextMove(page)).toBeVisible();
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(wide).toBeLessThanOrEqual(0);
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await expect(sheet(page).getByRole("button", { name: "Write it down" })).toBeInViewport();
});

test("dark and light are kept on the tablet", async ({ page }) => {
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const dark = await ground();
  await page.keyboard.press("t");
  await expect(page.getByRole("button", { name: "Bay" })).toBeVisible();
  const light = await ground();
  expect(light).not.toBe(dark);
  await page.evaluate(() => {
    const kept = localStorage.getItem("gritty-ember.preferences") ?? "";
    if (!kept.includes('"paper"')) throw new Error(`kept: ${kept}`);
  });
});

test("single keys rest while something is typed, and can be switched off", async ({ page }) => {
  await openJob(page, "M-02");
  await page.keyboard.press("?");
  await expect(sheet(page)).toContainText("answer the next move");
  await sheet(page).getByLabel("Single keys act as shortcuts").uncheck();
  await sheet(page).getByRole("button", { name: "Close" }).click();
  await expect(sheet(page)).toBeHidden();
  await page.keyboard.press("y");
  await page.keyboard.press("n");
  await expect(sheet(page)).toBeHidden();
  await expect(nextMove(page)).toBeVisible();
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await sheet(page).getByLabel("Where these figures come from").pressSequentially("yard and ?");
  await expect(sheet(page).getByLabel("Where these figures come from")).toHaveValue("yard and ?");
});

test("cautions are ticked once for a job, and work waits for them", async ({ page }) => {
  await openJob(page, "M-02");
  await page.getByRole("button", { name: "Add to the trail" }).click();
  await sheet(page).getByRole("button", { name: "Parts moved" }).click();
  await expect(sheet(page).getByText("Tick the cautions above first.")).toBeVisible();
  await expect(sheet(page).getByRole("button", { name: "Write it down" })).toBeDisabled();
  await sheet(page)
    .getByRole("checkbox", { name: /tens of kilovolts/ })
    .check();
  await expect(sheet(page).getByRole("button", { name: "Write it down" })).toBeEnabled();
  await page.reload();
  await page.getByRole("button", { name: "Add to the trail" }).click();
  await sheet(page).getByRole("button", { name: "Parts moved" }).click();
  await expect(sheet(page).getByRole("checkbox", { name: /tens of kilovolts/ })).toBeChecked();
});

test("a part goes to a cylinder with two digits by Tab and Enter", async ({ page, server }) => {
  const vehicle = await page.request.post(`${server.address}/api/vehicles`, {
    data: {
      fleet_no: "X-10",
      name: "Trial rig with ten",
      engine: {
        cylinders: 10,
        firing_order: [1, 6, 5, 10, 2, 7, 3, 8, 4, 9],
        banks: [
          [1, 2, 3, 4, 5],
          [6, 7, 8, 9, 10],
        ],
      },
    },
  });
  const { id } = await vehicle.json();
  const finding = { kind: "complaint", symptoms: ["misfire"] };
  const job = await page.request.post(`${server.address}/api/jobs`, {
    data: { vehicle_id: id, request_key: "ten", first: { odometer_km: 5, author: "Ines", finding } },
  });
  await page.goto(`${server.address}/jobs/${(await job.json()).id}`);
  await page.getByRole("button", { name: /^coil C2,/ }).focus();
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Put C2 on cylinder 10" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Planned moves" })).toContainText("coil 2 ↔ 10");
});

test("what was typed for the next move is there when the sheet is opened another way", async ({ page }) => {
  await openJob(page, "M-02");
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await sheet(page).getByLabel("Cylinder 3").fill("17");
  await sheet(page).getByRole("button", { name: "Later" }).click();
  await expect(sheet(page)).toBeHidden();
  await page.getByRole("button", { name: "Add to the trail" }).click();
  await sheet(page).getByRole("button", { name: "Misfires counted" }).click();
  await expect(sheet(page).getByLabel("Cylinder 3")).toHaveValue("17");
});

test("a plan says which cylinders it leaves out and why, and the other schools are one touch away", async ({
  page,
  server,
}) => {
  const send = (path: string, data: object) => page.request.post(server.address + path, { data });
  const engine = { cylinders: 4, firing_order: [1, 3, 4, 2], banks: [[1, 2, 3, 4]], ignition: "paired-coils" };
  const { id } = await (
    await send("/api/vehicles", { fleet_no: "X-4", name: "Trial rig, paired coils", engine })
  ).json();
  const complaint = { kind: "complaint", symptoms: ["misfire"] };
  const first = { odometer_km: 5, author: "Ines", finding: complaint };
  const job = await (await send("/api/jobs", { vehicle_id: id, request_key: "four", first })).json();
  const counts = { kind: "counts", revolutions: 30_000, misfires: { 1: 0, 2: 240, 3: 1, 4: 0 } };
  const entry = { odometer_km: 9, author: "Ines", finding: counts };
  await send(`/api/jobs/${job.id}/entries`, { seen: 1, request_key: "counts", entry });
  await page.goto(`${server.address}/jobs/${job.id}`);
  await expect(nextMove(page)).toContainText("Left out: cylinder 3: shares a coil with cylinder 2");
  // Cylinders 1 and 4 share a coil too: two parts there could not be told apart, so they wait their turn.
  await expect(nextMove(page)).toContainText("For another drive: plug, lead");
  await nextMove(page)
    .getByRole("button", { name: /Other ways/ })
    .click();
  await nextMove(page).getByRole("button", { name: "Measure first" }).first().click();
  await expect(sheet(page).getByRole("heading", { name: "Need checked" })).toBeVisible();
});
