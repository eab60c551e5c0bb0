import { Button, Skeleton, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Departure, take } from "../api";
import { overviewOf } from "../queries";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { dayText, distanceText, instantText } from "../ui/words";
import { EndingSoon } from "../Workspaces/OverviewPage";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Whose time ends soon, and whose has ended. */
export function EndingsPage() {
  const { workspace, today } = useWorkspace();
  const overview = useQuery(overviewOf(workspace));
  const departures = usePages([workspace, "departures"], (cursor) =>
    take(
      api.GET("/api/v1/workspaces/{workspace}/departures", {
        params: { path: { workspace }, query: { cursor } },
      }),
    ),
  );
  const stuck = useQuery({
    queryKey: [workspace, "departures", "stuck"],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/departures", {
          params: { path: { workspace }, query: { state: "stuck" } },
        }),
      ),
  });
  const found = departures.items ?? [];
  return (
    <Page title="Endings">
      <Refusal of={overview.error ?? departures.error} />
      {stuck.data && stuck.data.items.length > 0 && (
        <section className="sheet" aria-labelledby="stuck">
          <Title order={2} size="h4" id="stuck" mb="sm">
            Not confirmed elsewhere
          </Title>
          <Departures found={stuck.data.items} workspace={workspace} today={today} />
        </section>
      )}
      <section className="sheet" aria-labelledby="soon">
        <Title order={2} size="h4" id="soon" mb="sm">
          Ends within 30 days
        </Title>
        {overview.data ? (
          <EndingSoon people={overview.data.endingSoon} workspace={workspace} today={today} />
        ) : (
          <Skeleton height={120} />
        )}
      </section>
      <section className="sheet" aria-labelledby="departures">
        <Title order={2} size="h4" id="departures" mb="sm">
          Departures
        </Title>
        {departures.items && found.length === 0 && (
          <span className="soft">None yet. To end somebody's access, open their page under People.</span>
        )}
        {found.length > 0 && <Departures found={found} workspace={workspace} today={today} />}
        <ShowMore of={departures} />
      </section>
    </Page>
  );
}

function Departures(props: { found: Departure[]; workspace: string; today: string }) {
  const [back, setBack] = useState<Departure>();
  return (
    <div className="table-holder">
      {back && <TakeBackDialog departure={back} onClose={() => setBack(undefined)} />}
      <SimpleTable
        isBare
        rows={props.found}
        keyOf={(departure) => departure.id}
        columns={[
          {
            head: "Who",
            cell: (departure) => (
              <>
                <Link
                  to="/w/$workspace/people/$id"
                  params={{ workspace: props.workspace, id: departure.person.id }}
                >
                  {departure.person.name}
                </Link>
                <div className="soft">{departure.person.address}</div>
              </>
            ),
          },
          {
            head: "State",
            cell: (departure) => (
              <>
                <Link
                  to="/w/$workspace/endings/$id"
                  params={{ workspace: props.workspace, id: departure.id }}
                >
                  <StateWord state={departure.state} />
                </Link>
                {departure.state === "stuck" && <div className="soft">waits for {waitsFor(departure)}</div>}
              </>
            ),
          },
          {
            head: "Last day",
            cell: (departure) => (
              <span title={departure.on ? dayText(departure.on) : undefined}>
                {departure.on ? distanceText(departure.on, props.today) : "at once"}
              </span>
            ),
          },
          {
            head: "Decided by",
            cell: (departure) =>
              departure.requestedBy === "the service" ? "the agreed end date" : departure.requestedBy,
          },
          {
            head: "",
            cell: (departure) =>
              departure.canBeMoved && (
                <Button size="compact-sm" variant="default" onClick={() => setBack(departure)}>
                  Take back …
                </Button>
              ),
          },
          { head: "Ended", cell: (departure) => (departure.doneAt ? instantText(departure.doneAt) : "–") },
        ]}
      />
    </div>
  );
}

/** The connected systems that have not confirmed. */
function waitsFor(departure: Departure) {
  return (departure.steps ?? [])
    .filter((step) => step.state === "due" || step.state === "stuck")
    .map((step) => step.subject)
    .join(", ");
}

/** Takes a planned end back, after saying until when the stay goes on then. */
function TakeBackDialog({ departure, onClose }: { departure: Departure; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const path = "/api/v1/workspaces/{workspace}/people/{person}/departure";
  const call = (dryRun: boolean) =>
    take(
      api.DELETE(path, {
        params: { path: { workspace, person: departure.person.id }, query: { dryRun } },
      }),
    );
  return (
    <FormDialog
      isStep
      title={`Take back the end of ${departure.person.name}`}
      initial={{}}
      plan={() => () => call(true)}
      word={`Take back the end of ${departure.person.name}`}
      isReady={(_, plan) => plan.data !== undefined}
      save={() => call(false)}
      onClose={onClose}
    >
      {() => (
        <p>
          Their access would not end after {departure.on ? dayText(departure.on) : "that day"} any more, but{" "}
          {departure.agreed
            ? `after ${dayText(departure.agreed)}, as was agreed before`
            : "have no end, as before"}
          .
        </p>
      )}
    </FormDialog>
  );
}
