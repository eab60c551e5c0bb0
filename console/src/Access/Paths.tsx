import type { Path } from "../api";
import { dayText } from "../ui/words";

/** Where a level comes from: the grants that produce it first, what else is given after them. */
export function Paths({ paths, isCut }: { paths: Path[]; isCut?: boolean }) {
  return (
    <ul className="paths">
      {[...paths]
        .sort((a, b) => Number(b.counts) - Number(a.counts))
        .map((path) => (
          <li key={path.grantId} className={path.counts ? undefined : "soft"}>
            <strong>{path.role}</strong>
            {path.resource && ` at ${path.resource}`}
            {path.through === "group" && ` through the group ${path.throughName}`}
            {path.through === "organisation" && ` through ${path.throughName}`}
            {path.through === "member" && " directly"}
            {path.from && `, from ${dayText(path.from)}`}
            {path.until && `, until ${dayText(path.until)}`}
            {!path.counts && ` (${path.level}, ${isCut ? "cut" : "adds nothing"})`}
          </li>
        ))}
    </ul>
  );
}
