import { Navigate } from "@tanstack/react-router";
import { SubNav, type SubPage } from "../ui/SubNav";
import { useWorkspace } from "../Workspaces/useWorkspace";

const pages: SubPage[] = [
  ["/w/$workspace/access/resources", "Resources", "access"],
  ["/w/$workspace/access/roles", "Roles", "access"],
  ["/w/$workspace/access/groups", "Groups", "access"],
  ["/w/$workspace/access/organisations", "Organisations", "access"],
  ["/w/$workspace/access/seats", "Seats", "seats"],
];

/** What decides who may do what. */
export const AccessNav = () => <SubNav label="Access" pages={pages} />;

/** The first of those pages that opens to whoever is signed in. */
export function AccessStart() {
  const { workspace, may, view } = useWorkspace();
  const page = may("access") ? "resources" : "seats";
  return view && <Navigate to={`/w/$workspace/access/${page}`} params={{ workspace }} replace />;
}
