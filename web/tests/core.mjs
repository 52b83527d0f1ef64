/** Starts the core for the tests that draw with it, and ends it with them. */
import { spawn } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";

const at = (path) => fileURLToPath(new URL(path, import.meta.url));

export default async function setup(project) {
  const env = { ...process.env, PYTHONPATH: at("../../core") };
  const core = spawn(at("../../.venv/bin/python"), [at("core.py")], {
    env,
    stdio: ["ignore", "pipe", "inherit"],
  });
  const gone = once(core, "exit").then(() => {
    throw new Error("the core did not come up");
  });
  const [port] = await Promise.race([once(core.stdout, "data"), gone]);
  gone.catch(() => {});
  project.provide("core", `http://127.0.0.1:${String(port).trim()}`);
  return () => core.kill();
}
