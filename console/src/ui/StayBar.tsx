import type { Person } from "../api";
import { dayOf, daysBetween, dayText, distanceText } from "./words";

const width = 120;
const spanBefore = 60;
const spanAfter = 60;
const soonDays = 14;

/** A stay, or an agreement, of which only the end is known. */
type Stay = Pick<Person, "until"> & Partial<Pick<Person, "joinedAt" | "endedAt" | "state">>;

/** A stay on a time line of 60 days before and after today, with today marked. */
export function StayBar({ stay, today }: { stay: Stay; today: string }) {
  const place = (date: string) =>
    (Math.min(Math.max(daysBetween(today, date), -spanBefore), spanAfter) + spanBefore) *
    (width / (spanBefore + spanAfter));
  // An early end counts before the day once planned.
  const last = stay.endedAt ? dayOf(stay.endedAt) : stay.until;
  const begin = stay.joinedAt ? place(dayOf(stay.joinedAt)) : 0;
  const end = last ? place(last) : width;
  const isSoon = last !== null && daysBetween(today, last) <= soonDays;
  const isEnded = stay.state === "ended" || (!stay.joinedAt && last !== null && last < today);
  const colour = isEnded ? "var(--aboard-soft)" : isSoon ? "var(--aboard-wait)" : "var(--aboard-accent)";
  return (
    <span
      className="stay-bar"
      title={last ? `${isEnded ? "Ended" : "Last day"} ${dayText(last)}` : "No end date"}
    >
      <svg width={width} height="14" viewBox={`0 0 ${width} 14`} aria-hidden="true">
        <line x1="0" y1="7" x2={width} y2="7" stroke="var(--aboard-hair)" />
        <rect x={begin} y="4" width={Math.max(end - begin, 2)} height="6" fill={colour} />
        {last === null && <path d={`M${width - 7} 1 ${width} 7l-7 6z`} fill={colour} />}
        <line x1={width / 2} y1="0" x2={width / 2} y2="14" stroke="var(--aboard-brass)" strokeWidth="2" />
      </svg>
      <span>{last ? `${isEnded ? "ended " : ""}${distanceText(last, today)}` : "no end"}</span>
    </span>
  );
}
