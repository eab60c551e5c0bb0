import { Alert, Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { api, inWorkspace, type RecordEntry, take } from "../api";
import { recordOf } from "../queries";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { usePages } from "../ui/usePages";
import { actionText, changesOf, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { RecordNav } from "./RecordNav";

/** Everything that happened, newest first, and the proof that nothing was changed afterwards. */
export function RecordPage() {
  const { workspace } = useWorkspace();
  const list = usePages(...recordOf(workspace));
  const verify = useMutation({
    mutationFn: () =>
      take(api.GET("/api/v1/workspaces/{workspace}/record/verification", inWorkspace(workspace))),
  });
  return (
    <Page
      title="Record"
      actions={
        <Button variant="default" onClick={() => verify.mutate()} loading={verify.isPending}>
          Verify the record
        </Button>
      }
    >
      <RecordNav workspace={workspace} />
      <Refusal of={list.error ?? verify.error} />
      {verify.data && (
        <Alert
          color={verify.data.whole ? "fair" : "alarm"}
          variant="light"
          role="status"
          title={verify.data.whole ? "The record is whole." : "The record is not whole."}
        >
          {verify.data.whole
            ? `${verify.data.entries} entries, each in its place and unchanged. Head: ${verify.data.head}`
            : `${verify.data.faultSentence} The ${verify.data.entries} entries before it are good.`}
        </Alert>
      )}
      <SimpleTable
        rows={list.items}
        keyOf={(entry) => entry.sequence}
        columns={[
          { head: "No", isNumber: true, cell: (entry) => entry.sequence },
          { head: "When", isOneLine: true, cell: (entry) => instantText(entry.at) },
          {
            head: "What",
            cell: (entry) => <span title={detailsText(entry)}>{actionText(entry.action)}</span>,
          },
          { head: "About", cell: (entry) => about(entry) },
          {
            head: "Change",
            cell: (entry) => changesOf(entry).map((change) => <div key={change}>{change}</div>),
          },
          { head: "Who", cell: (entry) => entry.actorName ?? entry.actor },
          { head: "Through", cell: (entry) => entry.via },
        ]}
      />
      <ShowMore of={list} />
    </Page>
  );
}

function details(entry: RecordEntry): Record<string, unknown> {
  return (entry.details ?? {}) as Record<string, unknown>;
}

function about(entry: RecordEntry): string {
  const known = details(entry);
  return String(known.address ?? known.name ?? known.label ?? entry.subject);
}

function detailsText(entry: RecordEntry): string {
  return Object.entries(details(entry))
    .map(([name, value]) => `${name}: ${value}`)
    .join("\n");
}
