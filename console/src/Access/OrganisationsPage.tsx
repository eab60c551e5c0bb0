import { Button, Table } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { api, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StayBar } from "../ui/StayBar";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { CodeMark } from "./CodeMark";
import { OrganisationDialog } from "./OrganisationDialog";

/** The firms and bodies outsiders belong to, with how long the agreement with each lasts. */
export function OrganisationsPage() {
  const { workspace, today } = useWorkspace();
  const search = useSearch({ from: "/w/$workspace/access/organisations" });
  const navigate = useNavigate({ from: "/w/$workspace/access/organisations" });
  const [isAdding, setAdding] = useState(false);
  const found = useQuery({
    queryKey: [workspace, "organisations", search],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/organisations", {
          params: { path: { workspace }, query: { search: search.search, kind: search.kind } },
        }),
      ),
  });
  return (
    <Page
      title="Organisations"
      actions={
        <>
          <CsvLink
            workspace={workspace}
            list={`organisations?format=csv&search=${encodeURIComponent(search.search ?? "")}`}
          />
          <Button onClick={() => setAdding(true)}>Add an organisation</Button>
        </>
      }
    >
      <AccessNav workspace={workspace} />
      <ListSearchBox
        value={search.search}
        onSearch={(words) => navigate({ search: { ...search, search: words }, replace: true })}
      />
      <Refusal of={found.error} />
      {found.data?.items.length === 0 && (
        <p className="sheet">
          {search.search
            ? "None fits. Search for less."
            : "There is none yet. Add the firms and bodies whose people come here from outside."}
        </p>
      )}
      {found.data && found.data.items.length > 0 && (
        <div className="sheet table-holder">
          <Table verticalSpacing={8}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Organisation</Table.Th>
                <Table.Th>Kind</Table.Th>
                <Table.Th className="number">People</Table.Th>
                <Table.Th>Agreement</Table.Th>
                <Table.Th>Gives</Table.Th>
                <Table.Th>Leads</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {found.data.items.map((one) => (
                <Table.Tr key={one.id}>
                  <Table.Td>
                    <CodeMark organisation={one} />{" "}
                    <Link to="/w/$workspace/access/organisations/$id" params={{ workspace, id: one.id }}>
                      {one.name}
                    </Link>
                    <div className="soft">{one.domains.join(", ")}</div>
                  </Table.Td>
                  <Table.Td>
                    <Pennant kind={one.kind} />
                  </Table.Td>
                  <Table.Td className="number">
                    {one.people}
                    {one.cap !== null && ` of ${one.cap}`}
                    {one.invited > 0 && <div className="soft">{one.invited} invited</div>}
                  </Table.Td>
                  <Table.Td>
                    <StayBar stay={{ until: one.agreementEnds }} today={today} />
                  </Table.Td>
                  <Table.Td>
                    {one.grants.map((grant) => (
                      <div key={grant.id}>
                        {grant.role}
                        {grant.resource && ` at ${grant.resource}`}
                      </div>
                    ))}
                  </Table.Td>
                  <Table.Td>{one.leads.join(", ")}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      {isAdding && <OrganisationDialog onClose={() => setAdding(false)} />}
    </Page>
  );
}
