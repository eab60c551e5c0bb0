const signals: Record<string, [mark: string, colour: string]> = {
  queued: ["◌", "var(--aboard-wait)"],
  sent: ["◐", "var(--aboard-wait)"],
  accepted: ["●", "var(--aboard-good)"],
  active: ["●", "var(--aboard-good)"],
  done: ["●", "var(--aboard-good)"],
  planned: ["◐", "var(--aboard-wait)"],
  declined: ["✕", "var(--aboard-soft)"],
  revoked: ["✕", "var(--aboard-soft)"],
  undone: ["✕", "var(--aboard-soft)"],
  ended: ["○", "var(--aboard-soft)"],
  expired: ["▽", "var(--aboard-bad)"],
  bounced: ["▽", "var(--aboard-bad)"],
};

/** A state as a mark and a word; the colour repeats what both say. */
export function StateWord({ state }: { state: string }) {
  const [mark, colour] = signals[state] ?? ["·", "inherit"];
  return (
    <span style={{ whiteSpace: "nowrap" }}>
      <span aria-hidden="true" style={{ color: colour, marginRight: 6 }}>
        {mark}
      </span>
      {state}
    </span>
  );
}
