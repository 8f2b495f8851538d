// What the screens of the repair show when there is little, much, or nothing at all, and when the server does not answer.
import { expect, nextMove, openJob, sheet, test, tooLow, write } from "./workshop";

test("a yard of many jobs is shown a page at a time, and says what is still being reckoned", async ({
  page,
  server,
}) => {
  const row = (id: number) => ({
    id,
    fleet_no: `W-${id}`,
    vehicle: "Hollin Fell",
    complaint: "misfire",
    waiting_for: "cold",
    next: "Leave it until it is cold",
    next_minutes: 5,
    sure_of: "",
    odometer_km: 1000,
    cold_at: "2026-11-25T20:00:00Z",
    off: 2,
    last_at: "2026-11-25T12:00:00Z",
    closed: false,
  });
  await page.route("**/api/yard*", (route) => {
    const from = Number(new URL(route.request().url()).searchParams.get("from") ?? 0);
    const open = Array.from({ length: Math.min(100, 150 - from) }, (_one, index) => row(150 - from - index));
    return route.fulfill({ json: { open, open_count: 150, closed: [], closed_count: 19_850, refreshing: true } });
  });
  await page.goto(server.address);
  await expect(page.getByText("1 to 100 of 150 open jobs")).toBeVisible();
  await expect(page.getByText("Some jobs are still being reckoned")).toBeVisible();
  await expect(page.getByRole("link", { name: /W-150/ })).toContainText("waits until it is cold");
  await expect(page.getByRole("link", { name: /W-150/ })).toContainText("2 things off the car");
  await page.getByRole("button", { name: "Older" }).click();
  await expect(page.getByText("101 to 150 of 150 open jobs")).toBeVisible();
  await expect(page.getByRole("button", { name: "Older" })).toBeDisabled();
  await page.getByRole("button", { name: "Newer" }).click();
  await expect(page.getByRole("link", { name: /W-150/ })).toBeVisible();
});

test("a server that does not answer is said on each of the new screens", async ({ page, server }) => {
  for (const [path, api] of [
    ["/depot", "**/api/depot"],
    ["/jobs/3/repair?do=drive", "**/api/jobs/3/drive"],
  ] as const) {
    await page.route(api, (route) => route.abort());
    await page.goto(server.address + path);
    await expect(page.getByRole("alert")).toContainText(/does not answer/i, { timeout: 15_000 });
    await page.unroute(api);
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(page.getByRole("alert")).toHaveCount(0);
  }
});

test("what is not there is said in words", async ({ page, server }) => {
  for (const path of ["/jobs/99/report", "/jobs/99/repair", "/vehicles/99"]) {
    await page.goto(server.address + path);
    await expect(page.getByText(/There is no such|not here|no (job|vehicle)/i).first()).toBeVisible();
  }
  await page.goto(`${server.address}/vehicles/5`);
  await expect(page.getByRole("region", { name: "Replaced" })).toContainText("Nothing yet.");
  await page.goto(`${server.address}/jobs/3/repair?do=drive`);
  await expect(page.getByText("Nothing was repaired yet.")).toBeVisible();
});

