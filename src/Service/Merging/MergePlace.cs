using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Merging;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>Two accounts that become one, by whom, and what is wanted of it.</summary>
/// <param name="Id">The merge.</param>
/// <param name="Kept">The account that stays, as it is under its lock.</param>
/// <param name="Gone">The account that goes.</param>
/// <param name="By">The workspace that does it; null where their holder does.</param>
/// <param name="Wish">What is wanted beyond what is proposed.</param>
/// <param name="Stop">Why it cannot be done; null where it can.</param>
public sealed record MergeDeal(
    Guid Id,
    AccountRow Kept,
    AccountRow Gone,
    Guid? By,
    MergeWish Wish,
    Refusal? Stop
);

/// <summary>What a merge came to in one workspace.</summary>
/// <param name="Name">The workspace's name.</param>
/// <param name="Kept">The member who stays; null where there is none.</param>
/// <param name="Gone">The member who goes or passes over; null where there is none.</param>
/// <param name="Plan">How they are laid over each other; null where only one of them is here.</param>
/// <param name="TwoCapacities">That they may be two on purpose; null where not.</param>
/// <param name="Passed">The memberships that pass to the account that stays.</param>
/// <param name="No">Why it cannot be done here; null where it can.</param>
public sealed record MergedHere(
    string Name,
    MergedView? Kept,
    MergedView? Gone,
    MergePlan? Plan,
    string? TwoCapacities,
    IReadOnlyList<Guid> Passed,
    Refusal? No
);

/// <summary>A merge in one workspace: two members laid over each other, or one who passes to the account that stays.</summary>
public sealed class MergePlace(MergeNews news)
{
    /// <summary>Does it in a workspace that is locked; tried where the deal is stopped.</summary>
    public Task<Outcome<MergedHere>> DoAsync(AccountWrite held, Guid place, MergeDeal deal) =>
        held.InAsync<MergedHere>(
            place,
            async write =>
            {
                MemberRow? actor = null;
                if (deal.By == place && !(await write.RequireAsync(Duties.Claims)).Try(out actor, out var no))
                    return no;
                var kept = await OfAsync(write, deal.Kept.Id);
                var gone = await OfAsync(write, deal.Gone.Id);
                var passed = await write
                    .Rows.Members.Where(m =>
                        m.AccountId == deal.Gone.Id && (kept == null || m.EndedAt != null)
                    )
                    .Select(m => m.Id)
                    .ToListAsync();
                var here = new MergedHere(
                    write.Workspace.Name,
                    ViewOf(kept),
                    ViewOf(gone),
                    null,
                    null,
                    passed,
                    deal.Stop
                );
                return kept is not null && gone is not null
                    ? await LayOverAsync(write, deal, here, actor, kept, gone)
                    : await PassAsync(write, deal, here, actor, gone);
            }
        );

    private static Refusal Differs { get; } =
        new(
            "merge.differs",
            "What the merge comes to is not what was planned.",
            "Nothing was done. Plan it again.",
            RefusalSort.Conflict
        );

    /// <summary>Who changes a workspace that did not ask for it: of whoever else did, it is told nothing.</summary>
    public static Caller CallerOf(WorkspaceWrite write, Guid? by) =>
        by is null || by == write.Workspace.Id
            ? write.Caller
            : new Caller("service", "the service", write.Caller.Via);

    private static Task<MemberRow?> OfAsync(WorkspaceWrite write, Guid account) =>
        write.Rows.Members.FirstOrDefaultAsync(m => m.AccountId == account && m.EndedAt == null);

    private static MergedView? ViewOf(MemberRow? member) =>
        member is null ? null : new MergedView(member.Id, member.Name, member.Address);

    private async Task<Outcome<MergedHere>> LayOverAsync(
        WorkspaceWrite write,
        MergeDeal deal,
        MergedHere here,
        MemberRow? actor,
        MemberRow kept,
        MemberRow gone
    )
    {
        var facts = await MergeReader.ReadAsync(write, kept, gone);
        if (!facts.World.People.ContainsKey(kept.Id) || !facts.World.People.ContainsKey(gone.Id))
            return CommonRefusals.Stale;
        var plan = MergePlan.For(facts, deal.Wish, () => Guid.CreateVersion7(write.Now));
        here = here with { Plan = plan, TwoCapacities = MergePlan.TwoCapacities(facts.Kept, facts.Other) };
        var stop =
            here.No
            ?? (actor is null ? null : ForbidsActor(facts.World, actor, [kept.Id, gone.Id], write.Today))
            ?? ForbidsProfile(write, plan);
        if (stop is not null)
            return here with { No = stop };
        var (keptId, goneId) = (kept.Id, gone.Id);
        var no = await write.AttemptAsync(async () =>
        {
            var stays = await write.Rows.Members.FirstAsync(m => m.Id == keptId);
            var goes = await write.Rows.Members.FirstAsync(m => m.Id == goneId);
            var before = Bundles(facts.World, goneId);
            await MergeDeeds.DoAsync(write, stays, goes, plan.Steps);
            await AccountMoves.PassMembersAsync(write.Rows, here.Passed, deal.Kept.Id);
            Keep(write, deal, stays, goes, plan.Steps);
            Record(write, deal, stays, goes, plan, before);
            await write.SaveAsync();
            if (await write.TakeInAsync() is { } forbidden)
                return forbidden;
            // What was shown is what everybody can do now, at every place and on every day.
            return new AccessGauge(facts.World, keptId, goneId, write.Today).IsSame(
                plan.After,
                await write.WorldAsync(),
                keptId
            )
                ? null
                : Differs;
        });
        if (no is null && deal.By != write.Workspace.Id)
            await news.TellAdministratorsAsync(write, kept, deal.Kept.Address);
        return here with { No = no };
    }

