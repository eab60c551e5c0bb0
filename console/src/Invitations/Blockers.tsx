import { Alert } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { Blocker } from "../api";

/** Everything that stands in the way of an invitation, at once, each with the page where it is mended. */
export function Blockers({ blockers }: { blockers: Blocker[] }) {
  if (blockers.length === 0) return null;
  return (
    <Alert color="brass" variant="light" title="What stands in the way">
      <ul>
        {blockers.map((blocker) => (
          <li key={blocker.code + blocker.sentence}>
            {blocker.sentence} {blocker.remedy} {blocker.path && <Link to={blocker.path}>Mend it</Link>}
          </li>
        ))}
      </ul>
    </Alert>
  );
}