test("what is typed about the repair outlives a reload", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/3/repair`);
  await page.getByLabel("What comes off").fill("air hose");
  await page.keyboard.press("Enter");
  await page.getByLabel("What comes off").fill("half a word");
  await page.reload();
  await expect(page.getByLabel("What comes off")).toHaveValue("half a word");
  await expect(page.getByRole("region", { name: "Taking off" }).getByLabel("What", { exact: true })).toHaveValue(
    "air hose",
  );
  await page.getByRole("button", { name: "Strike air hose" }).click();
  await expect(page.getByRole("button", { name: /Write down/ })).toHaveCount(0);
});

test("a list that came off before is taken up again for the same vehicle", async ({ page, server }) => {
  await page.goto(`${server.address}/jobs/3/repair`);
  await page.getByLabel("What comes off").fill("engine cover, 8 manifold bolts");
  await page.keyboard.press("Enter");
  await page.getByLabel("Name of this list").fill("intake manifold off");
  await page.getByRole("button", { name: "Keep with the vehicle" }).click();
  await expect(page.getByRole("button", { name: "Kept with the vehicle" })).toBeVisible();
  await page.evaluate(() => localStorage.removeItem("gritty-ember.draft.job-3.off"));
  await page.reload();
  await page.getByLabel("As it came off before").click();
  await page.getByRole("option", { name: "intake manifold off" }).click();
  await expect(page.getByRole("button", { name: "Write down 2 things as off" })).toBeVisible();
});

test("a good old part opens the verdict again, and the proof says so", async ({ page }) => {
  await openJob(page, "W-07");
  const job = page.url();
  await page.keyboard.press("a");
  await page.getByRole("dialog").getByRole("button", { name: "It came", exact: true }).click();
  await write(page);
  await expect(nextMove(page)).toContainText("It came back");
  await page.keyboard.press("a");
  await page.getByRole("dialog").getByRole("button", { name: "New part fitted", exact: true }).click();
  await sheet(page).getByLabel("Part", { exact: true }).fill("coil");
  await sheet(page).getByLabel("Cylinder").click();
  await page.getByRole("option", { name: "2", exact: true }).click();
  await write(page);
  await page.keyboard.press("a");
  await page.getByRole("dialog").getByRole("button", { name: "Old part looked into", exact: true }).click();
  await expect(sheet(page).getByText("No earlier job of this vehicle replaced it there.")).toBeVisible();
  await sheet(page).getByRole("button", { name: /^Good/ }).click();
  await sheet(page).getByLabel("How, and what was seen").fill("measures as its sisters do");
  await write(page);
  await expect(nextMove(page)).toContainText("The old coil is good: the verdict is open again");
  await page.goto(`${job}/proof`);
  await expect(page.getByText(/The old part was good \(entry \d+\)/)).toBeVisible();
});

test("starts, weeks and attempts stand beside the kilometres", async ({ page }) => {
  await openJob(page, "W-03");
  const job = page.url();
  const add = async (kind: string, fill: () => Promise<void>) => {
    await page.keyboard.press("a");
    await page.getByRole("dialog").getByRole("button", { name: kind, exact: true }).click();
    await fill();
    await write(page);
  };
  await add("How often it came", async () => {
    await sheet(page).getByRole("button", { name: "cold starts" }).click();
    await sheet(page).getByLabel("Watched over so many cold starts").fill("12");
    await sheet(page).getByLabel("It came at").fill("3; 7; 20");
    await sheet(page).getByRole("button", { name: "Write it down" }).click();
    await expect(
      sheet(page)
        .getByText(/20 does not lie within the 12 watched/)
        .first(),
    ).toBeVisible();
    await sheet(page).getByLabel("It came at").fill("3; 7; 10; 12");
  });
  await add("Tried to bring it on", async () => {
    await sheet(page).getByLabel("How it was provoked").fill("hot-air gun at the sensor");
    await sheet(page).getByLabel("It came so many times").fill("4");
    await sheet(page).getByLabel("in so many attempts").fill("5");
  });
  await add("New part fitted", async () => {
    await sheet(page).getByLabel("Part", { exact: true }).fill("crank sensor");
  });
  await add("Left to go cold", async () => {});
  await expect(nextMove(page)).toContainText("Leave it until it is cold: 8 hours");
  await nextMove(page).getByRole("button", { name: "It was started" }).click();
  await sheet(page).getByLabel("Hours it had stood").fill("9");
  await write(page);
  await add("Ran without it", async () => {
    await sheet(page).getByRole("button", { name: "cold starts" }).click();
    await sheet(page).getByLabel("So many cold starts more").fill("3");
    await sheet(page)
      .getByLabel(/The owner says so/)
      .check();
  });
  await add("Tried to bring it on", async () => {
    await sheet(page).getByLabel("How it was provoked").fill("hot-air gun at the sensor");
    await sheet(page).getByLabel("It came so many times").fill("0");
    await sheet(page).getByLabel("in so many attempts").fill("5");
  });
  await page.goto(`${job}/proof`);
  const besides = page.getByRole("region", { name: "Besides kilometres" });
  // One start after a real soak, and seven tenths of the three that were told.
  await expect(besides).toContainText("3.1 cold starts without it, after 4 in 12; 3 of them told by the owner");
  await expect(besides).toContainText("Provoked 4 of 5 times before, none of 5 since.");
});

test("what is touched on the screens of the repair is 44 px high or more", async ({ page, server }) => {
  for (const path of [
    "/jobs/3/repair",
    "/jobs/3/repair?do=buy",
    "/jobs/3/repair?do=learn",
    "/find",
    "/depot",
    "/vehicles/1",
  ]) {
    await page.goto(server.address + path);
    await page.getByRole("heading").first().waitFor();
    await page.waitForTimeout(500);
    expect(await tooLow(page), path).toEqual([]);
  }
});
