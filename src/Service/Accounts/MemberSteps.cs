using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// What is done with members, singly or with many: paused, resumed, signed out, of another kind, with other details, given
/// or taken a role. Each is done for whom it can be; whom it cannot be done for is named, with the reason.
/// </summary>
public sealed class MemberSteps(Editing editing, Database database, TimeProvider clock)
{
    /// <summary>Takes a step for some people, or tries it.</summary>
    public async Task<Outcome<PeopleStepAnswer>> TakeAsync(
        Visitor visitor,
        PeopleStepRequest request,
        bool dryRun
    )
    {
        if (!People.ReadHowMany(request.People).Try(out var people, out var refusal))
            return refusal;
        if (request.Versions is { } versions && versions.Count != people.Count)
            return CommonRefusals.Malformed("there must be a version for each person.");
        if (!Find(request).Try(out var step, out refusal))
            return refusal;
        var duty = request.Step is "grant" or "take" ? Duties.Access : Duties.People;
        var edited = await editing.EditAsync<Taken>(
            visitor,
            new EditMode(duty, dryRun, Restores: request.Step is "resume" or "pause" or "sign-out"),
            async (write, editor) =>
            {
                var (done, refused) = (new List<MemberRow>(), new List<PersonRefusal>());
                for (var i = 0; i < people.Count; i++)
                {
                    var (named, seen) = (people[i], request.Versions?[i]);
                    MemberRow? taken = null;
                    var no = await write.AttemptAsync(async () =>
                    {
                        if (await People.FindAsync(write.Rows, named) is not { } member)
                            return People.NotFound;
                        if (member.EndedAt is not null)
                            return Ended(member);
                        if (member.IsStale(seen))
                            return CommonRefusals.Stale;
                        var world = await write.WorldAsync();
                        if (
                            duty == Duties.People
                            && GivingRules.ForbidsActingOn(world, editor.Id, member.Id, write.Today)
                                is { } beyond
                        )
                            return beyond;
                        if (await step(write, editor, member) is { } refused)
                            return refused;
                        member.Version++;
                        taken = member;
                        return null;
                    });
                    if (no is null)
                        done.Add(taken!);
                    else
                        refused.Add(new PersonRefusal(named, no.ToProblem()));
                }
                return new Taken(done, refused);
            }
        );
        if (!edited.Try(out var edit, out refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        return new PeopleStepAnswer(
            await PersonViews.OfAsync(rows, edit.Value.Done, clock.Now(), visitor.Workspace, edit.World),
            edit.Value.Refused,
            edit.Difference
        );
    }

    private sealed record Taken(IReadOnlyList<MemberRow> Done, IReadOnlyList<PersonRefusal> Refused);

    private static Outcome<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>> Find(
        PeopleStepRequest request
    )
    {
        if (!PlainText.ReadMessage(request.Reason).Try(out var reason, out var refusal))
            return refusal with { Field = "reason" };
        switch (request.Step)
        {
            case "pause":
                return Outcome.Of(Sync((write, _, member) => Pause(write, member, reason)));
            case "resume":
                return Outcome.Of(Sync((write, _, member) => Resume(write, member)));
            case "extend":
                return Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(
                    (write, _, member) => ExtendAsync(write, member, request.Until, reason)
                );
            case "sign-out":
                return Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(
                    (write, _, member) => SignOutAsync(write, member)
                );
            case "kind":
                return Kinds.Read(request.Kind).Try(out var kind, out refusal)
                    ? Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(
                        (write, _, member) => ChangeKindAsync(write, member, kind)
                    )
                    : refusal;
            case "change":
                return Details
                    .Read(request.Details, request.People.Count > 1)
                    .Try(out var details, out refusal)
                    ? Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(details.PutAsync)
                    : refusal;
            case "grant":
                return Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(
                    async (write, editor, member) =>
                        (
                            await Grants.GiveAsync(
                                write,
                                editor.Id,
                                editor.Name,
                                new GrantRequest(
                                    request.Role ?? "",
                                    member.Id.ToString(),
                                    Resource: request.Resource,
                                    Until: request.Until
                                )
                            )
                        ).Refusal
                );
            case "take":
                return Outcome.Of<Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>>>(
                    (write, _, member) => TakeRoleAsync(write, member, request.Role, request.Resource)
                );
            default:
                return new Refusal(
                    "step.unknown",
                    $"There is no step \"{(request.Step.Length > 40 ? request.Step[..40] : request.Step)}\".",
                    "Use pause, resume, sign-out, extend, kind, change, grant or take.",
                    Field: "step"
                );
        }
    }

    private static Func<WorkspaceWrite, MemberRow, MemberRow, Task<Refusal?>> Sync(
        Func<WorkspaceWrite, MemberRow, MemberRow, Refusal?> act
    ) => (write, editor, member) => Task.FromResult(act(write, editor, member));

    internal static Refusal? Pause(WorkspaceWrite write, MemberRow member, string reason)
    {
        if (member.PausedAt is not null)
            return new Refusal(
                "person.paused",
                $"{member.Name} is paused already.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        member.PausedAt = write.Now;
        write.Record(
            "member.paused",
            member.Id,
            ("name", member.Name),
            ("reason", reason.Length > 0 ? reason : null)
        );
        return null;
    }

    internal static Refusal? Resume(WorkspaceWrite write, MemberRow member)
    {
        if (member.PausedAt is null)
            return new Refusal(
                "person.not-paused",
                $"{member.Name} is not paused.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        member.PausedAt = null;
        write.Record("member.resumed", member.Id, ("name", member.Name));
        return null;
    }

    private static async Task<Refusal?> ExtendAsync(
        WorkspaceWrite write,
        MemberRow member,
        DateOnly? until,
        string reason
    )
    {
        if (until is not { } day)
            return new Refusal(
                "stay.until-missing",
                "It is not said until when the stay is to go on.",
                "Say the last day.",
                Field: "until"
            );
        if (
            await write.Rows.Departures.AnyAsync(d =>
                d.MemberId == member.Id && d.State == DepartureState.Planned
            )
        )
            return new Refusal(
                "departure.planned",
                $"The end of {member.Name}'s access is planned.",
                "Withdraw it first: aboard departures withdraw ID",
                RefusalSort.Conflict
            );
        if (!member.Stay.Extended(day, write.Today).Try(out var stay, out var refusal))
            return refusal;
        if (WorkspaceRules.Of(write.Workspace).ForbidsStay(member.Kind, stay, write.Today) is { } no)
            return no;
        write.Record(
            "member.extended",
            member.Id,
            ("name", member.Name),
            ("last day before", member.LastDay?.ToString("yyyy-MM-dd")),
            ("last day after", day.ToString("yyyy-MM-dd")),
            ("reason", reason.Length > 0 ? reason : null)
        );
        member.LastDay = stay.LastDay;
        return null;
    }

    /// <summary>Revokes the tokens of this workspace, and closes the sign-ins where no other workspace needs them.</summary>
    private static async Task<Refusal?> SignOutAsync(WorkspaceWrite write, MemberRow member)
    {
        var tokens = await write
            .Rows.ApiTokens.Where(t => t.MemberId == member.Id && t.RevokedAt == null)
            .ToListAsync();
        foreach (var token in tokens)
            token.RevokedAt = write.Now;
        var elsewhere = await write
            .Rows.Members.IgnoreQueryFilters()
            .AnyAsync(m =>
                m.AccountId == member.AccountId && m.WorkspaceId != member.WorkspaceId && m.EndedAt == null
            );
        var sessions = elsewhere
            ? []
            : await write.Rows.Sessions.Where(s => s.AccountId == member.AccountId).ToListAsync();
        write.Rows.Sessions.RemoveRange(sessions);
        write.Record(
            "member.signed-out",
            member.Id,
            ("name", member.Name),
            ("tokens revoked", tokens.Count),
            ("sign-ins closed", sessions.Count)
        );
        return null;
    }

    private static async Task<Refusal?> ChangeKindAsync(WorkspaceWrite write, MemberRow member, Kind kind)
    {
        if (member.Kind == kind)
            return new Refusal(
                "kind.same",
                $"{member.Name} is {kind.Word()} already.",
                "Nothing needs doing.",
                RefusalSort.Conflict,
                "kind"
            );
        var world = await write.WorldAsync();
        if (
            member.OrganisationId is { } own
            && world.Organisations.TryGetValue(own, out var organisation)
            && OrganisationRules.ForbidsKind(organisation, kind) is { } other
        )
            return other with { Field = "kind" };
        var rules = WorkspaceRules.Of(write.Workspace);
        if (rules.ForbidsStay(kind, member.Stay, write.Today) is { } stay)
            return stay;
        if (rules.ForbidsHostless(kind, member.HostId is not null) is { } host)
            return host;
        write.Record(
            "member.kind-changed",
            member.Id,
            ("name", member.Name),
            ("before", member.Kind.Word()),
            ("after", kind.Word())
        );
        member.Kind = kind;
        return null;
    }

    private static async Task<Refusal?> TakeRoleAsync(
        WorkspaceWrite write,
        MemberRow member,
        string? role,
        string? resource
    )
    {
        var world = await write.WorldAsync();
        if (!world.FindRole(role).Try(out var found, out var refusal))
            return refusal;
        Guid? at = null;
        if (!string.IsNullOrWhiteSpace(resource))
        {
            if (!world.FindResource(resource).Try(out var place, out refusal))
                return refusal;
            at = place.Id;
        }
        var grants = await write
            .Rows.Grants.Where(g =>
                g.HolderKind == HolderKind.Member
                && g.HolderId == member.Id
                && g.RoleId == found.Id
                && g.ResourceId == at
            )
            .ToListAsync();
        if (grants.Count == 0)
            return new Refusal(
                "grant.none",
                $"{member.Name} has no grant of the role {found.Name} there.",
                "Look at where it comes from: it may be a group or the organisation.",
                RefusalSort.Conflict,
                "role"
            );
        foreach (var grant in grants)
        {
            Grants.Record(write, "grant.taken", grant, world);
            write.Rows.Grants.Remove(grant);
        }
        return null;
    }

    private static Refusal Ended(MemberRow member) =>
        new(
            "access.ended",
            $"The access of {member.Name} has ended.",
            "Invite them again if they should come back.",
            RefusalSort.Conflict
        );
}
