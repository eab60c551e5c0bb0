import { SubNav } from "../ui/SubNav";

/** What there is to be seen to about accounts. */
export function AccountsNav() {
  return (
    <SubNav
      label="Accounts"
      pages={[
        ["/w/$workspace/accounts", "At proved domains", "claims"],
        ["/w/$workspace/accounts/twice", "Twice here", "claims"],
        ["/w/$workspace/accounts/connections", "Connections", "claims"],
      ]}
    />
  );
}
