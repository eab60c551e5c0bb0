import { SubNav, type SubPage } from "../ui/SubNav";

const pages: SubPage[] = [
  ["/w/$workspace/invite", "Invitations", "invite", "approve"],
  ["/w/$workspace/invite/lists", "Lists", "invite"],
  ["/w/$workspace/invite/links", "Join links", "invite"],
  ["/w/$workspace/invite/presets", "Presets", "invite"],
  ["/w/$workspace/invite/bounced", "Bounced", "invite"],
  ["/w/$workspace/invite/figures", "Figures", "invite"],
];

/** The ways to invite and to follow up. */
export const InviteNav = () => <SubNav label="Inviting" pages={pages} />;
