import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, type Merge, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/merges";

/** The accounts that were made one, and those that can still be parted. */
export function MergedList() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const merges = useQuery({
    queryKey: [workspace, "merges"],
    queryFn: () => take(api.GET(path, { params: { path: { workspace }, query: { limit: 200 } } })),
  });
  const part = useMutation({
    mutationFn: (merge: Merge) =>
      take(api.POST(`${path}/undo`, { params: { path: { workspace } }, body: { account: merge.id ?? "" } })),
    onSuccess: async (parted) => {
      notifications.show({
        message: ["They are two again.", ...parted.notes].join(" "),
        autoClose: parted.notes.length > 0 ? false : undefined,
      });
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  return (
    <>
      <Refusal of={merges.error ?? part.error} />
      <SimpleTable
        rows={merges.data?.items}
        keyOf={(merge) => merge.id ?? ""}
        label="Made one"
        nothing="No accounts were made one here."
        columns={[
          { head: "When", cell: (merge) => instantText(merge.at ?? "") },
          { head: "Stayed", cell: (merge) => <Who of={merge.kept} /> },
          { head: "Went", cell: (merge) => <Who of={merge.gone} /> },
          { head: "By", cell: (merge) => merge.by },
          {
            head: "Now",
            cell: (merge) =>
              merge.undoneAt ? (
                `parted again ${instantText(merge.undoneAt)}`
              ) : merge.canBeUndone ? (
                <Button
                  variant="default"
                  size="xs"
                  loading={part.isPending && part.variables?.id === merge.id}
                  title={`Possible until ${instantText(merge.until ?? "")}`}
                  onClick={() => part.mutate(merge)}
                >
                  Part again
                </Button>
              ) : (
                "for good"
              ),
          },
        ]}
      />
    </>
  );
}

function Who({ of }: { of: Merge["kept"] }) {
  const { workspace } = useWorkspace();
  return (
    <>
      {of.member ? (
        <Link to="/w/$workspace/people/$id" params={{ workspace, id: of.member }}>
          {of.name}
        </Link>
      ) : (
        of.name
      )}
      <div className="soft" style={{ overflowWrap: "anywhere" }}>
        {of.address}
      </div>
    </>
  );
}
