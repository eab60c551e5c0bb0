import { Button, Table } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, inWorkspace, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { GroupDialog } from "./GroupDialog";

const path = "/api/v1/workspaces/{workspace}/groups";

/** The groups, with what is given to each. */
export function GroupsPage() {
  const { workspace } = useWorkspace();
  const [isAdding, setAdding] = useState(false);
  const found = useQuery({
    queryKey: [workspace, "groups"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  return (
    <Page
      title="Groups"
      actions={
        <>
          <CsvLink workspace={workspace} list="groups?format=csv" />
          <Button onClick={() => setAdding(true)}>Make a group</Button>
        </>
      }
    >
      <AccessNav workspace={workspace} />
      <Refusal of={found.error} />
      {found.data?.items.length === 0 && (
        <p className="sheet">
          There is no group. Put people who need the same into one, and give it to all of them at once.
        </p>
      )}
      {found.data && found.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Group</Table.Th>
                <Table.Th className="number">Members</Table.Th>
                <Table.Th>Gives</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {found.data.items.map((group) => (
                <Table.Tr key={group.id}>
                  <Table.Td>
                    <Link to="/w/$workspace/access/groups/$id" params={{ workspace, id: group.id }}>
                      {group.name}
                    </Link>
                    <div className="soft">{group.about}</div>
                  </Table.Td>
                  <Table.Td className="number">{group.members}</Table.Td>
                  <Table.Td>
                    {group.grants.length === 0 && <span className="soft">nothing yet</span>}
                    {group.grants.map((grant) => (
                      <div key={grant.id}>
                        {grant.role} {grant.resource ? `at ${grant.resource}` : ""}
                      </div>
                    ))}
                  </Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      {isAdding && <GroupDialog onClose={() => setAdding(false)} />}
    </Page>
  );
}
