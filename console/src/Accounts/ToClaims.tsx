import { Link } from "@tanstack/react-router";
import { Allowed } from "../ui/Allowed";

/** Beside the note that an account is held personally: the way to asking its holder. */
export function ToClaims({ code, workspace }: { code: string; workspace: string }) {
  if (code !== "address.held-personally") return null;
  return (
    <Allowed duty="claims">
      <Link to="/w/$workspace/accounts" params={{ workspace }}>
        Ask its holder
      </Link>
    </Allowed>
  );
}
