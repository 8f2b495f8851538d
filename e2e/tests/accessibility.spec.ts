// Each main view, dark and light: no violation of WCAG 2.2 AA that axe can find, and touch targets of 44 px.
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { demo, expect, test, tooLow } from "./workshop";

const drawn = (page: Page) => page.getByRole("img").first().waitFor();

const VIEWS: { name: string; path: string; open?: (page: Page) => Promise<void> }[] = [
  { name: "yard", path: "/" },
  { name: "new job", path: "/new" },
  {
    name: "new engine",
    path: "/new",
    open: async (page) => {
      await page.getByRole("button", { name: "Another vehicle" }).click();
      await expect(page.locator('[data-cylinder="3"]')).toBeVisible();
    },
  },
  { name: "job", path: "/jobs/2" },
  { name: "closed job", path: "/jobs/1" },
  {
    name: "entry sheet",
    path: "/jobs/2",
    open: async (page) => {
      await page.getByRole("button", { name: "Enter the counts" }).click();
      await page.waitForTimeout(400);
    },
  },
  {
    name: "keys",
    path: "/jobs/2",
    open: async (page) => {
      await page.getByRole("button", { name: "Keys ?" }).click();
      await page.waitForTimeout(400);
    },
  },
  { name: "a test to make", path: "/jobs/8" },
  {
    name: "other ways",
    path: "/jobs/6",
    open: async (page) => {
      await page.getByRole("button", { name: "Other ways" }).click();
    },
  },
  {
    name: "finding in words",
    path: "/jobs/6",
    open: async (page) => {
      await expect(page.getByRole("region", { name: "Next move" })).toBeVisible();
      await page.keyboard.press("x");
      await page.getByLabel("What was tested or found, in your words").fill("bubbles");
      await page.getByRole("list", { name: "Found in the book" }).getByRole("button").first().click();
      await page.waitForTimeout(400);
    },
  },
  { name: "suspects", path: "/jobs/4/suspects" },
  { name: "book", path: "/book" },
  { name: "fault", path: "/book/faults/vanes-stick" },
  { name: "test page", path: "/book/tests/spark-test" },
  { name: "workshop's own", path: "/book/workshop" },
  {
    name: "ohm at the bench",
    path: "/jobs/2/bench?with=ohm",
    open: async (page) => {
      await page.getByRole("button", { name: "Simulated meter", exact: true }).click();
      await page.getByLabel("From", { exact: true }).fill("0.6");
      await page.getByLabel("To", { exact: true }).fill("1.2");
      await expect(page.getByRole("region", { name: "Verdict" })).toContainText("pass");
    },
  },
  {
    name: "path at the bench",
    path: "/jobs/5/bench?with=path",
    open: async (page) => {
      await page.getByRole("button", { name: "Simulated meter at the next point" }).click();
      await page.getByRole("button", { name: "Details of main relay" }).click();
      await page.getByRole("button", { name: "Another circuit on this feed" }).click();
    },
  },
  {
    name: "pins at the bench",
    path: "/jobs/5/bench?with=pins",
    open: async (page) => {
      await page.getByRole("button", { name: "Simulated meter" }).click();
      await expect(page.getByRole("button", { name: /^Pin 1, 8.9/ })).toBeVisible();
    },
  },
  { name: "volts at the bench", path: "/jobs/7/bench?with=volts" },
  { name: "cylinders at the bench", path: "/jobs/1/bench?with=cylinders" },
  {
    name: "plugs at the bench",
    path: "/jobs/1/bench?with=plugs",
    open: async (page) => {
      await page.getByRole("button", { name: /^Face of plug 1/ }).click();
      await page.waitForTimeout(400);
    },
  },
  {
    name: "sweep at the bench",
    path: "/jobs/1/bench?with=sweep",
    open: async (page) => {
      await page.getByLabel(/^One line/).fill("0 1\n1 2\n2 3\n3 4\n4 5\n5 6\n6 9\n7 10\n8 11");
      await drawn(page);
    },
  },
  { name: "vacuum at the bench", path: "/jobs/4/bench?with=vacuum" },
  { name: "air at the bench", path: "/jobs/4/bench?with=air" },
  { name: "more at the bench", path: "/jobs/1/bench?with=more" },
  { name: "scope", path: "/jobs/2/scope" },
  {
    name: "capture",
    path: "/jobs/2/scope",
    open: async (page) => {
      await page.getByRole("button", { name: "Coil current" }).click();
      await expect(page.getByRole("region", { name: "Verdict" })).toContainText("alike");
    },
  },
  { name: "counts", path: "/jobs/1/counts" },
  { name: "proof", path: "/jobs/1/proof" },
  { name: "report", path: "/jobs/1/report" },
  { name: "report for the technician", path: "/jobs/1/report?for=technician" },
  {
    name: "off and on",
    path: "/jobs/3/repair",
    open: async (page) => {
      await page.getByLabel("What comes off").fill("8 manifold bolts, gasket");
      await page.keyboard.press("Enter");
      await page.getByRole("button", { name: "More" }).first().click();
      await page.getByRole("button", { name: "Write down 2 things as off" }).click();
      await expect(page.getByRole("region", { name: "Off the car now" })).toContainText("gasket");
    },
  },
  { name: "what to buy", path: "/jobs/3/repair?do=buy" },
  {
    name: "tightening",
    path: "/jobs/3/repair?do=tighten",
    open: async (page) => {
      await page.getByLabel("The maker's stages, with their units").fill("8 N·m; 90°");
      await page.getByLabel("Fasteners").fill("6");
      await expect(page.getByRole("region", { name: "Tightening, step by step" })).toContainText("By hand");
    },
  },
  { name: "numbers", path: "/jobs/4/repair?do=numbers" },
  { name: "learning again", path: "/jobs/3/repair?do=learn" },
  { name: "the drive that proves it", path: "/jobs/3/repair?do=drive" },
  { name: "find", path: "/find?words=coil", open: (page) => page.getByRole("link", { name: /M-02/ }).waitFor() },
  { name: "depot", path: "/depot" },
  { name: "vehicle", path: "/vehicles/1" },
  { name: "connecting", path: "/jobs/3/link" },
  {
    name: "scan",
    path: "/jobs/3/link",
    open: async (page) => {
      await page.getByRole("button", { name: /Connect to W-12/ }).click();
      await page.getByRole("button", { name: "Scan all units" }).click();
      await expect(page.getByRole("region", { name: "Just read" })).toContainText("body");
      await page.getByRole("button", { name: "Freeze frame of P0171" }).click();
    },
  },
  {
    name: "outputs",
    path: "/jobs/4/link",
    open: async (page) => {
      await page.getByRole("button", { name: /Connect to W-15/ }).click();
      await page.getByRole("tab", { name: "Drive outputs" }).click();
    },
  },
  {
    name: "live figures",
    path: "/jobs/3/link",
    open: async (page) => {
      await page.getByRole("button", { name: /Connect to W-12/ }).click();
      await page.getByRole("tab", { name: "Live data" }).click();
      await page.getByRole("button", { name: "Watch live data" }).click();
      await expect(page.getByRole("region", { name: "Live figures" })).toContainText("engine speed");
    },
  },
  { name: "units", path: "/jobs/3/units" },
  {
    name: "columns of a log",
    path: "/jobs/1/log",
    open: async (page) => {
      await page.locator('input[type="file"]').setInputFiles(demo("w07-where-it-misses.csv"));
      await expect(page.getByRole("table")).toBeVisible();
    },
  },
  { name: "traces", path: "/recordings/1?view=traces", open: drawn },
  { name: "map", path: "/recordings/1?view=map", open: (page) => page.getByRole("table").waitFor() },
  { name: "over time", path: "/recordings/1?view=time", open: (page) => page.getByRole("table").waitFor() },
  { name: "trims", path: "/recordings/1?view=trims", open: drawn },
  { name: "charge pressure", path: "/recordings/2?view=boost", open: drawn },
];

