// Before all tests: a demo is prepared once, of which each test gets a copy.
import { dataFile, demo, stop } from "./app.mjs";

export default async function prepare() {
  if (process.env.DEMO_DATA) return; // somebody has prepared one
  process.env.DEMO_DATA = dataFile();
  const { child } = await demo("--data", process.env.DEMO_DATA);
  await stop(child);
}
