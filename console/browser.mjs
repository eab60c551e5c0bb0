const args = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

/** Chromium without windows and all that belongs to them, for scenes and pictures: the same pages for half the processor time. */
export const windowless = { executablePath: "/usr/bin/chromium-headless-shell", args };

/** Chromium as people have it, for measuring. */
export const whole = { executablePath: "/usr/bin/chromium", args };
