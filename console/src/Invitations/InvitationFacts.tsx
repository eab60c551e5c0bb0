import { Link } from "@tanstack/react-router";
import type { Invitation } from "../api";
import { Pennant } from "../ui/Pennant";
import { StateWord } from "../ui/StateWord";
import { dayText, instantText } from "../ui/words";

/** What an invitation is, fact by fact. */
export function InvitationFacts({ invitation, workspace }: { invitation: Invitation; workspace: string }) {
  const known = [invitation.title, invitation.department, invitation.organisation, invitation.country];
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
      <dd title={invitation.delivery?.answer ?? undefined}>
        {invitation.delivery?.sentence ??
          (invitation.state === "draft" ? "Nothing is sent yet." : "The mail is about to be sent.")}
      </dd>
      <dt>Address</dt>
      <dd>{invitation.address}</dd>
      <dt>As</dt>
      <dd>
        <Pennant kind={invitation.kind} />
      </dd>
      <dt>Role</dt>
      <dd>{invitation.role}</dd>
      {known.some(Boolean) && (
        <>
          <dt>Known as</dt>
          <dd>{known.filter(Boolean).join(", ")}</dd>
        </>
      )}
      {invitation.handedBy && (
        <>
          <dt>Link</dt>
          <dd>
            handed over by {invitation.handedBy}: it proves no mailbox
            {invitation.cameAs && `; accepted with ${invitation.cameAs}`}
          </dd>
        </>
      )}
      {invitation.host && (
        <>
          <dt>Host</dt>
          <dd>{invitation.host}</dd>
        </>
      )}
      <dt>Stay</dt>
      <dd>
        {invitation.from && `from ${dayText(invitation.from)} `}
        {invitation.until ? `until ${dayText(invitation.until)}, inclusive` : "no end date"}
      </dd>
      <dt>Invited by</dt>
      <dd>
        {invitation.invitedBy}, {instantText(invitation.createdAt)}
        {invitation.batchId && (
          <>
            {" · "}
            <Link to="/w/$workspace/invite/lists/$id" params={{ workspace, id: invitation.batchId }}>
              see the list
            </Link>
          </>
        )}
        {invitation.linkId && (
          <>
            {" · "}
            <Link to="/w/$workspace/invite/links/$id" params={{ workspace, id: invitation.linkId }}>
              see the join link
            </Link>
          </>
        )}
      </dd>
      <dt>Answer by</dt>
      <dd>{instantText(invitation.deadline)}</dd>
      <dt>Approval</dt>
      <dd>{invitation.needsApproval ? "due when they accept" : "not needed"}</dd>
      <dt>Page first opened</dt>
      <dd>{invitation.seenAt ? instantText(invitation.seenAt) : "not yet"}</dd>
      <dt>Answered</dt>
      <dd>{invitation.answeredAt ? instantText(invitation.answeredAt) : "not yet"}</dd>
      <dt>Sent again</dt>
      <dd>{invitation.resends} times</dd>
      <dt>Reminded of</dt>
      <dd>
        {invitation.reminders} times
        {invitation.nextReminderAt && `, next ${instantText(invitation.nextReminderAt)}`}
      </dd>
      {invitation.note && (
        <>
          <dt>Note</dt>
          <dd>{invitation.note}</dd>
        </>
      )}
      {invitation.message && (
        <>
          <dt>Message</dt>
          <dd style={{ whiteSpace: "pre-line" }}>{invitation.message}</dd>
        </>
      )}
    </dl>
  );
}
