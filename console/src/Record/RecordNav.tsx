import { Link } from "@tanstack/react-router";

const pages = [
  ["/w/$workspace/record", "Record"],
  ["/w/$workspace/record/safety", "Safety"],
] as const;

/** What happened, and what touched the safety of the workspace. */
export function RecordNav({ workspace }: { workspace: string }) {
  return (
    <nav className="sub-nav" aria-label="Record">
      {pages.map(([to, name]) => (
        <Link key={to} to={to} params={{ workspace }} activeOptions={{ exact: true }}>
          {name}
        </Link>
      ))}
    </nav>
  );
}
