using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Handing the resources of one owner to another, in one step.</summary>
public sealed class Handover(Editing editing)
{
    /// <summary>Hands over all that somebody owns, or the resources named.</summary>
    public async Task<Outcome<HandoverAnswer>> HandOverAsync(
        Visitor visitor,
        HandoverRequest request,
        bool dryRun
    )
    {
        var edited = await editing.EditAsync<HandoverAnswer>(
            visitor,
            new EditMode(Duties.None, dryRun),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                var mayAll = world.DutiesOf(editor.Id, write.Today).HasFlag(Duties.Access);
                var from = await People.FindAsync(write.Rows, request.From);
                // Everybody may hand over what they own themselves.
                if (!mayAll && from?.Id != editor.Id)
                    return DutyWords.Missing(Duties.Access);
                if (from is null)
                    return People.NotFound;
                if (!(await People.ActiveAsync(write, request.To)).Try(out var to, out var refusal))
                    return refusal with { Field = "to" };
                var owned = await write.Rows.Resources.Where(r => r.OwnerId == from.Id).ToListAsync();
                if (request.Resources is { Count: > 0 } named)
                {
                    var ids = new HashSet<Guid>();
                    foreach (var name in named)
                    {
                        if (!world.FindResource(name).Try(out var resource, out refusal))
                            return refusal;
                        if (resource.Owner != from.Id)
                            return new Refusal(
                                "resource.other-owner",
                                $"{resource.Name} is not owned by {from.Name}.",
                                "Leave it out.",
                                RefusalSort.Conflict,
                                "resources"
                            );
                        ids.Add(resource.Id);
                    }
                    owned = [.. owned.Where(r => ids.Contains(r.Id))];
                }
                foreach (var row in owned)
                {
                    row.OwnerId = to.Id;
                    row.Version++;
                    write.Record(
                        "resource.handed-over",
                        row.Id,
                        ("name", row.Name),
                        ("before", from.Name),
                        ("after", to.Name)
                    );
                }
                return new HandoverAnswer([.. owned.Select(r => r.Name).Order()], to.Name);
            }
        );
        return edited.Then(done => done.Value);
    }
}
