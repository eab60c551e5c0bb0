using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What is done to invitations that exist: to one, to several, to all that match; or only tried.</summary>
public sealed class InvitationSteps(
    Database database,
    WorkspaceWriter writer,
    Together together,
    Consequences consequences,
    MailsByInviter mails,
    InvitationLists lists,
    ServiceSettings settings,
    TimeProvider clock
)
{
    private const int MostInOneCall = 10_000;
    private const int MostReasons = 200;

    /// <summary>Takes a named step: send, resend, remind, extend, revoke, approve or refuse.</summary>
    public Task<Outcome<InvitationView>> TakeAsync(
        Visitor visitor,
        Guid id,
        string step,
        int? expectedVersion,
        int? days = null,
        string? reason = null
    ) =>
        NamedStep.Find(step, days, reason).Try(out var named, out var refusal)
            ? OneAsync(visitor, id, expectedVersion, named, null)
            : Task.FromResult<Outcome<InvitationView>>(refusal);

    /// <summary>Puts the right address in and sends it again: nothing that went to the wrong one counts any more.</summary>
    public Task<Outcome<InvitationView>> CorrectAsync(
        Visitor visitor,
        Guid id,
        string address,
        int? expectedVersion
    ) =>
        EmailAddress.Read(address).Try(out var right, out var refusal)
            ? OneAsync(
                visitor,
                id,
                expectedVersion,
                new NamedStep(Duties.Invite, (facts, actor) => InvitationCourse.Correct(facts, actor, right)),
                right
            )
            : Task.FromResult<Outcome<InvitationView>>(refusal);

    /// <summary>Makes a link to hand over by another way; the one in the mail goes on counting.</summary>
    public Task<Outcome<FreshLink>> LinkAsync(Visitor visitor, Guid id) =>
        writer.WriteAsync<FreshLink>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var refusal))
                    return refusal;
                var handOver = new NamedStep(Duties.Invite, InvitationCourse.HandOver);
                if (
                    !(await TakeAsync(write, member, id, null, handOver, null)).Try(
                        out var taken,
                        out refusal
                    )
                )
                    return refusal;
                return new FreshLink(
                    settings.Link("/i/" + taken.Applied.Secret!.Reveal()),
                    taken.Invitation.Deadline
                );
            }
        );

    /// <summary>The same step for several invitations, or for all that match.</summary>
    public async Task<Outcome<StepsAnswer>> TakeAsync(Visitor visitor, StepsRequest request)
    {
        if (!NamedStep.Find(request.Step, request.Days, null).Try(out var named, out var refusal))
            return refusal;
        if (!(await WhichAsync(visitor, request)).Try(out var which, out refusal))
            return refusal;
        return await mails.WithinAsync(
            visitor,
            named.Mails && !request.DryRun ? Math.Min(which.Count, MostInOneCall) : 0,
            () => TakeAllAsync(visitor, request, named, which)
        );
    }

    private async Task<Outcome<StepsAnswer>> TakeAllAsync(
        Visitor visitor,
        StepsRequest request,
        NamedStep named,
        IReadOnlyList<Guid> which
    )
    {
        var outcome = await together.EachAsync(
            visitor.WorkspaceId,
            visitor.Caller,
            named.Duty,
            [.. which.Take(MostInOneCall)],
            async (write, member, lot) =>
            {
                var rows = await write
                    .Rows.Invitations.AsNoTracking()
                    .Where(i => lot.Contains(i.Id))
                    .ToListAsync();
                var knowledge = await StepKnowledge.ReadAsync(write, consequences, rows);
                return async id => (await TakeAsync(write, member!, id, knowledge, named, null)).Refusal;
            },
            !request.DryRun
        );
        if (!outcome.Try(out var taken, out var refusal))
            return refusal;
        IReadOnlyList<(Guid Which, Refusal Why)> told = [.. taken.Refused.Take(MostReasons)];
        var addresses = await AddressesAsync(visitor, [.. told.Select(no => no.Which)]);
        return new StepsAnswer(
            taken.Done.Count,
            [
                .. told.Select(no => new StepRefusal(
                    no.Which,
                    addresses.GetValueOrDefault(no.Which, ""),
                    no.Why.ToProblem()
                )),
            ],
            taken.Refused.Count,
            Math.Max(0, which.Count - MostInOneCall)
        );
    }

    private async Task<IReadOnlyDictionary<Guid, string>> AddressesAsync(
        Visitor visitor,
        IReadOnlyList<Guid> which
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows
            .Invitations.Where(i => which.Contains(i.Id))
            .Select(i => new { i.Id, i.Address })
            .ToDictionaryAsync(i => i.Id, i => i.Address);
    }

    /// <summary>Sends the reminders of one workspace whose time has come, on behalf of whoever is answerable for each.</summary>
    public async Task RemindDueAsync(Guid workspace, IReadOnlyList<Guid> due) =>
        await together.EachAsync(
            workspace,
            Caller.Clock,
            null,
            due,
            async (write, _, lot) =>
            {
                var rows = await write
                    .Rows.Invitations.AsNoTracking()
                    .Where(i => lot.Contains(i.Id))
                    .ToListAsync();
                var knowledge = await StepKnowledge.ReadAsync(write, consequences, rows);
                return async id =>
                {
                    var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == id);
                    if (invitation.NextReminderAt is not { } at || at > write.Now)
                        return null;
                    var facts = await knowledge.OfAsync(write, invitation);
                    if (InvitationCourse.Remind(facts, null).Try(out var what, out var _))
                        await consequences.ApplyAsync(write, invitation, what);
                    else
                        invitation.NextReminderAt = null;
                    return null;
                };
            }
        );

    /// <summary>Notes which invitations of a workspace are past their deadline.</summary>
    public async Task ExpireAsync(Guid workspace, IReadOnlyList<Guid> overdue) =>
        await together.EachAsync(
            workspace,
            Caller.Clock,
            null,
            overdue,
            (write, _, _) =>
                Task.FromResult<Func<Guid, Task<Refusal?>>>(async id =>
                {
                    await consequences.ExpireAsync(
                        write,
                        await write.Rows.Invitations.FirstAsync(i => i.Id == id)
                    );
                    return null;
                })
        );

    private async Task<Outcome<IReadOnlyList<Guid>>> WhichAsync(Visitor visitor, StepsRequest request)
    {
        if (request.Ids is { Count: > 0 } ids)
            return Outcome.Of<IReadOnlyList<Guid>>([.. ids.Distinct()]);
        var query = new InvitationQuery
        {
            State = request.State,
            Kind = request.Kind,
            Search = request.Search,
            Batch = request.Batch,
            Link = request.Link,
        };
        if (query.IsEmpty)
            return new Refusal(
                "steps.which",
                "Neither invitations nor anything to match is named.",
                "Name ids, or a state, kind, search, batch or link.",
                Field: "ids"
            );
        await using var rows = database.Open(visitor.WorkspaceId);
        if (!(await lists.NarrowAsync(rows, query, clock.Now())).Try(out var narrowed, out var refusal))
            return refusal;
        return Outcome.Of<IReadOnlyList<Guid>>(
            await narrowed.OrderBy(i => i.Id).Select(i => i.Id).Take(MostInOneCall + 1_000_000).ToListAsync()
        );
    }

    private Task<Outcome<InvitationView>> OneAsync(
        Visitor visitor,
        Guid id,
        int? expectedVersion,
        NamedStep step,
        EmailAddress? right
    ) =>
        writer.WriteAsync<InvitationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(step.Duty)).Try(out var member, out var refusal))
                    return refusal;
                var taken = await TakeAsync(write, member, id, null, step, right, expectedVersion);
                if (!taken.Try(out var done, out refusal))
                    return refusal;
                return InvitationViews.Of(
                    done.Invitation,
                    null,
                    write.Now,
                    await write.WorldAsync(),
                    write.Workspace
                );
            }
        );

    /// <summary>One invitation takes a step: what is known is gathered, Core decides, and what follows is applied.</summary>
    private async Task<Outcome<Taken>> TakeAsync(
        WorkspaceWrite write,
        MemberRow actor,
        Guid id,
        StepKnowledge? known,
        NamedStep step,
        EmailAddress? right,
        int? expectedVersion = null
    )
    {
        if (await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id) is not { } invitation)
            return CommonRefusals.NotFound;
        if (invitation.IsStale(expectedVersion))
            return CommonRefusals.Stale;
        var knowledge = known ?? await StepKnowledge.ReadAsync(write, consequences, [invitation], right);
        var facts = await knowledge.OfAsync(write, invitation, right);
        if (!step.Decide(facts, actor.Id).Try(out var what, out var refusal))
            return refusal;
        var account = invitation.AccountId is { } answered
            ? await write.Rows.Accounts.FirstAsync(a => a.Id == answered)
            : null;
        var applied = await consequences.ApplyAsync(write, invitation, what, actor, account);
        knowledge.Note(write, invitation, what);
        return new Taken(invitation, applied);
    }

    private sealed record Taken(InvitationRow Invitation, Applied Applied);
}
