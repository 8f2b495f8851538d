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

  await page.goto(`${server.address}/jobs/1`);
  await expect(nextMove(page)).toBeVisible();
  await paper();
  await take("job-proven-on-paper");
  await bay();
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
  await page.goto(`${server.address}/jobs/6/repair`);
  const line = page.getByLabel("What comes off");
  await line.fill("engine cover, suction hose, 6 filter head bolts, filter seal, fuel drained");
  await line.press("Enter");
  await page.getByRole("button", { name: /Write down 5 things as off/ }).click();
  await expect(page.getByRole("region", { name: "Off the car now" })).toContainText("5 things are not back");
  await line.fill("stop valve connector");
  await line.press("Enter");
  await take("off-and-on");
  await page.getByRole("tab", { name: "Tighten" }).click();
  await page.getByLabel("What is tightened").fill("filter head");
  await page.getByLabel("The maker's stages, with their units").fill("10 N·m; 22 N·m; 60°");
  await page.getByLabel("Fasteners").fill("6");
  await page.getByRole("button", { name: "on a circle" }).click();
  await page.getByLabel("Torque wrench").fill("quarter-inch click");
  await page.getByLabel("reads from").fill("5 N·m");
  await page.getByLabel("up to").fill("25 N·m");
  const walk = page.getByRole("region", { name: "Tightening, step by step" });
  await walk.getByRole("button", { name: "All of this stage" }).click();
  for (let one = 0; one < 3; one++) await walk.getByRole("button", { name: /is done/ }).click();
  await take("tighten");
  await page.goto(`${server.address}/find?words=hot`);
  await page.getByRole("link", { name: /W-03/ }).waitFor();
  await take("find");
  await page.goto(`${server.address}/vehicles/1`);
  await page.getByRole("region", { name: "Replaced" }).waitFor();
  await take("vehicle");
  await page.goto(`${server.address}/jobs/1/report`);
  await page.getByRole("article").waitFor();
  await paper();
  await take("report");
});
