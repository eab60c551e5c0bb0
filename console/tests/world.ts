import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

/**
 * Makes the demo's world of today once, for the demos of all workers, and throws it away after them; or takes the one that other
 * scenes of the same run have made.
 */
export default function makeWorld() {
  const given = process.env.SCENES_WORLD;
  const kept = given ?? mkdtempSync(join(tmpdir(), "come-aboard-kept-"));
  process.env.XDG_CACHE_HOME = kept;
  execFileSync("../bin/come-aboard", ["demo", "--prepare"], { stdio: ["ignore", "inherit", "inherit"] });
  return () => {
    if (!given) rmSync(kept, { recursive: true });
  };
}
