import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { api, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { instantText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";

/** The lists that were handed in, and how far each one is. */
export function ListsPage() {
  const { workspace } = useWorkspace();
  const lists = usePages(
    [workspace, "lists"],
    (cursor) =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/batches", {
          params: { path: { workspace }, query: { cursor } },
        }),
      ),
    { refetchInterval: 5_000 },
  );
  return (
    <Page
      title="Lists"
      actions={
        <Allowed duty="invite">
          <Button component={Link} to={`/w/${workspace}/invite/many`}>
            Invite many
          </Button>
        </Allowed>
      }
    >
      <InviteNav />
      <Refusal of={lists.error} />
      <SimpleTable
        rows={lists.items}
        keyOf={(list) => list.id}
        nothing="No list has been handed in. Invite many from a file or a pasted list."
        columns={[
          {
            head: "List",
            cell: (list) => (
              <>
                <Link to="/w/$workspace/invite/lists/$id" params={{ workspace, id: list.id }}>
                  {list.name}
                </Link>
              </>
            ),
          },
          { head: "State", cell: (list) => <StateWord state={list.state} /> },
          { head: "Entries", isNumber: true, cell: (list) => numberText(list.entries) },
          { head: "Sent", isNumber: true, cell: (list) => numberText(list.counts.sent ?? 0) },
          {
            head: "To be mended",
            isNumber: true,
            cell: (list) => numberText((list.counts.wrong ?? 0) + (list.counts.blocked ?? 0)),
          },
          {
            head: "Handed in",
            cell: (list) => (
              <>
                {instantText(list.createdAt)} by {list.createdBy}
              </>
            ),
          },
        ]}
      />
      <ShowMore of={lists} />
    </Page>
  );
}
