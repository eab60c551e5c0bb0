/** The four kinds, each with a shape of its own beside its word. */
const shapes: Record<string, string> = {
  staff: "M1 1h16v10H1z M1 5h16v2H1z",
  guest: "M1 1 17 6 1 11z",
  partner: "M1 1h16l-5 5 5 5H1z",
  client: "M1 1h11l5 5-5 5H1z",
};

export function Pennant({ kind }: { kind: string }) {
  return (
    <span className="pennant">
      <svg
        width="18"
        height="12"
        viewBox="0 0 18 12"
        aria-hidden="true"
        style={{ color: `var(--aboard-${kind})` }}
      >
        <path d={shapes[kind] ?? shapes.guest} fill="currentColor" fillRule="evenodd" />
      </svg>
      {kind}
    </span>
  );
}
