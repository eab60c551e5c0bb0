using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>The same step for several invitations: each is decided by itself, and those that cannot take it say why.</summary>
public sealed class StepsTogether(
    Database database,
    WorkspaceWriter writer,
    InvitationSteps steps,
    TimeProvider clock
)
{
    private const int MostInOneCall = 10_000;
    private const int AtOnce = 100;
    private const int MostReasons = 200;

    public async Task<Outcome<StepsAnswer>> TakeAsync(Visitor visitor, StepsRequest request)
    {
        if (!steps.Find(request.Step, request.Days, null).Try(out var step, out var refusal))
            return refusal;
        if (!(await WhichAsync(visitor, request)).Try(out var which, out refusal))
            return refusal;
        var (done, refused, refusedCount) = (0, new List<StepRefusal>(), 0);
        foreach (var lot in which.Take(MostInOneCall).Chunk(AtOnce))
        {
            var taken = await LotAsync(
                visitor,
                lot,
                step,
                InvitationSteps.DutyFor(request.Step),
                request.DryRun
            );
            if (!taken.Try(out var refusals, out refusal))
                return refusal;
            done += lot.Length - refusals.Count;
            refusedCount += refusals.Count;
            refused.AddRange(refusals.Take(MostReasons - refused.Count));
        }
        return new StepsAnswer(done, refused, refusedCount, Math.Max(0, which.Count - MostInOneCall));
    }

    private async Task<Outcome<List<Guid>>> WhichAsync(Visitor visitor, StepsRequest request)
    {
        if (request.Ids is { Count: > 0 } ids)
            return ids.Distinct().ToList();
        var query = new InvitationQuery(
            request.State,
            request.Kind,
            request.Search,
            null,
            null,
            null,
            request.Batch,
            request.Link
        );
        if (query.IsEmpty)
            return new Refusal(
                "steps.which",
                "Neither invitations nor anything to match is named.",
                "Name ids, or a state, kind, search, batch or link.",
                Field: "ids"
            );
        await using var rows = database.Open(visitor.WorkspaceId);
        if (
            !(await InvitationLists.NarrowAsync(rows, query, clock.Now())).Try(
                out var narrowed,
                out var refusal
            )
        )
            return refusal;
        return await narrowed
            .OrderBy(i => i.Id)
            .Select(i => i.Id)
            .Take(MostInOneCall + 1_000_000)
            .ToListAsync();
    }

    /// <summary>One change for a lot. When one of them cannot take the step, what it had begun is not kept.</summary>
    private async Task<Outcome<List<StepRefusal>>> LotAsync(
        Visitor visitor,
        IReadOnlyList<Guid> lot,
        Step step,
        Duties duty,
        bool dryRun
    )
    {
        var skipped = new Dictionary<Guid, StepRefusal>();
        while (true)
        {
            var going = lot.Where(id => !skipped.ContainsKey(id)).ToList();
            if (going.Count == 0)
                return skipped.Values.ToList();
            var fresh = new List<StepRefusal>();
            var outcome = await writer.WriteAsync<bool>(
                visitor.WorkspaceId,
                visitor.Caller,
                async write =>
                {
                    fresh.Clear();
                    if (!(await write.RequireAsync(duty)).Try(out var member, out var refusal))
                        return refusal;
                    var found = await write
                        .Rows.Invitations.Where(i => going.Contains(i.Id))
                        .ToDictionaryAsync(i => i.Id);
                    foreach (var id in going)
                    {
                        var no = found.TryGetValue(id, out var invitation)
                            ? await step(write, member, invitation)
                            : CommonRefusals.NotFound;
                        if (no is not null)
                            fresh.Add(new StepRefusal(id, invitation?.Address ?? "", no.ToProblem()));
                        else
                            await write.SaveAsync();
                    }
                    // Whatever a refused one had begun must not stay; so the lot is taken again without it.
                    return fresh.Count > 0 || dryRun ? Undone : true;
                }
            );
            foreach (var no in fresh)
                skipped[no.Id] = no;
            if (outcome.Succeeded || fresh.Count == 0 && outcome.Refusal == Undone)
                return skipped.Values.ToList();
            if (outcome.Refusal != Undone)
                return outcome.Refusal!;
        }
    }

    private static Refusal Undone { get; } = new("steps.undone", "Nothing was kept.", "");
}
