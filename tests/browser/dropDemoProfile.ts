import { rm } from "node:fs/promises";
import { DEMO_PROFILE } from "./harness";

export default async function dropDemoProfile(): Promise<void> {
  const profile = process.env[DEMO_PROFILE];
  if (profile) await rm(profile, { recursive: true, force: true });
}
