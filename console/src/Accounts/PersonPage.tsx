import { Button, Skeleton, Stack, Title } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { EndDialog } from "../Departures/EndDialog";
import { activityOf, historyOf, personOf } from "../queries";
import { History } from "../ui/History";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { StayBar } from "../ui/StayBar";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { CorrectionDialog } from "./CorrectionDialog";
import { ElsewhereSheet } from "./ElsewhereSheet";
import { EraseDialog } from "./EraseDialog";
import { PersonAccess } from "./PersonAccess";
import { DetailsDialog, PersonSteps } from "./PersonSteps";

/** One person: what they are here, until when, what happened, and ending it. */
export function PersonPage() {
  const { workspace, today, may } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/people/$id" });
  const [isEnding, ending] = useDisclosure();
  const [isCorrecting, correction] = useDisclosure();
  const [isChanging, details] = useDisclosure();
  const [isErasing, erasing] = useDisclosure();
  const found = useQuery(personOf(workspace, id));
  const history = useQuery(historyOf(workspace, id));
  const activity = useQuery(activityOf(workspace, id));
  const person = found.data;
  const known = person
    ? [
        person.title,
        person.department,
        // One that the workspace knows has a line of its own.
        person.organisationId ? "" : person.organisation,
        person.country,
        person.manager && `reports to ${person.manager}`,
        person.note,
      ].filter(Boolean)
    : [];
  return (
    <Page
      title={person?.name ?? "Person"}
      actions={
        person &&
        may("people") &&
        (person.state === "ended" ? (
          <Button color="alarm" variant="outline" onClick={erasing.open}>
            Erase their data …
          </Button>
        ) : (
          <>
            <Button
              variant="default"
              component={Link}
              to="/w/$workspace/people/$id/see-as"
              params={{ workspace, id } as never}
            >
              See as they do
            </Button>
            <Button variant="default" onClick={details.open}>
              Change details …
            </Button>
            <PersonSteps
              people={[person]}
              verbs={[person.state === "paused" ? "resume" : "pause", "sign-out", "extend", "kind"]}
            />
            {may("claims") && (
              <Button variant="default" onClick={correction.open}>
                Name or address …
              </Button>
            )}
            <Button color="alarm" variant="outline" onClick={ending.open}>
              End access …
            </Button>
          </>
        ))
      }
    >
      <Refusal of={found.error} />
      {!person && !found.error && <Skeleton height={240} />}
      {person && (
        <div className="two-columns">
          <Stack gap={20}>
            <section className="sheet" aria-label="What they are here">
              <dl className="facts">
                <dt>State</dt>
                <dd>
                  <StateWord state={person.state} />
                  {person.endedAt && ` since ${instantText(person.endedAt)}`}
                </dd>
                {person.nameByStandard && (
                  <>
                    <dt>By the standard</dt>
                    <dd>{person.nameByStandard}</dd>
                  </>
                )}
                <dt>Address</dt>
                <dd>{person.address}</dd>
                {person.alsoAt && person.alsoAt.length > 0 && (
                  <>
                    <dt>Also at</dt>
                    <dd>{person.alsoAt.join(", ")}</dd>
                  </>
                )}
                {person.mergedInto && (
                  <>
                    <dt>Made one</dt>
                    <dd>
                      <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.mergedInto }}>
                        with whoever this address leads to
                      </Link>
                    </dd>
                  </>
                )}
                <dt>As</dt>
                <dd>
                  <Pennant kind={person.kind} />
                </dd>
                {person.isAdministrator && (
                  <>
                    <dt>Administrator</dt>
                    <dd>yes</dd>
                  </>
                )}
                <dt>Last here</dt>
                <dd>{person.lastSeenAt ? instantText(person.lastSeenAt) : "never"}</dd>
                {person.organisationId && (
                  <>
                    <dt>Organisation</dt>
                    <dd>
                      <Link
                        to="/w/$workspace/access/organisations/$id"
                        params={{ workspace, id: person.organisationId }}
                      >
                        {person.organisation}
                      </Link>
                      {person.leads && ", whose lead they are"}
                    </dd>
                  </>
                )}
                {known.length > 0 && (
                  <>
                    <dt>Known as</dt>
                    <dd>{known.join(", ")}</dd>
                  </>
                )}
                {person.invitedAs && (
                  <>
                    <dt>Invited as</dt>
                    <dd>
                      {person.invitedAs}; came as {person.address}, on the word of {person.vouchedBy}
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
            {may("people") && <ElsewhereSheet person={id} />}
            <section className="sheet" aria-labelledby="activity">
              <Stack>
                <Title order={2} size="h4" id="activity">
                  What they did lately
                </Title>
                {activity.data?.items.length === 0 && (
                  <p className="soft">Nothing they did as a member is in the record.</p>
                )}
                <History entries={activity.data?.items ?? []} />
              </Stack>
            </section>
          </Stack>
          <section className="sheet" aria-labelledby="history">
            <Stack>
              <Title order={2} size="h4" id="history">
                History
              </Title>
              {/* However much has happened, it leaves no hole beside it. */}
              {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard. */}
              <section className="long-history" tabIndex={0} aria-label="All of the history">
                <History entries={history.data?.items ?? []} />
              </section>
            </Stack>
          </section>
          {isChanging && <DetailsDialog people={[person]} onClose={details.close} />}
          {isCorrecting && (
            <CorrectionDialog
              address={person.address}
              name={person.name}
              offered={person.nameByStandard}
              onClose={correction.close}
            />
          )}
          {person && isErasing && <EraseDialog person={person} onClose={erasing.close} />}
          {isEnding && <EndDialog person={person} onClose={ending.close} />}
        </div>
      )}
      {person && <PersonAccess person={person} />}
    </Page>
  );
}
