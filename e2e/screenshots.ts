// One picture of each main view, from the demonstration depot, into docs/screenshots.
import { fileURLToPath } from "node:url";
import { demo, expect, importFile, importLog, nextMove, openJob, sheet, test, write } from "./tests/workshop";

const folder = fileURLToPath(new URL("../docs/screenshots/", import.meta.url));

test("pictures of the main views", async ({ page, server }) => {
  const take = async (name: string) => {
    await page.mouse.move(2, 2);
    await page.waitForTimeout(600);
    await page.screenshot({ path: `${folder}${name}.png` });
  };
  const paper = () => page.getByRole("button", { name: "Paper" }).click();
  const bay = () => page.getByRole("button", { name: "Bay" }).click();

  await expect(page.getByRole("link", { name: /W-07/ }).first()).toBeVisible();
  await take("yard");

  await page.getByRole("link", { name: "New job" }).last().click();
  await page.getByRole("button", { name: "Another vehicle" }).click();
  await page.getByLabel("Cylinders", { exact: true }).fill("6");
  await page.getByLabel("Firing order").fill("1-4-3-6-2-5");
  await page.getByLabel("Banks").fill("1-3-5 / 2-4-6");
  await page.getByLabel("Arrangement").click();
  await page.getByRole("option", { name: "vee" }).click();
  await page.getByRole("group", { name: "What it does" }).getByRole("button", { name: "rough idle" }).click();
  await expect(page.locator('[data-cylinder="6"]')).toBeVisible();
  await paper();
  await take("new-job");
  await bay();

  // W-07 once more, up to the swap: what the plan proposes.
  await page.getByRole("button", { name: /W-07/ }).click();
  await page.getByRole("group", { name: "What it does" }).getByRole("button", { name: "misfire" }).click();
  await page.getByLabel("Watched since (km)").fill("84975");
  await page.getByLabel("Odometer now").fill("85310");
  await page.getByRole("button", { name: "Open the job" }).click();
  await expect(nextMove(page)).toBeVisible();
  await page.keyboard.press("m");
  await importFile(page, "w07-before-swap.csv");
  await write(page);
  await expect(nextMove(page)).toContainText("Swap:");

  await page.goto(`${server.address}/jobs/8`);
  await expect(nextMove(page)).toContainText("Listen for the fuel pump");
  await take("job-test");
  await page.goto(`${server.address}/jobs/4/suspects`);
  await expect(page.getByRole("list", { name: "Suspects" })).toBeVisible();
  await take("suspects");

  await page.getByRole("link", { name: "Yard" }).click();
  await openJob(page, "M-02");
  await take("job-drive-due");
  await nextMove(page).getByRole("button", { name: "Enter the counts" }).click();
  await importFile(page, "m02-after-swap.csv");
  await sheet(page).getByLabel("Odometer").fill("6431");
  await write(page);
  await expect(nextMove(page)).toContainText("Fit a new lead");
  await take("job-verdict");

  await page.goto(`${server.address}/jobs/1`);
  await expect(nextMove(page)).toBeVisible();
  await paper();
  await take("job-proven-on-paper");
  await bay();
  await page.goto(`${server.address}/jobs/2/counts`);
  await page.getByRole("table").waitFor();
  await take("counts");
  await page.goto(`${server.address}/jobs/1/proof`);
  await page.getByRole("img", { name: /Confidence/ }).waitFor();
  await take("proof");
  await page.goto(`${server.address}/jobs/3/units`);
  await page.getByRole("region", { name: "Units" }).waitFor();
  await take("units");
  await page.goto(`${server.address}/recordings/1?view=trims`);
  await page.locator("[data-leak]").waitFor();
  await take("trims");
  await page.goto(`${server.address}/recordings/2?view=boost`);
  await page.locator("[data-verdict]").waitFor();
  await take("boost");
  await page.goto(`${server.address}/recordings/1?view=traces`);
  await page.getByRole("img", { name: /engine speed over time/ }).waitFor();
  await take("traces");
  await page.goto(`${server.address}/jobs/7/bench?with=ohm`);
  await page.getByLabel("Part", { exact: true }).click();
  await page.getByRole("option", { name: "Plug lead" }).click();
  await page.getByLabel("Cylinder", { exact: true }).click();
  await page.getByRole("option", { name: "3", exact: true }).click();
  await page.getByRole("button", { name: "By its sisters" }).click();
  for (const name of ["Simulated leads", "Simulated meter", "Read the sisters with the simulated meter"])
    await page.getByRole("button", { name, exact: true }).click();
  await expect(page.getByRole("region", { name: "Verdict" })).toContainText("odd one out");
  await take("bench-ohm");
  await page.goto(`${server.address}/jobs/5/bench?with=path`);
  for (let reading = 0; reading < 3; reading++) {
    await expect(page.getByRole("region", { name: "Verdict" })).toContainText("Next: measure at");
    await page.getByRole("button", { name: "Simulated meter at the next point" }).click();
    await page.waitForTimeout(900);
  }
  await take("bench-path");
  await page.goto(`${server.address}/jobs/2/scope`);
  await page.locator('input[type="file"]').setInputFiles(demo("m02-coil-current.csv"));
  await page.getByLabel("At the coil while it charges").fill("13.8");
  await expect(page.getByRole("table", { name: "Figures of the capture" })).toContainText("Inductance");
  await take("capture");
  await page.goto(`${server.address}/jobs/1`);
  await expect(nextMove(page)).toBeVisible();
  await importLog(page, demo("w07-where-it-misses.csv"));
  await page.getByRole("tab", { name: "Where it misses" }).click();
  await page.getByRole("table").waitFor();
  await take("misfire-map");
  await page.goto(`${server.address}/jobs/3/link`);
  await page.getByRole("button", { name: /Connect to W-12/ }).click();
  await page.getByRole("button", { name: "Simulated driver: drive the loop" }).click();
  await page.getByRole("tab", { name: "Live data" }).click();
  await page.getByRole("button", { name: "Record a drive" }).click();
  await expect(page.getByRole("region", { name: "Recording" })).toContainText(/^1:/, { timeout: 20_000 });
  await take("at-the-car");
  await page.goto(`${server.address}/jobs/1/report`);
  await page.getByRole("article").waitFor();
  await paper();
  await take("report");
});
