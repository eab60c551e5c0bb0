import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { GrantWords } from "./GrantList";
import { GroupDialog } from "./GroupDialog";

/** The groups, with what is given to each. */
export function GroupsPage() {
  const { workspace } = useWorkspace();
  const [isAdding, setAdding] = useState(false);
  const found = useQuery({
    queryKey: [workspace, "groups"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/groups", inWorkspace(workspace))),
  });
  return (
    <Page
      title="Groups"
      actions={
        <>
          <CsvLink workspace={workspace} list="groups?format=csv" />
          <Allowed duty="access">
            <Button onClick={() => setAdding(true)}>Make a group</Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
      <Refusal of={found.error} />
      <SimpleTable
        rows={found.data?.items}
        keyOf={(group) => group.id}
        nothing="There is no group. Put people who need the same into one, and give it to all of them at once."
        columns={[
          {
            head: "Group",
            cell: (group) => (
              <>
                <Link to="/w/$workspace/access/groups/$id" params={{ workspace, id: group.id }}>
                  {group.name}
                </Link>
                <div className="soft">{group.about}</div>
              </>
            ),
          },
          { head: "Members", isNumber: true, cell: (group) => group.members },
          { head: "Gives", cell: (group) => <GrantWords of={group.grants} /> },
        ]}
      />
      {isAdding && <GroupDialog onClose={() => setAdding(false)} />}
    </Page>
  );
}
