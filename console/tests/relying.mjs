// A program that people sign in to from here, built on a certified library for that. It prints its address once it answers,
// is told on standard input who it is to us, and says "told" when it knows.
import { createServer } from "node:http";
import { createInterface } from "node:readline";
import { createRemoteJWKSet, jwtVerify } from "jose";
import * as client from "openid-client";

let config;
let asked;
let tokens;
let told = "";

const pages = {
  "/": () =>
    tokens
      ? `Signed in: ${tokens.claims().name} (${tokens.claims().email}), ${tokens.claims().level}`
      : `<a href="/sign-in">Sign in</a> ${told}`,
  "/renewed": async () => {
    tokens = await client.refreshTokenGrant(config, tokens.refresh_token);
    const who = await client.fetchUserInfo(config, tokens.access_token, tokens.claims()?.sub ?? asked.sub);
    return `Renewed: ${who.name}`;
  },
  "/by-itself": async () => {
    const own = await client.clientCredentialsGrant(config);
    const answer = await client.fetchProtectedResource(
      config,
      own.access_token,
      new URL(asked.people),
      "GET",
    );
    return `By itself, with ${own.scope}: ${answer.status}`;
  },
};

async function signIn(response) {
  const verifier = client.randomPKCECodeVerifier();
  asked = { ...asked, verifier, state: client.randomState(), nonce: client.randomNonce() };
  const to = client.buildAuthorizationUrl(config, {
    redirect_uri: `${origin}/back`,
    scope: "openid profile email offline_access",
    code_challenge: await client.calculatePKCECodeChallenge(verifier),
    code_challenge_method: "S256",
    state: asked.state,
    nonce: asked.nonce,
  });
  response.writeHead(302, { location: to.href }).end();
}

async function back(url, response) {
  tokens = await client.authorizationCodeGrant(config, url, {
    pkceCodeVerifier: asked.verifier,
    expectedState: asked.state,
    expectedNonce: asked.nonce,
    idTokenExpected: true,
  });
  asked.sub = tokens.claims().sub;
  asked.sid = tokens.claims().sid;
  response.writeHead(302, { location: "/" }).end();
}

async function signedOut(request, response) {
  let body = "";
  for await (const part of request) body += part;
  const keys = createRemoteJWKSet(new URL(config.serverMetadata().jwks_uri));
  const { payload, protectedHeader } = await jwtVerify(new URLSearchParams(body).get("logout_token"), keys, {
    issuer: config.serverMetadata().issuer,
    audience: config.clientMetadata().client_id,
    typ: "logout+jwt",
  });
  if (payload.sid === asked.sid && payload.sub === asked.sub && protectedHeader.alg === "RS256") {
    tokens = undefined;
    told = "Signed out from there.";
  }
  response.writeHead(200).end();
}

const server = createServer(async (request, response) => {
  const url = new URL(request.url, origin);
  try {
    if (url.pathname === "/sign-in") return await signIn(response);
    if (url.pathname === "/back") return await back(url, response);
    if (url.pathname === "/signed-out") return await signedOut(request, response);
    const page = pages[url.pathname];
    if (!page) return response.writeHead(404).end();
    response
      .writeHead(200, { "content-type": "text/html" })
      .end(`<!doctype html><title>Log</title><link rel="icon" href="data:,"><main>${await page()}</main>`);
  } catch (fault) {
    response.writeHead(200, { "content-type": "text/plain" }).end(`Fault: ${fault.error ?? fault.message}`);
  }
});
await new Promise((listening) => server.listen(0, "127.0.0.1", listening));
const origin = `http://127.0.0.1:${server.address().port}`;
createInterface({ input: process.stdin }).on("line", async (line) => {
  const { issuer, clientId, secret, people } = JSON.parse(line);
  asked = { people };
  config = await client.discovery(new URL(issuer), clientId, secret, undefined, {
    execute: [client.allowInsecureRequests],
  });
  console.log("told");
});
console.log(origin);
