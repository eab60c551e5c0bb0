import { api, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { usePages } from "../ui/usePages";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { RecordNav } from "./RecordNav";

const kinds: Record<string, string> = {
  "sign-in.failed": "sign-in failed",
  "sign-in.locked": "sign-in locked",
  "right.refused": "right refused",
};

/** Failed sign-ins, locks and refused rights, newest first; kept for 90 days. */
export function SafetyPage() {
  const { workspace } = useWorkspace();
  const list = usePages([workspace, "security-events"], (cursor) =>
    take(
      api.GET("/api/v1/workspaces/{workspace}/security-events", {
        params: { path: { workspace }, query: { cursor } },
      }),
    ),
  );
  return (
    <Page title="Safety" actions={<CsvLink workspace={workspace} list="security-events?format=csv" />}>
      <RecordNav workspace={workspace} />
      <Refusal of={list.error} />
      <SimpleTable
        rows={list.items}
        keyOf={(event) => event.id}
        nothing="Nothing lately. Failed sign-ins of people who are here, locks, and rights that were refused would stand here."
        columns={[
          { head: "When", isOneLine: true, cell: (event) => instantText(event.at) },
          { head: "What", cell: (event) => kinds[event.kind] ?? event.kind },
          { head: "Who", cell: (event) => event.who },
          { head: "From", cell: (event) => event.network },
          { head: "Details", cell: (event) => event.details },
        ]}
      />
      <ShowMore of={list} />
    </Page>
  );
}
