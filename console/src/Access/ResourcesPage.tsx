import { Button, Group } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { type Area, api, inWorkspace, type Resource, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { ListSearchBox } from "../ui/ListSearchBox";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { AreaDialog } from "./AreaDialog";
import { ResourceDialog } from "./ResourceDialog";

const path = "/api/v1/workspaces/{workspace}/resources";
const areasPath = "/api/v1/workspaces/{workspace}/areas";

/** The areas of work and the resources in them, each with how many people have access. */
export function ResourcesPage() {
  const { workspace } = useWorkspace();
  const search = useSearch({ from: "/w/$workspace/access/resources" });
  const navigate = useNavigate({ from: "/w/$workspace/access/resources" });
  const [adding, setAdding] = useState<"resource" | "area" | Area>();
  const found = useQuery({
    queryKey: [workspace, "resources", search.search],
    queryFn: () => take(api.GET(path, { params: { path: { workspace }, query: { search: search.search } } })),
  });
  const areas = useQuery({
    queryKey: [workspace, "areas"],
    queryFn: () => take(api.GET(areasPath, inWorkspace(workspace))),
  });
  const byArea = new Map<string, Resource[]>();
  for (const resource of found.data?.items ?? [])
    byArea.set(resource.area, [...(byArea.get(resource.area) ?? []), resource]);
  return (
    <Page
      title="Resources"
      actions={
        <>
          <CsvLink workspace={workspace} list="resources?format=csv" />
          <Allowed duty="access">
            <Button variant="default" onClick={() => setAdding("area")}>
              Add an area
            </Button>
            <Button disabled={areas.data?.items.length === 0} onClick={() => setAdding("resource")}>
              Add a resource
            </Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
      <ListSearchBox
        within="names"
        value={search.search}
        onSearch={(words) => navigate({ search: { ...search, search: words }, replace: true })}
      />
      <Refusal of={found.error ?? areas.error} />
      {areas.data?.items.length === 0 && (
        <p className="sheet">
          There is no area yet. Areas are the parts of your work, such as Collection or Voyages; resources are
          what people get access to in them.
        </p>
      )}
      {areas.data?.items
        .filter((area) => !search.search || byArea.has(area.name))
        .map((area) => (
          <section key={area.id} className="sheet table-holder" aria-label={area.name}>
            <Group justify="space-between">
              <h2 className="section-title">{area.name}</h2>
              <Group gap="sm">
                <span className="soft">{aboutOf(area)}</span>
                <Allowed duty="access">
                  <Button
                    size="xs"
                    variant="default"
                    aria-label={`Change the area ${area.name}`}
                    onClick={() => setAdding(area)}
                  >
                    Change …
                  </Button>
                </Allowed>
              </Group>
            </Group>
            <SimpleTable
              isBare
              rows={byArea.get(area.name) ?? []}
              keyOf={(resource) => resource.id}
              nothing="There is no resource in this area yet."
              columns={[
                {
                  head: "Resource",
                  cell: (resource) => (
                    <>
                      <Link to="/w/$workspace/access/resources/$id" params={{ workspace, id: resource.id }}>
                        {resource.name}
                      </Link>
                      <div className="soft">{resource.about}</div>
                    </>
                  ),
                },
                {
                  head: "Owner",
                  cell: (resource) => resource.owner || <span className="soft">nobody</span>,
                },
                { head: "People", isNumber: true, cell: (resource) => resource.people },
                { head: "Outsiders", isNumber: true, cell: (resource) => resource.outsiders },
              ]}
            />
          </section>
        ))}
      {adding === "resource" && (
        <ResourceDialog
          areas={areas.data?.items.map((area) => area.name) ?? []}
          onClose={() => setAdding(undefined)}
        />
      )}
      {adding && adding !== "resource" && (
        <AreaDialog
          areas={areas.data?.items.map((area) => area.name) ?? []}
          of={adding === "area" ? undefined : adding}
          onClose={() => setAdding(undefined)}
        />
      )}
    </Page>
  );
}

/** What is special about an area, in a line. */
function aboutOf(area: Area) {
  const needs = area.needs.map((need) => `${need.level} in ${need.area}`).join(", ");
  return [area.privateEntries && "entries are private below edit", needs && `needs ${needs}`]
    .filter(Boolean)
    .join("; ");
}
