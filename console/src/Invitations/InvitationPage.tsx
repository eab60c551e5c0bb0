import { Button, Skeleton, Stack, Title } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { api, type Invitation, take } from "../api";
import { History } from "../ui/History";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const canResend = ["queued", "sent", "expired", "bounced"];
const canRevoke = ["queued", "sent"];
const path = "/api/v1/workspaces/{workspace}/invitations/{id}";

/** One invitation: where it stands, what happened to it, and what can be done. */
export function InvitationPage() {
  const { workspace } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/invite/$id" });
  const queries = useQueryClient();
  const place = { params: { path: { workspace, id } } };
  const found = useQuery({
    queryKey: [workspace, "invitation", id],
    queryFn: () => take(api.GET(path, place)),
    refetchInterval: 3_000,
  });
  const history = useQuery({
    queryKey: [workspace, "invitation", id, "history", found.data?.version],
    queryFn: () => take(api.GET(`${path}/history`, place)),
    enabled: found.data !== undefined,
    placeholderData: (before) => before,
  });
  const step = useMutation({
    mutationFn: (verb: "resend" | "revoke") =>
      take(api.POST(`${path}/${verb}`, { ...place, headers: { "If-Match": `"${found.data?.version}"` } })),
    onSettled: () => queries.invalidateQueries({ queryKey: [workspace] }),
  });
  const invitation = found.data;
  return (
    <Page
      title={invitation ? invitation.name || invitation.address : "Invitation"}
      actions={
        invitation && (
          <>
            {canResend.includes(invitation.state) && (
              <Button variant="default" loading={step.isPending} onClick={() => step.mutate("resend")}>
                Resend with a new link
              </Button>
            )}
            {canRevoke.includes(invitation.state) && (
              <Button
                color="alarm"
                variant="outline"
                loading={step.isPending}
                onClick={() => step.mutate("revoke")}
              >
                Revoke
              </Button>
            )}
          </>
        )
      }
    >
      <Refusal of={step.error ?? found.error} />
      {!invitation && !found.error && <Skeleton height={240} />}
      {invitation && (
        <div className="two-columns">
          <section className="sheet" aria-label="Where it stands">
            <Facts invitation={invitation} workspace={workspace} />
          </section>
          <section className="sheet" aria-labelledby="history">
            <Stack>
              <Title order={2} size="h4" id="history">
                History
              </Title>
              <History entries={history.data?.items ?? []} />
            </Stack>
          </section>
        </div>
      )}
    </Page>
  );
}

function Facts({ invitation, workspace }: { invitation: Invitation; workspace: string }) {
  return (
    <dl className="facts">
      <dt>State</dt>
      <dd>
        <StateWord state={invitation.state} />
        {invitation.memberId && (
          <>
            {" · "}
            <Link to="/w/$workspace/people/$id" params={{ workspace, id: invitation.memberId }}>
              see the person
            </Link>
          </>
        )}
      </dd>
      <dt>Mail</dt>
      <dd>{invitation.delivery?.sentence ?? "The mail is about to be sent."}</dd>
      <dt>Address</dt>
      <dd>{invitation.address}</dd>
      <dt>As</dt>
      <dd>
        <Pennant kind={invitation.kind} />
      </dd>
      <dt>Role</dt>
      <dd>{invitation.role}</dd>
      <dt>Stay until</dt>
      <dd>{invitation.until ? `${dayText(invitation.until)}, inclusive` : "no end date"}</dd>
      <dt>Invited by</dt>
      <dd>
        {invitation.invitedBy}, {instantText(invitation.createdAt)}
      </dd>
      <dt>Answer by</dt>
      <dd>{instantText(invitation.deadline)}</dd>
      <dt>Page first opened</dt>
      <dd>{invitation.seenAt ? instantText(invitation.seenAt) : "not yet"}</dd>
      <dt>Answered</dt>
      <dd>{invitation.answeredAt ? instantText(invitation.answeredAt) : "not yet"}</dd>
      <dt>Sent again</dt>
      <dd>{invitation.resends} times</dd>
      {invitation.message && (
        <>
          <dt>Message</dt>
          <dd style={{ whiteSpace: "pre-line" }}>{invitation.message}</dd>
        </>
      )}
    </dl>
  );
}
