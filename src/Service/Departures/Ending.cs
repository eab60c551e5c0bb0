using ComeAboard.Client.Departures;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>
/// Ending members' access: at once, or on a day. The plan that is shown is the deed, done and undone again; it is kept with
/// the departure as it was carried out.
/// </summary>
public sealed class Ending(
    WorkspaceWriter writer,
    Together together,
    Outbox outbox,
    Receipts receipts,
    Confirmations confirmations
)
{
    /// <summary>Shows what ending would do: it is done, and nothing of it is kept.</summary>
    public Task<Outcome<DeparturePlanView>> PlanAsync(
        Visitor visitor,
        string person,
        DepartureRequest request
    ) =>
        writer.WriteAsync<DeparturePlanView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                if (await People.FindAsync(write.Rows, person) is not { } member)
                    return People.NotFound;
                var world = await write.WorldAsync();
                var view = await PersonViews.OfOneAsync(
                    write.Rows,
                    member,
                    write.Now,
                    write.Workspace,
                    world
                );
                DeparturePlan? plan = null;
                var no = await write.AttemptAsync(async () =>
                {
                    if (
                        !(await EndAsync(write, actor, member.Id.ToString(), request, null)).Try(
                            out var ended,
                            out var why
                        )
                    )
                        return why;
                    plan = ended.Plan;
                    return null;
                });
                return no is null
                    ? new DeparturePlanView(
                        view,
                        request.On,
                        DepartureWords.Sentences(plan!.Steps),
                        plan.Stays,
                        null
                    )
                    {
                        Steps = DepartureViews.StepsOf(plan.Steps),
                    }
                    : new DeparturePlanView(view, request.On, [], [], no.ToProblem());
            },
            keep: false
        );

    /// <summary>Ends access now, or sets its last day.</summary>
    public Task<Outcome<DepartureView>> EndAsync(
        Visitor visitor,
        string person,
        DepartureRequest request,
        int? expectedVersion = null
    ) =>
        writer.WriteAsync<DepartureView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                if (
                    !(await EndAsync(write, actor, person, request, expectedVersion)).Try(
                        out var ended,
                        out refusal
                    )
                )
                    return refusal;
                await write.SaveAsync();
                return await DepartureViews.OfAsync(write.Rows, ended.Row);
            }
        );

    /// <summary>Takes a planned end back: the stay that was agreed before goes on.</summary>
    public Task<Outcome<DepartureView>> WithdrawAsync(
        Visitor visitor,
        string person,
        int? expectedVersion,
        bool dryRun
    ) =>
        writer.WriteAsync<DepartureView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                if (
                    !(await FindAsync(write, actor, person, expectedVersion)).Try(out var leaver, out refusal)
                )
                    return refusal;
                var (member, facts) = leaver;
                if (!DeparturePlan.Withdraw(facts, write.Today).Try(out var stay, out refusal))
                    return refusal;
                var planned = await write.Rows.Departures.FirstAsync(d =>
                    d.MemberId == member.Id && d.State == DepartureState.Planned
                );
                planned.State = DepartureState.Undone;
                write.Record(
                    "departure.withdrawn",
                    member.Id,
                    ("name", member.Name),
                    ("address", member.Address),
                    ("last day before", member.LastDay?.ToString("yyyy-MM-dd") ?? "none"),
                    ("last day after", stay.LastDay?.ToString("yyyy-MM-dd") ?? "none")
                );
                member.LastDay = stay.LastDay;
                member.Version++;
                return await DepartureViews.OfAsync(write.Rows, planned);
            },
            keep: !dryRun
        );

    /// <summary>Shows whoever asks what they would lose by leaving; nothing of it is kept.</summary>
    public Task<Outcome<DeparturePlan>> PlanLeavingAsync(Visitor visitor) => LeaveAsync(visitor, keep: false);

    /// <summary>Lets whoever asks leave the workspace, at once.</summary>
    public Task<Outcome<DeparturePlan>> LeaveAsync(Visitor visitor) => LeaveAsync(visitor, keep: true);

    private Task<Outcome<DeparturePlan>> LeaveAsync(Visitor visitor, bool keep) =>
        writer.WriteAsync<DeparturePlan>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                // Whoever is kept out for now can still go for good.
                var member = await write.Rows.Members.FirstAsync(m => m.Id == visitor.Member.Id);
                if (!member.IsHere(write.Now, write.Workspace.Zone))
                    return EntryRules.Ended;
                var facts = await Leavers.ReadAsync(write, member, member.Id);
                if (!DeparturePlan.For(facts, null, write.Today).Try(out var plan, out var refusal))
                    return refusal;
                var departure = await ReplacePlanAsync(write, member, null);
                using var keys = new KeyInUse(receipts, write);
                await ConfirmAsync(write, await CarryOutAsync(write, keys, member, departure, plan));
                return plan;
            },
            keep
        );

    /// <summary>Ends the access of several, or tries it; each by itself, and none is held up by another.</summary>
    public Task<Outcome<TakenTogether<Guid>>> EndAllAsync(
        Visitor visitor,
        IReadOnlyList<Guid> people,
        DepartureRequest request,
        bool keep
    ) =>
        together.EachAsync(
            visitor.WorkspaceId,
            visitor.Caller,
            Duties.People,
            people,
            (write, actor, _) =>
                Task.FromResult<Func<Guid, Task<Refusal?>>>(async id =>
                    (await EndAsync(write, actor!, id.ToString(), request, null)).Refusal
                ),
            keep
        );

    /// <summary>Finishes stays of a workspace whose last day is over, on behalf of whoever planned each.</summary>
    public async Task FinishAsync(Guid workspace, IReadOnlyList<Guid> over) =>
        await together.SomeAsync(
            workspace,
            Caller.Clock,
            over,
            (write, lot) =>
            {
                var leavers = new LeaverLot(write, lot);
                return some => FinishAsync(write, leavers, some);
            }
        );

    private async Task<Refusal?> FinishAsync(
        WorkspaceWrite write,
        LeaverLot leavers,
        IReadOnlyList<Guid> some
    )
    {
        var closed = new List<AccountThereRow>();
        using var keys = new KeyInUse(receipts, write);
        foreach (var id in some)
        {
            if (
                await leavers.TakeAsync(id) is not { } leaver
                || leaver.Member.IsHere(write.Now, write.Workspace.Zone)
            )
                continue;
            var carried = await FinishAsync(write, keys, leaver);
            closed.AddRange(carried.Closed);
            if (!carried.ChangesOthers)
                continue;
            // What others have now, and are written down as, is read again.
            await ConfirmAsync(write, closed);
            closed.Clear();
            await write.SaveAsync();
            write.Rows.ChangeTracker.Clear();
            leavers.Forget();
            if (await write.TakeInAsync() is { } no)
                return no;
        }
        await ConfirmAsync(write, closed);
        return null;
    }

    /// <summary>Finishes a stay whose last day is over, within a change.</summary>
    public async Task FinishAsync(WorkspaceWrite write, MemberRow member)
    {
        var planned = await write.Rows.Departures.FirstOrDefaultAsync(d =>
            d.MemberId == member.Id && d.State == DepartureState.Planned
        );
        var leaver = new Leaver(member, planned, [], await Leavers.ReadAsync(write, member, null));
        using var keys = new KeyInUse(receipts, write);
        await ConfirmAsync(write, (await FinishAsync(write, keys, leaver)).Closed);
    }

    private async Task<Carried> FinishAsync(WorkspaceWrite write, KeyInUse keys, Leaver leaver)
    {
        var departure = leaver.Planned ?? Add(write, leaver.Member, leaver.Member.LastDay);
        Guid? by = Guid.TryParse(departure.RequestedBy, out var requested) ? requested : null;
        var facts = leaver.Facts with { EndedBy = by, Heir = departure.HeirId };
        var plan = DeparturePlan.Carrying(facts, leaver.Member.LastDay, write.Today);
        var closed = await CarryOutAsync(write, keys, leaver.Member, departure, plan);
        return new Carried(
            closed,
            plan.Steps.Any(step =>
                step.Deed
                    is DepartureDeed.PassOnInvitation
                        or DepartureDeed.PassOnHosting
                        or DepartureDeed.PassOnGuest
                        or DepartureDeed.HandOver
            )
        );
    }

    /// <summary>What came of a stay that was finished.</summary>
    /// <param name="Closed">Its accounts elsewhere that were closed already.</param>
    /// <param name="ChangesOthers">Whether it changed what others have, or are written down as.</param>
    private sealed record Carried(IReadOnlyList<AccountThereRow> Closed, bool ChangesOthers);

    /// <summary>Some may be closed already: those of a stay that was over before anybody came to write it down.</summary>
    private async Task ConfirmAsync(WorkspaceWrite write, IReadOnlyList<AccountThereRow> closed)
    {
        if (closed.Count == 0)
            return;
        await write.SaveAsync();
        await confirmations.TakeAsync(write, closed);
    }

    /// <summary>Somebody as they were looked at, whom whoever asks may act on, and what is known of them.</summary>
    private static async Task<Outcome<(MemberRow Member, LeaverFacts Facts)>> FindAsync(
        WorkspaceWrite write,
        MemberRow actor,
        string person,
        int? expectedVersion
    )
    {
        if (await People.FindAsync(write.Rows, person) is not { } member)
            return People.NotFound;
        if (member.IsStale(expectedVersion))
            return CommonRefusals.Stale;
        var world = await write.WorldAsync();
        return GivingRules.ForbidsActingOn(world, actor.Id, member.Id, write.Today) is { } beyond
            ? beyond
            : (member, await Leavers.ReadAsync(write, member, actor.Id));
    }

    private sealed record Ended(DepartureRow Row, DeparturePlan Plan);

    private async Task<Outcome<Ended>> EndAsync(
        WorkspaceWrite write,
        MemberRow actor,
        string person,
        DepartureRequest request,
        int? expectedVersion
    )
    {
        var on = request.On;
        if (!(await FindAsync(write, actor, person, expectedVersion)).Try(out var leaver, out var refusal))
            return refusal;
        var (member, facts) = leaver;
        if (request.To is { Length: > 0 } to)
        {
            if (await People.FindAsync(write.Rows, to) is not { } heir)
                return People.NotFound with { Field = "to" };
            facts = facts with { Heir = heir.Id };
        }
        if (!DeparturePlan.For(facts, on, write.Today).Try(out var plan, out refusal))
            return refusal;
        var departure = await ReplacePlanAsync(write, member, on);
        (departure.AgreedDay, departure.KnowsAgreed) = (
            facts.Planned is { } planned ? planned.AgreedDay : member.LastDay,
            true
        );
        departure.HeirId = facts.Heir;
        using var keys = new KeyInUse(receipts, write);
        if (on is null)
            await ConfirmAsync(write, await CarryOutAsync(write, keys, member, departure, plan));
        else
            Schedule(write, member, departure, plan, on.Value);
        return new Ended(departure, plan);
    }

    private static void Schedule(
        WorkspaceWrite write,
        MemberRow member,
        DepartureRow departure,
        DeparturePlan plan,
        DateOnly on
    )
    {
        departure.Steps = DepartureSteps.Write(plan.Steps);
        write.Record(
            "departure.planned",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("last day before", member.LastDay?.ToString("yyyy-MM-dd") ?? "none"),
            ("last day after", on.ToString("yyyy-MM-dd"))
        );
        member.LastDay = on;
        member.Version++;
    }

    /// <summary>Carries a plan out; gives back those accounts elsewhere that are closed already.</summary>
    private async Task<IReadOnlyList<AccountThereRow>> CarryOutAsync(
        WorkspaceWrite write,
        KeyInUse keys,
        MemberRow member,
        DepartureRow departure,
        DeparturePlan plan
    )
    {
        var before = Bundles.SummaryOf(await write.WorldAsync(), member.Id);
        var isRunning = plan.Steps.Any(step => step.Deed == DepartureDeed.CloseAccount);
        (departure.State, departure.DoneAt) = (
            isRunning ? DepartureState.Running : DepartureState.Done,
            write.Now
        );
        departure.Steps = DepartureSteps.Write(plan.Steps);
        var accounts = await DepartureSteps.CarryOutAsync(write, member, departure.Id, plan.Steps);
        write.Record(
            "member.ended",
            member.Id,
            [
                ("name", member.Name),
                ("address", member.Address),
                ("kind", member.Kind.Word()),
                ("gives before", before),
                ("gives after", "none"),
                .. DepartureSteps.ForTheRecord(plan.Steps),
            ]
        );
        outbox.Queue(write, Purposes.News, member.Address, Letters.Ended(member, write.Workspace));
        if (isRunning)
            return [.. accounts.Where(account => account.DueAt is null)];
        departure.ConfirmedAt = write.Now;
        departure.Receipt = receipts.Sign(write, await keys.GetAsync(), departure, member, plan.Steps);
        return [];
    }

    private static async Task<DepartureRow> ReplacePlanAsync(
        WorkspaceWrite write,
        MemberRow member,
        DateOnly? on
    )
    {
        var planned = await write
            .Rows.Departures.Where(d => d.MemberId == member.Id && d.State == DepartureState.Planned)
            .ToListAsync();
        foreach (var old in planned)
            old.State = DepartureState.Undone;
        return Add(write, member, on);
    }

    private static DepartureRow Add(WorkspaceWrite write, MemberRow member, DateOnly? on)
    {
        var departure = new DepartureRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            MemberId = member.Id,
            MemberName = member.Name,
            MemberAddress = member.Address,
            State = DepartureState.Planned,
            LastDay = on,
            RequestedBy = write.Caller.Actor,
            RequestedByName = write.Caller.Name,
            RequestedAt = write.Now,
        };
        write.Rows.Departures.Add(departure);
        return departure;
    }
}
