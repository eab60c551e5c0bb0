import { Alert, Button, Group, Skeleton, Stack, Text, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, type LinkProps } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Person } from "../api";
import { overviewOf } from "../queries";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { StayBar } from "../ui/StayBar";
import { dayOf, distanceText, numberText } from "../ui/words";
import { useWorkspace } from "./useWorkspace";

const pending = ["queued", "sent", "waiting"];

/** Who is here, what waits, what ends soon, what looks wrong; each leads to the list where it is put right. */
export function OverviewPage() {
  const { workspace, today, may, view } = useWorkspace();
  const found = useQuery(overviewOf(workspace));
  const overview = found.data;
  const invite = (
    <Allowed duty="invite">
      <Button component={Link} to={`/w/${workspace}/invite/new`}>
        Invite someone
      </Button>
    </Allowed>
  );
  return (
    <Page title="Overview" actions={invite}>
      <Refusal of={found.error} />
      {!overview && !found.error && <Skeleton height={240} />}
      {overview && (
        <>
          <Attention
            count={overview.stuckDepartures}
            one="Somebody left, and a connected system has not confirmed that their account is closed."
            many="people left, and connected systems have not confirmed that their accounts are closed."
            to="/w/$workspace/endings"
          />
          <Attention
            count={overview.leftOver}
            one="A connected system has an account that nobody ought to have."
            many="accounts in connected systems belong to nobody who ought to have them."
            to="/w/$workspace/accounts/connections"
          />
          {overview.administrators < 2 && (
            <Alert color="brass" variant="light" title="Only one administrator has no end date.">
              If they are away, nobody can look after the workspace. Invite another: staff, with the role
              manage.
            </Alert>
          )}
          {overview.strongSignInFrom && (overview.withoutStrongSignIn ?? []).length > 0 && (
            <Alert
              color="brass"
              variant="light"
              title={`Without a passkey or a second step, which holders of duties need from ${dayOf(overview.strongSignInFrom)}:`}
            >
              {(overview.withoutStrongSignIn ?? []).map((person, index) => (
                <span key={person.id}>
                  {index > 0 && ", "}
                  <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.id }}>
                    {person.name}
                  </Link>
                </span>
              ))}
            </Alert>
          )}
          <Attention
            count={overview.heldPersonally}
            one="An account at a proved mail domain is held personally."
            many="accounts at proved mail domains are held personally."
            to="/w/$workspace/accounts"
          />
          <Attention
            count={overview.twiceHere}
            one="Somebody may be here twice."
            many="pairs of people may be one person each."
            to="/w/$workspace/accounts/twice"
          />
          <Attention
            count={overview.goneThere}
            one="Somebody who is here is gone in the directory they were joined with."
            many="people who are here are gone in the directories they were joined with."
            to="/w/$workspace/accounts/connections"
          />
          {overview.waitingMail > 0 && (
            <Alert
              color="brass"
              variant="light"
              title={
                overview.waitingMail === 1
                  ? "A mail waits for the mail server."
                  : `${numberText(overview.waitingMail)} mails wait for the mail server.`
              }
            >
              They go out by themselves as soon as it takes them. If this lasts, tell the operator.
            </Alert>
          )}
          <div className="two-columns">
            <section className="sheet" aria-labelledby="here">
              <Title order={2} size="h4" id="here" mb="sm">
                Who is here
              </Title>
              <div className="state-chips">
                {Object.entries(overview.people).map(([kind, count]) => (
                  <Chip
                    isOpen={view?.pages?.includes("People")}
                    key={kind}
                    to="/w/$workspace/people"
                    params={{ workspace }}
                    search={{ state: "active", kind }}
                  >
                    <strong>{count}</strong> <Pennant kind={kind} />
                  </Chip>
                ))}
              </div>
            </section>
            <section className="sheet" aria-labelledby="invitations">
              <Title order={2} size="h4" id="invitations" mb="sm">
                Invitations
              </Title>
              <div className="state-chips">
                {Object.entries(overview.invitations)
                  .filter(([state, count]) => count > 0 || pending.includes(state))
                  .map(([state, count]) => (
                    <Chip
                      isOpen={view?.pages?.includes("Invite")}
                      key={state}
                      to="/w/$workspace/invite"
                      params={{ workspace }}
                      search={{ state }}
                    >
                      <strong>{count}</strong> <StateWord state={state} />
                    </Chip>
                  ))}
              </div>
            </section>
          </div>
          {(may("people") || may("access")) && (
            <section className="sheet" aria-labelledby="ending">
              <Title order={2} size="h4" id="ending" mb="sm">
                Ends within 30 days
              </Title>
              <EndingSoon people={overview.endingSoon} workspace={workspace} today={today} />
            </section>
          )}
          {(may("invite") || may("approve")) && (
            <section className="sheet" aria-labelledby="expiring">
              <Title order={2} size="h4" id="expiring" mb="sm">
                Invitations that expire within 3 days
              </Title>
              <Stack gap={6}>
                {overview.expiringSoon.length === 0 && <span className="soft">None.</span>}
                {overview.expiringSoon.map((invitation) => (
                  <span key={invitation.id}>
                    <Link to="/w/$workspace/invite/$id" params={{ workspace, id: invitation.id }}>
                      {invitation.name || invitation.address}
                    </Link>{" "}
                    <span className="soft">answer due {distanceText(dayOf(invitation.deadline), today)}</span>
                  </span>
                ))}
              </Stack>
            </section>
          )}
        </>
      )}
    </Page>
  );
}

/** Something that is to be put right, with how many times and the list where that is done; nothing where there is nothing. */
function Attention(props: { count?: number; one: string; many: string; to: AttentionList }) {
  const { workspace } = useWorkspace();
  const count = props.count ?? 0;
  return count === 0 ? null : (
    <Alert color="brass" variant="light" py="xs">
      <Group justify="space-between" gap="sm">
        <Text component="span" fw={700} size="sm">
          {count === 1 ? props.one : `${numberText(count)} ${props.many}`}
        </Text>
        <Link to={props.to} params={{ workspace }}>
          Look at them
        </Link>
      </Group>
    </Alert>
  );
}

type AttentionList =
  | "/w/$workspace/endings"
  | "/w/$workspace/accounts"
  | "/w/$workspace/accounts/twice"
  | "/w/$workspace/accounts/connections";

/** A number that leads to the list behind it, where that opens to whoever is signed in. */
function Chip({ isOpen, ...link }: { isOpen: boolean | undefined } & LinkProps) {
  if (isOpen) return <Link {...link} className="state-chip" />;
  return <span className="state-chip">{link.children as ReactNode}</span>;
}

/** People whose last day is near, on the same time line as everywhere. */
export function EndingSoon({
  people,
  workspace,
  today,
}: {
  people: Person[];
  workspace: string;
  today: string;
}) {
  if (people.length === 0) return <span className="soft">Nobody's time ends within 30 days.</span>;
  return (
    <div className="table-holder">
      <SimpleTable
        isBare
        rows={people}
        keyOf={(person) => person.id}
        columns={[
          {
            head: "Name",
            cell: (person) => (
              <>
                <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.id }}>
                  {person.name}
                </Link>
              </>
            ),
          },
          { head: "Kind", cell: (person) => <Pennant kind={person.kind} /> },
          { head: "Stay", cell: (person) => <StayBar stay={person} today={today} /> },
        ]}
      />
    </div>
  );
}
