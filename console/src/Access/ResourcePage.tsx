import { Button, Group, Select, TextInput } from "@mantine/core";
import { useQueries, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { type AccessLine, api, inWorkspace, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StepDialog } from "../ui/StepDialog";
import { dayText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { GiveDialog } from "./GiveDialog";
import { LevelWord } from "./LevelWord";
import { LineDialog } from "./LineDialog";
import { Paths } from "./Paths";
import { ResourceDialog } from "./ResourceDialog";
import { SwitchedOff } from "./SwitchedOff";

const path = "/api/v1/workspaces/{workspace}/resources/{name}";
const pageSize = 100;

/** One resource: who has access, at what level, from where, until when; changed and taken on the spot. */
export function ResourcePage() {
  const { workspace, today } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/access/resources/$id" });
  const [filter, setFilter] = useState({ search: "", kind: "", level: "" });
  const [asked, setAsked] = useState<"give" | "change" | "remove">();
  const navigate = useNavigate();
  const areas = useQuery({
    queryKey: [workspace, "areas"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}/areas", inWorkspace(workspace))),
  });
  const [line, setLine] = useState<AccessLine>();
  const place = { params: { path: { workspace, name: id } } };
  const found = useQuery({
    queryKey: [workspace, "resource", id],
    queryFn: () => take(api.GET(path, place)),
  });
  const page = (number: number) => ({
    queryKey: [workspace, "resource", id, "access", filter, number],
    queryFn: () =>
      take(
        api.GET(`${path}/access`, {
          params: {
            path: { workspace, name: id },
            query: {
              search: filter.search || undefined,
              kind: filter.kind || undefined,
              level: filter.level || undefined,
              cursor: number ? String(number * pageSize) : undefined,
              limit: pageSize,
            },
          },
        }),
      ),
  });
  const first = useQuery(page(0));
  const resource = found.data;
  return (
    <Page
      title={resource?.name ?? "Resource"}
      actions={
        <>
          <CsvLink workspace={workspace} list={`resources/${id}/access?format=csv`} />
          <Allowed duty="access">
            <Button variant="default" onClick={() => setAsked("remove")}>
              Remove it …
            </Button>
            <Button variant="default" onClick={() => setAsked("change")}>
              Change it …
            </Button>
            <Button onClick={() => setAsked("give")}>Give somebody access</Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
      <Refusal of={found.error ?? first.error} />
      {resource && (
        <section className="sheet" aria-label="About it">
          <dl className="facts">
            <dt>Area</dt>
            <dd>{resource.area}</dd>
            <dt>About</dt>
            <dd>{resource.about || "–"}</dd>
            <dt>Owner</dt>
            <dd>{resource.owner || "nobody"}</dd>
            <dt>Access today</dt>
            <dd>
              {numberText(resource.people)} people, {numberText(resource.outsiders)} of them outsiders
            </dd>
            {first.data && first.data.switchedOff.length > 0 && (
              <>
                <dt>Switched off</dt>
                <dd>
                  <SwitchedOff
                    off={first.data.switchedOff.map((one) => ({
                      resource: id,
                      holder: one.holderId,
                      name: one.name,
                    }))}
                  />
                </dd>
              </>
            )}
          </dl>
        </section>
      )}
      <Group align="end">
        <TextInput
          type="search"
          label="Search in names and addresses"
          value={filter.search}
          onChange={(event) => {
            const search = event.currentTarget.value;
            setFilter((before) => ({ ...before, search }));
          }}
        />
        <Select
          label="Kind"
          placeholder="Every kind"
          clearable
          data={["staff", "guest", "partner", "client"]}
          value={filter.kind || null}
          onChange={(kind) => setFilter((before) => ({ ...before, kind: kind ?? "" }))}
        />
        <Select
          label="Level"
          placeholder="Every level"
          clearable
          data={["none", "view", "contribute", "edit", "manage"]}
          value={filter.level || null}
          onChange={(level) => setFilter((before) => ({ ...before, level: level ?? "" }))}
        />
        <span className="soft" role="status">
          {first.data && `${numberText(first.data.total)} people`}
        </span>
      </Group>
      {first.data?.total === 0 && (
        <p className="sheet">Nobody fits. Give somebody access, or search for less.</p>
      )}
      {first.data && first.data.total > 0 && (
        <Lines total={first.data.total} page={page} today={today} workspace={workspace} onPick={setLine} />
      )}
      {resource && asked === "change" && (
        <ResourceDialog
          areas={areas.data?.items.map((area) => area.name) ?? []}
          of={resource}
          onClose={() => setAsked(undefined)}
        />
      )}
      {resource && asked === "give" && (
        <GiveDialog
          title={`Give somebody access to ${resource.name}`}
          holder={{}}
          resource={resource.name}
          onClose={() => setAsked(undefined)}
        />
      )}
      {resource && asked === "remove" && (
        <StepDialog
          title={`Remove the resource ${resource.name}`}
          word={`Remove ${resource.name}`}
          isAlarming
          call={(dryRun) =>
            take(api.DELETE(path, { params: { path: { workspace, name: id }, query: { dryRun } } }))
          }
          onClose={() => setAsked(undefined)}
          onDone={() => navigate({ to: "/w/$workspace/access/resources", params: { workspace } })}
        />
      )}
      {resource && line && (
        <LineDialog
          resource={resource.name}
          line={line}
          switchedOff={first.data?.switchedOff ?? []}
          onClose={() => setLine(undefined)}
        />
      )}
    </Page>
  );
}

/** The people, as many as there are: only those in sight are drawn, and only their pages fetched. */
function Lines(props: {
  total: number;
  // biome-ignore lint/suspicious/noExplicitAny: the query's own type is longer than what it says
  page: (number: number) => any;
  today: string;
  workspace: string;
  onPick: (line: AccessLine) => void;
}) {
  const holder = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: props.total,
    getScrollElement: () => holder.current,
    estimateSize: () => 64,
    overscan: 12,
  });
  const inSight = rows.getVirtualItems();
  const pages = [...new Set(inSight.map((row) => Math.floor(row.index / pageSize)))];
  const fetched = useQueries({ queries: pages.map((number) => props.page(number)) });
  const byPage = new Map(
    pages.map((number, i) => [number, (fetched[i]?.data as { items: AccessLine[] } | undefined)?.items]),
  );
  return (
    // biome-ignore lint/a11y/useSemanticElements: the rows are placed by hand, a list's own layout would fight it
    <div
      className="sheet long-list"
      ref={holder}
      role="list"
      aria-label={`${numberText(props.total)} people`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a box that scrolls must be reachable by keyboard
      tabIndex={0}
    >
      <div style={{ height: rows.getTotalSize(), position: "relative" }}>
        {inSight.map((row) => {
          const line = byPage.get(Math.floor(row.index / pageSize))?.[row.index % pageSize];
          return (
            // biome-ignore lint/a11y/useSemanticElements: as above
            <div
              key={row.key}
              data-index={row.index}
              ref={rows.measureElement}
              className="long-list-row"
              role="listitem"
              aria-posinset={row.index + 1}
              aria-setsize={props.total}
              style={{ transform: `translateY(${row.start}px)` }}
            >
              {line ? (
                <>
                  <div>
                    <Link
                      to="/w/$workspace/people/$id"
                      params={{ workspace: props.workspace, id: line.personId }}
                    >
                      {line.name}
                    </Link>
                    <div className="soft">{line.address}</div>
                  </div>
                  <div>
                    <Pennant kind={line.kind} />
                    <div className="soft">{line.organisation}</div>
                  </div>
                  <div>
                    <LevelWord level={line.level} />
                    <div className="soft">{line.cut}</div>
                  </div>
                  <Paths paths={line.paths} isCut={line.cut !== ""} />
                  <div>{line.until ? dayText(line.until) : <span className="soft">no end</span>}</div>
                  <Allowed duty="access">
                    <Button
                      size="xs"
                      variant="default"
                      aria-label={`Change the access of ${line.name}`}
                      onClick={() => props.onPick(line)}
                    >
                      Change …
                    </Button>
                  </Allowed>
                </>
              ) : (
                <span className="soft">…</span>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}
