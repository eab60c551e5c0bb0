import { Link } from "@tanstack/react-router";

const pages = [
  ["/w/$workspace/access/resources", "Resources"],
  ["/w/$workspace/access/roles", "Roles"],
  ["/w/$workspace/access/groups", "Groups"],
  ["/w/$workspace/access/organisations", "Organisations"],
  ["/w/$workspace/access/seats", "Seats"],
] as const;

/** What decides who may do what, beside one another. */
export function AccessNav({ workspace }: { workspace: string }) {
  return (
    <nav className="sub-nav" aria-label="Access">
      {pages.map(([to, name]) => (
        <Link key={to} to={to} params={{ workspace }} activeOptions={{ includeSearch: false }}>
          {name}
        </Link>
      ))}
    </nav>
  );
}