    private static string Bundles(AccessWorld world, Guid member) => Access.Bundles.SummaryOf(world, member);

    /// <summary>Whoever merges gives what the one holds to the other: it must be theirs to give, and they act on both.</summary>
    private static Refusal? ForbidsActor(
        AccessWorld world,
        MemberRow actor,
        IReadOnlyList<Guid> sides,
        DateOnly today
    )
    {
        foreach (var side in sides.Where(world.People.ContainsKey))
        {
            if (GivingRules.ForbidsActingOn(world, actor.Id, side, today) is { } beyond)
                return beyond;
            var given = world.PathsOf(world.People[side]).Select(path => path.Grant);
            if (GivingRules.Forbids(world, actor.Id, given, today) is { } more)
                return more;
        }
        return null;
    }

    /// <summary>What is chosen of kind, stay and host must be allowed together by the rules of the house.</summary>
    private static Refusal? ForbidsProfile(WorkspaceWrite write, MergePlan plan)
    {
        var chosen = plan.Choices.ToDictionary(choice => choice.Field);
        MergeField[] decisive = [MergeField.Kind, MergeField.Stay, MergeField.Host];
        if (decisive.All(field => chosen[field].Chosen == chosen[field].Kept))
            return null;
        var rules = WorkspaceRules.Of(write.Workspace);
        var kind = Enum.Parse<Kind>(chosen[MergeField.Kind].Chosen.Text, ignoreCase: true);
        var stay = chosen[MergeField.Stay].Chosen.Stay ?? Stay.Endless;
        return rules.ForbidsStay(kind, stay, write.Today)
            ?? rules.ForbidsHostless(kind, chosen[MergeField.Host].Chosen.Id is not null);
    }

    private static void Keep(
        WorkspaceWrite write,
        MergeDeal deal,
        MemberRow? kept,
        MemberRow? gone,
        IReadOnlyList<MergeStep> steps
    ) =>
        write.Rows.MemberMerges.Add(
            new MemberMergeRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = deal.Id,
                KeptId = kept?.Id,
                KeptName = kept?.Name ?? deal.Kept.Name,
                KeptAddress = kept?.Address ?? deal.Kept.Address,
                GoneId = gone?.Id,
                GoneName = gone?.Name ?? deal.Gone.Name,
                GoneAddress = gone?.Address ?? deal.Gone.Address,
                At = write.Now,
                ByName = CallerOf(write, deal.By).Name,
                IsOwn = deal.By == write.Workspace.Id,
                Steps = MergeDeeds.Write(steps),
            }
        );

    private static void Record(
        WorkspaceWrite write,
        MergeDeal deal,
        MemberRow kept,
        MemberRow gone,
        MergePlan plan,
        string before
    ) =>
        write.RecordBy(
            CallerOf(write, deal.By),
            "people.merged",
            kept.Id,
            ("name", kept.Name),
            ("address", kept.Address),
            ("other", gone.Name),
            ("other address", gone.Address),
            ("gave the other", before),
            ("taken over", Listed(plan.Steps.Where(step => !step.IsLeft))),
            ("left out", Listed(plan.Steps.Where(step => step.IsLeft))),
            ("gained", Gained(plan))
        );

    private static string? Listed(IEnumerable<MergeStep> steps)
    {
        var sentences = string.Join(" ", steps.Select(step => step.Sentence()));
        return sentences.Length > 0 ? sentences : null;
    }

    private static string? Gained(MergePlan plan)
    {
        var gains = string.Join("; ", plan.Steps.Where(step => !step.IsLeft).SelectMany(step => step.Gains));
        return gains.Length > 0 ? gains : null;
    }

    /// <summary>Where the account that stays is not, it takes the place of the other; the place itself is untouched.</summary>
    private async Task<Outcome<MergedHere>> PassAsync(
        WorkspaceWrite write,
        MergeDeal deal,
        MergedHere here,
        MemberRow? actor,
        MemberRow? gone
    )
    {
        var isOwn = deal.By == write.Workspace.Id;
        if (deal.Stop is not null)
            return here;
        if (
            actor is not null
            && gone is not null
            && ForbidsActor(await write.WorldAsync(), actor, [gone.Id], write.Today) is { } beyond
        )
            return here with { No = beyond };
        await AccountMoves.PassMembersAsync(write.Rows, here.Passed, deal.Kept.Id);
        if (isOwn)
            Keep(write, deal, null, null, []);
        if (isOwn || gone is not null)
            write.RecordBy(
                CallerOf(write, deal.By),
                "account.merged",
                gone?.Id ?? deal.Kept.Id,
                ("name", gone?.Name ?? deal.Gone.Name),
                ("address", gone?.Address ?? deal.Gone.Address),
                ("other address", deal.Kept.Address)
            );
        // Custody goes with the account that stays: whoever comes under it by this takes a seat where such are counted.
        if (deal.Kept.CustodyId == write.Workspace.Id && gone is not null)
        {
            await write.SaveAsync();
            if (await HeldSeats.GiveAsync(write, deal.Kept.Id) is { } full)
                return full;
        }
        if (!isOwn && gone is not null)
            await news.TellAdministratorsAsync(write, gone, deal.Kept.Address);
        return here;
    }
}