// The other mode is for pages with frames from elsewhere, which there are none of here, and takes twice as long.
const axe = (page: Page) => new AxeBuilder({ page }).setLegacyMode(true);

const prefer = (page: Page, theme: string) =>
  page.evaluate((name) => {
    // What the first round has typed must not lie in the way of the second.
    localStorage.clear();
    localStorage.setItem("gritty-ember.preferences", JSON.stringify({ theme: name, author: "Ines", keys: true }));
  }, theme);

for (const view of VIEWS) {
  test(`${view.name} has no violations, in the bay and on paper`, async ({ page, server }) => {
    const open = async () => {
      await page.goto(server.address + view.path);
      await page.getByRole("heading").first().waitFor();
      await view.open?.(page);
    };
    const violations = async (rules: AxeBuilder) => {
      const found = await rules.analyze();
      return found.violations.map((one) => `${one.id}: ${one.nodes.map((node) => node.html).join(" | ")}`);
    };
    await prefer(page, "bay");
    await open();
    expect(await violations(axe(page).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"])), "in the bay").toEqual(
      [],
    );
    // Under a sheet or a menu the switch cannot be reached: then the view is opened once more.
    if (await page.locator("[role=dialog], [role=menu]").count()) {
      await prefer(page, "paper");
      await open();
    } else {
      await page.getByRole("button", { name: "Paper" }).click();
    }
    // The same elements in other colours: nothing but their contrast can differ.
    expect(await violations(axe(page).withRules(["color-contrast"])), "on paper").toEqual([]);
  });
}

test("what is touched on the job is 44 px high or more", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/2`);
  await page.getByRole("heading", { name: /Drive it/ }).waitFor();
  const small = await tooLow(page);
  expect(small).toEqual([]);
});

test("the job fits 1280 by 800 without scrolling the page", async ({ page, server }) => {
  for (const job of [1, 2]) {
    await page.goto(`${server.address}/jobs/${job}`);
    await page.getByRole("region", { name: "Road" }).waitFor();
    const { scrolls, wide } = await page.evaluate(() => ({
      scrolls: document.documentElement.scrollHeight - window.innerHeight,
      wide: document.documentElement.scrollWidth - window.innerWidth,
    }));
    expect([scrolls, wide]).toEqual([0, 0]);
  }
});
