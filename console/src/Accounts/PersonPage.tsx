import { Button, Skeleton, Stack, Title } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, take } from "../api";
import { EndDialog } from "../Departures/EndDialog";
import { History } from "../ui/History";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { StayBar } from "../ui/StayBar";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/people/{person}";

/** One person: what they are here, until when, what happened, and ending it. */
export function PersonPage() {
  const { workspace, today } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/people/$id" });
  const [isEnding, ending] = useDisclosure();
  const place = { params: { path: { workspace, person: id } } };
  const found = useQuery({
    queryKey: [workspace, "person", id],
    queryFn: () => take(api.GET(path, place)),
  });
  const history = useQuery({
    queryKey: [workspace, "person", id, "history", found.data?.version],
    queryFn: () => take(api.GET(`${path}/history`, place)),
    enabled: found.data !== undefined,
  });
  const person = found.data;
  return (
    <Page
      title={person?.name ?? "Person"}
      actions={
        (person?.state === "active" || person?.state === "upcoming") && (
          <Button color="alarm" variant="outline" onClick={ending.open}>
            End access …
          </Button>
        )
      }
    >
      <Refusal of={found.error} />
      {!person && !found.error && <Skeleton height={240} />}
      {person && (
        <div className="two-columns">
          <section className="sheet" aria-label="What they are here">
            <dl className="facts">
              <dt>State</dt>
              <dd>
                <StateWord state={person.state} />
                {person.endedAt && ` since ${instantText(person.endedAt)}`}
              </dd>
              <dt>Address</dt>
              <dd>{person.address}</dd>
              <dt>As</dt>
              <dd>
                <Pennant kind={person.kind} />
              </dd>
              <dt>Role</dt>
              <dd>
                {person.role}
                {person.isAdministrator && ", administrator"}
              </dd>
              {[person.title, person.department, person.organisation, person.country].some(Boolean) && (
                <>
                  <dt>Known as</dt>
                  <dd>
                    {[person.title, person.department, person.organisation, person.country]
                      .filter(Boolean)
                      .join(", ")}
                  </dd>
                </>
              )}
              {person.host && (
                <>
                  <dt>Host</dt>
                  <dd>{person.host}</dd>
                </>
              )}
              {person.from && (
                <>
                  <dt>From</dt>
                  <dd>{dayText(person.from)}</dd>
                </>
              )}
              <dt>Stay</dt>
              <dd>
                <StayBar stay={person} today={today} />
              </dd>
              <dt>Joined</dt>
              <dd>{instantText(person.joinedAt)}</dd>
              <dt>Invited by</dt>
              <dd>{person.invitedBy ?? "nobody: they set the workspace up"}</dd>
            </dl>
          </section>
          <section className="sheet" aria-labelledby="history">
            <Stack>
              <Title order={2} size="h4" id="history">
                History
              </Title>
              <History entries={history.data?.items ?? []} />
            </Stack>
          </section>
          <EndDialog person={person} opened={isEnding} onClose={ending.close} />
        </div>
      )}
    </Page>
  );
}
