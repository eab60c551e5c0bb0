import type { Organisation } from "../api";

/** An organisation's code beside a stripe of its colour; the letters say what the colour does. */
export function CodeMark({ organisation }: { organisation: Pick<Organisation, "code" | "colour"> }) {
  if (!organisation.code) return null;
  return (
    <span className="code-mark">
      <svg width="6" height="16" aria-hidden="true" style={{ alignSelf: "center" }}>
        <rect width="6" height="16" fill={organisation.colour || "var(--aboard-hair)"} />
      </svg>
      {organisation.code}
    </span>
  );
}
