import { Link } from "@tanstack/react-router";

const pages = [
  ["/w/$workspace/invite", "Invitations"],
  ["/w/$workspace/invite/lists", "Lists"],
  ["/w/$workspace/invite/links", "Join links"],
  ["/w/$workspace/invite/presets", "Presets"],
  ["/w/$workspace/invite/bounced", "Bounced"],
  ["/w/$workspace/invite/figures", "Figures"],
] as const;

/** The ways to invite and to follow up, beside one another. */
export function InviteNav({ workspace }: { workspace: string }) {
  return (
    <nav className="sub-nav" aria-label="Inviting">
      {pages.map(([to, name]) => (
        <Link
          key={to}
          to={to}
          params={{ workspace }}
          activeOptions={{ exact: to === "/w/$workspace/invite", includeSearch: false }}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}
