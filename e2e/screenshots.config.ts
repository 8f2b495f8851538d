import base from "./playwright.config";

// Makes the pictures of docs/screenshots from the demonstration depot.
export default { ...base, testDir: ".", testMatch: "screenshots.ts", workers: 1, fullyParallel: false };
