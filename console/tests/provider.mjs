// Another organisation's OpenID Connect provider: a certified one, with its own pages. It prints its issuer once it answers,
// and is told on standard input where it may send people back to.
import { createServer } from "node:http";
import { createInterface } from "node:readline";
import { Provider } from "oidc-provider";

const people = process.argv.slice(2);
const server = createServer();
await new Promise((listening) => server.listen(0, "127.0.0.1", listening));
const issuer = `http://127.0.0.1:${server.address().port}`;

const answering = (redirects) =>
  new Provider(issuer, {
    clients: redirects.map((redirect) => ({
      client_id: "come-aboard",
      client_secret: "a secret of the museum, long enough",
      redirect_uris: [redirect],
      token_endpoint_auth_method: "client_secret_post",
    })),
    claims: { openid: ["sub"], email: ["email", "email_verified"], profile: ["name"] },
    cookies: { keys: ["a key of the museum"] },
    async findAccount(_context, id) {
      const person = people.find((one) => one.split("@")[0] === id);
      return (
        person && {
          accountId: id,
          claims: () => ({ sub: id, email: person, email_verified: true, name: `${id} of the museum` }),
        }
      );
    },
  }).callback();

let answer = answering([]);
createInterface({ input: process.stdin }).on("line", (redirect) => {
  answer = answering([redirect]);
  console.log("told");
});
server.on("request", (request, response) => answer(request, response));
console.log(issuer);
