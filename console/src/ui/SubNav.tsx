import { Link } from "@tanstack/react-router";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** A page beside others: where, its name, and the duties one of which opens it. */
export type SubPage = readonly [to: string, name: string, ...duties: string[]];

/** Pages that belong together, beside one another; those that open to whoever is signed in. */
export function SubNav({ label, pages }: { label: string; pages: readonly SubPage[] }) {
  const { workspace, may } = useWorkspace();
  return (
    <nav className="sub-nav" aria-label={label}>
      {pages
        .filter(([, , ...duties]) => duties.some(may))
        .map(([to, name]) => (
          <Link
            key={to}
            to={to as string}
            params={{ workspace } as never}
            activeOptions={{
              exact: pages.some(([other]) => other.startsWith(`${to}/`)),
              includeSearch: false,
            }}
          >
            {name}
          </Link>
        ))}
    </nav>
  );
}
