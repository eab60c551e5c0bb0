// What both independent SCIM peers are: the library's routes behind a token, an address on standard output, and lines that are told.
import { createInterface } from "node:readline";
import express from "express";
import SCIMMYRouters from "scimmy-routers";

/** Answers on loopback; before the library does, every request goes through a function, and each line that comes is told to another. */
export function serve(before, told) {
  const app = express();
  // A token for whoever shows the secret (RFC 6749, section 4.4).
  app.post("/token", (request, answer) => {
    const shown = Buffer.from((request.header("Authorization") ?? "").replace("Basic ", ""), "base64");
    if (shown.toString() !== "aboard:low%20water")
      return answer.status(401).json({ error: "invalid_client" });
    answer.json({ access_token: "the tide is high", token_type: "Bearer", expires_in: 3600 });
  });
  app.use("/scim", before);
  app.use(
    "/scim",
    new SCIMMYRouters({
      type: "bearer",
      handler: (request) => {
        if (request.header("Authorization") !== "Bearer the tide is high") throw new Error("Who are you?");
        return "us";
      },
    }),
  );
  const server = app.listen(0, "127.0.0.1", () => {
    console.log(`http://127.0.0.1:${server.address().port}/scim`);
  });
  createInterface({ input: process.stdin }).on("line", (line) => console.log(told(JSON.parse(line))));
  process.stdin.on("end", () => process.exit());
}
