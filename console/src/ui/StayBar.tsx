import { dayOf, daysBetween, dayText, distanceText } from "./words";

const width = 120;
const spanBefore = 60;
const spanAfter = 60;

/** A stay on a time line of 60 days before and after today, with today marked. */
export function StayBar({ from, until, today }: { from: string; until: string | null; today: string }) {
  const place = (date: string) =>
    (Math.min(Math.max(daysBetween(today, date), -spanBefore), spanAfter) + spanBefore) *
    (width / (spanBefore + spanAfter));
  const begin = place(dayOf(from));
  const end = until ? place(until) : width;
  const left = until ? daysBetween(today, until) : Number.POSITIVE_INFINITY;
  const colour = left < 0 ? "var(--aboard-soft)" : left <= 14 ? "var(--aboard-wait)" : "var(--aboard-accent)";
  return (
    <span
      style={{ display: "inline-flex", gap: 12, alignItems: "center" }}
      title={until ? `Last day ${dayText(until)}, inclusive` : "No end date"}
    >
      <svg width={width} height="14" viewBox={`0 0 ${width} 14`} aria-hidden="true" style={{ flex: "none" }}>
        <line x1="0" y1="7" x2={width} y2="7" stroke="var(--aboard-hair)" />
        <rect x={begin} y="4" width={Math.max(end - begin, 2)} height="6" fill={colour} />
        {until === null && <path d={`M${width - 7} 1 ${width} 7l-7 6z`} fill={colour} />}
        <line x1={width / 2} y1="0" x2={width / 2} y2="14" stroke="var(--aboard-brass)" strokeWidth="2" />
      </svg>
      <span style={{ whiteSpace: "nowrap" }}>{until ? distanceText(until, today) : "no end"}</span>
    </span>
  );
}
