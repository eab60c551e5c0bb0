const signals: Record<string, [mark: string, colour: string]> = {
  draft: ["✎", "var(--aboard-soft)"],
  waiting: ["◑", "var(--aboard-wait)"],
  refused: ["✕", "var(--aboard-soft)"],
  upcoming: ["◔", "var(--aboard-wait)"],
  open: ["●", "var(--aboard-good)"],
  "used up": ["○", "var(--aboard-soft)"],
  closed: ["✕", "var(--aboard-soft)"],
  reading: ["◌", "var(--aboard-wait)"],
  sending: ["◐", "var(--aboard-wait)"],
  resting: ["●", "var(--aboard-good)"],
  stopped: ["▽", "var(--aboard-bad)"],
  ready: ["●", "var(--aboard-good)"],
  personal: ["●", "var(--aboard-good)"],
  member: ["○", "var(--aboard-soft)"],
  invited: ["○", "var(--aboard-soft)"],
  repeated: ["○", "var(--aboard-soft)"],
  wrong: ["▽", "var(--aboard-bad)"],
  blocked: ["▽", "var(--aboard-bad)"],
  queued: ["◌", "var(--aboard-wait)"],
  sent: ["◐", "var(--aboard-wait)"],
  accepted: ["●", "var(--aboard-good)"],
  paused: ["‖", "var(--aboard-wait)"],
  full: ["▽", "var(--aboard-bad)"],
  active: ["●", "var(--aboard-good)"],
  running: ["◐", "var(--aboard-wait)"],
  stuck: ["▽", "var(--aboard-bad)"],
  due: ["◌", "var(--aboard-wait)"],
  confirmed: ["●", "var(--aboard-good)"],
  "by hand": ["◑", "var(--aboard-good)"],
  told: ["◑", "var(--aboard-good)"],
  left: ["‖", "var(--aboard-wait)"],
  failed: ["▽", "var(--aboard-bad)"],
  "as it ought to be": ["●", "var(--aboard-good)"],
  otherwise: ["▽", "var(--aboard-bad)"],
  "not answered": ["▽", "var(--aboard-bad)"],
  done: ["●", "var(--aboard-good)"],
  planned: ["◐", "var(--aboard-wait)"],
  declined: ["✕", "var(--aboard-soft)"],
  revoked: ["✕", "var(--aboard-soft)"],
  undone: ["✕", "var(--aboard-soft)"],
  proved: ["●", "var(--aboard-good)"],
  lapsing: ["▽", "var(--aboard-wait)"],
  lost: ["▽", "var(--aboard-bad)"],
  found: ["◌", "var(--aboard-wait)"],
  asked: ["◐", "var(--aboard-wait)"],
  agreed: ["◑", "var(--aboard-good)"],
  unanswered: ["▽", "var(--aboard-bad)"],
  taken: ["●", "var(--aboard-good)"],
  released: ["○", "var(--aboard-soft)"],
  dropped: ["✕", "var(--aboard-soft)"],
  same: ["●", "inherit"],
  conflicting: ["▽", "var(--aboard-bad)"],
  new: ["◌", "var(--aboard-wait)"],
  "leave-out": ["○", "var(--aboard-soft)"],
  gone: ["✕", "var(--aboard-wait)"],
  likely: ["◑", "var(--aboard-wait)"],
  unlikely: ["○", "var(--aboard-soft)"],
  ended: ["○", "var(--aboard-soft)"],
  expired: ["▽", "var(--aboard-bad)"],
  bounced: ["▽", "var(--aboard-bad)"],
};

/** A state as a mark and a word; the colour repeats what both say. */
export function StateWord({ state }: { state: string }) {
  const [mark, colour] = signals[state] ?? ["·", "inherit"];
  return (
    <span className="state-word">
      <span aria-hidden="true" style={{ color: colour }}>
        {mark}
      </span>
      {state}
    </span>
  );
}
