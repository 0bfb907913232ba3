// Brings the demo shoot in once, before all browser tests: each file begins with a copy of that
// profile.
import { cp, mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { DEMO_PROFILE, demoComplete, startFresh } from "./harness";

export default async function bringInDemo(): Promise<void> {
  const running = await startFresh();
  const profile = await mkdtemp(join(tmpdir(), "rhizome-demo-"));
  try {
    await running.page.goto(`${running.base}/shoots`);
    await running.page.getByRole("link", { name: /Quillmoor/ }).click({ timeout: 180000 });
    await demoComplete(running.page);
    // what is said once, at the first merge, was read
    await running.page.evaluate(() => localStorage.setItem("rhizome:evidence-explained", "yes"));
    await running.context.close();
    await cp(join(running.dir, "profile"), profile, { recursive: true });
  } finally {
    await running.close();
  }
  process.env[DEMO_PROFILE] = profile;
}
