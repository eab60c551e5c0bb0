import { Link } from "@tanstack/react-router";

const pages = [
  ["/w/$workspace/workspace", "Workspace"],
  ["/w/$workspace/workspace/rules", "Rules"],
  ["/w/$workspace/workspace/domains", "Mail domains"],
  ["/w/$workspace/workspace/providers", "Providers"],
  ["/w/$workspace/workspace/applications", "Applications"],
  ["/w/$workspace/workspace/wording", "Wording and looks"],
] as const;

/** The parts of what is decided about a workspace. */
export function SettingsNav({ workspace }: { workspace: string }) {
  return (
    <nav className="sub-nav" aria-label="Settings">
      {pages.map(([to, name]) => (
        <Link key={to} to={to} params={{ workspace }} activeOptions={{ exact: true }}>
          {name}
        </Link>
      ))}
    </nav>
  );
}
