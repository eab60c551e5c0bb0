import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { api, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { StayBar } from "../ui/StayBar";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { CodeMark } from "./CodeMark";
import { GrantWords } from "./GrantList";
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
          <Allowed duty="access">
            <Button onClick={() => setAdding(true)}>Add an organisation</Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
      <ListSearchBox
        within="names, codes, references, domains"
        value={search.search}
        onSearch={(words) => navigate({ search: { ...search, search: words }, replace: true })}
      />
      <Refusal of={found.error} />
      <SimpleTable
        rows={found.data?.items}
        keyOf={(one) => one.id}
        nothing={
          search.search
            ? "None fits. Search for less."
            : "There is none yet. Add the firms and bodies whose people come here from outside."
        }
        columns={[
          {
            head: "Organisation",
            cell: (one) => (
              <>
                <CodeMark organisation={one} />{" "}
                <Link to="/w/$workspace/access/organisations/$id" params={{ workspace, id: one.id }}>
                  {one.name}
                </Link>
                <div className="soft">{one.domains.join(", ")}</div>
              </>
            ),
          },
          { head: "Kind", cell: (one) => <Pennant kind={one.kind} /> },
          {
            head: "People",
            isNumber: true,
            cell: (one) => (
              <>
                {one.people}
                {one.cap !== null && ` of ${one.cap}`}
                {one.invited > 0 && <div className="soft">{one.invited} invited</div>}
              </>
            ),
          },
          {
            head: "Agreement",
            cell: (one) => <StayBar stay={{ until: one.agreementEnds }} today={today} />,
          },
          { head: "Gives", cell: (one) => <GrantWords of={one.grants} /> },
          { head: "Leads", cell: (one) => one.leads.join(", ") },
        ]}
      />
      {isAdding && <OrganisationDialog onClose={() => setAdding(false)} />}
    </Page>
  );
}
