// Passkeys on the sign-in page and on one's own account: everything else on these pages works without scripts.
const said = document.getElementById("passkey-said");
const token = document.querySelector('input[name="__RequestVerificationToken"]')?.value ?? "";

async function ask(method, path, body) {
  const answer = await fetch(path, {
    method,
    headers: { "content-type": "application/json", "X-Antiforgery": token },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  if (answer.status === 204) return undefined;
  const read = await answer.json();
  if (!answer.ok) throw Object.assign(new Error(`${read.title} ${read.detail}`), { code: read.code });
  return read;
}

// A browser that is asked and broken off says so itself.
async function step(what) {
  said.textContent = "";
  try {
    await what();
  } catch (fault) {
    if (fault.code === "proof.stale") location.assign("/confirm?next=/account");
    else said.textContent = fault.name === "NotAllowedError" ? said.dataset.brokenOff : fault.message;
  }
}

async function signIn() {
  const { id, options } = await ask("POST", "/api/v1/sessions/passkey-options");
  const credential = await navigator.credentials.get({
    publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(options),
  });
  await ask("POST", "/api/v1/sessions/by-passkey", { ceremony: id, credential: credential.toJSON() });
  const next = document.querySelector('input[name="next"]').value;
  location.assign(next || "/home");
}

async function confirm() {
  const { id, options } = await ask("POST", "/api/v1/sessions/passkey-options");
  const credential = await navigator.credentials.get({
    publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(options),
  });
  await ask("POST", "/api/v1/me/proof/by-passkey", { ceremony: id, credential: credential.toJSON() });
  // The page's own path is a path of ours, and so is where it leads.
  const next = new URLSearchParams(location.search).get("next") ?? "";
  location.assign(/^\/(?![/\\])/.test(next) ? next : "/account");
}

async function add(label) {
  const { id, options } = await ask("POST", "/api/v1/me/passkeys/options");
  const credential = await navigator.credentials.create({
    publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(options),
  });
  await ask("POST", "/api/v1/me/passkeys", { ceremony: id, credential: credential.toJSON(), label });
  location.assign("/account");
}

async function remove(id) {
  await ask("DELETE", `/api/v1/me/passkeys/${id}`);
  location.assign("/account");
}

if (window.PublicKeyCredential?.parseRequestOptionsFromJSON) {
  for (const part of document.querySelectorAll("[data-passkeys]")) part.hidden = false;
  document.getElementById("passkey-sign-in")?.addEventListener("click", () => step(signIn));
  document.getElementById("passkey-confirm")?.addEventListener("click", () => step(confirm));
  document.getElementById("passkey-add")?.addEventListener("submit", (event) => {
    event.preventDefault();
    step(() => add(new FormData(event.currentTarget).get("label")));
  });
}
for (const button of document.querySelectorAll("[data-remove-passkey]"))
  button.addEventListener("click", () => step(() => remove(button.dataset.removePasskey)));
