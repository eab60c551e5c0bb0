// A receiver of signed webhooks, built on a library for that. It prints its address once it answers. On standard input it is told
// by which secret, how far ahead its clock is, and what to answer; each line is answered by what came since: events whose signature held, and how many were refused.
import { createServer } from "node:http";
import { createInterface } from "node:readline";
import { Webhook } from "standardwebhooks";

const lines = createInterface({ input: process.stdin });
const now = Date.now;
let hook;
let status = 204;
let came = { events: [], refused: 0 };

const server = createServer((request, answer) => {
  const parts = [];
  request.on("data", (part) => parts.push(part));
  request.on("end", () => {
    try {
      if (request.headers["content-type"] !== "application/cloudevents+json; charset=utf-8")
        throw new Error("no event");
      const event = hook.verify(Buffer.concat(parts).toString(), request.headers);
      if (status < 300) came.events.push({ id: request.headers["webhook-id"], event });
      answer.writeHead(status, status === 429 ? { "Retry-After": "1" } : {}).end();
    } catch {
      came.refused++;
      answer.writeHead(400).end();
    }
  });
});
server.listen(0, "127.0.0.1", () => console.log(`http://127.0.0.1:${server.address().port}/hook?of=aboard`));
for await (const line of lines) {
  const told = JSON.parse(line);
  if (told.secret) hook = new Webhook(told.secret);
  if (told.ahead) Date.now = () => now() + told.ahead;
  if (told.status) status = told.status;
  console.log(JSON.stringify(came));
  came = { events: [], refused: 0 };
}
