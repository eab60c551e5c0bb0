using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Switching a person or a whole organisation off for a resource, and on again.</summary>
public sealed class Switching(Editing editing)
{
    /// <summary>Switches a person or an organisation off.</summary>
    public async Task<Outcome<EditAnswer>> OffAsync(
        Visitor visitor,
        string resource,
        SwitchRequest request,
        bool dryRun
    )
    {
        if (!AccessLists.Find(visitor, resource).Try(out var found, out var refusal))
            return refusal;
        var edited = await editing.EditAsync<bool>(
            visitor,
            new EditMode(Duties.None, dryRun),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (GivingRules.ForbidsArranging(world, editor.Id, found.Id, write.Today) is { } no)
                    return no;
                var isOrganisation = !string.IsNullOrWhiteSpace(request.Organisation);
                Guid holder;
                string name;
                if (isOrganisation)
                {
                    if (!world.FindOrganisation(request.Organisation).Try(out var organisation, out no))
                        return no;
                    (holder, name) = (organisation.Id, organisation.Name);
                }
                else
                {
                    if (
                        await People.FindAsync(write.Rows, request.Person ?? "")
                        is not { EndedAt: null } member
                    )
                        return People.NotFound;
                    (holder, name) = (member.Id, member.Name);
                }
                if (world.SwitchedOff.Contains((holder, found.Id)))
                    return true;
                write.Rows.SwitchedOff.Add(
                    new SwitchedOffRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        HolderId = holder,
                        ResourceId = found.Id,
                        IsOrganisation = isOrganisation,
                        At = write.Now,
                        ByName = editor.Name,
                    }
                );
                write.Record("resource.switched-off", holder, ("name", name), ("resource", found.Name));
                return true;
            }
        );
        return edited.Then(done => new EditAnswer(1, done.Difference));
    }

    /// <summary>Switches somebody who is off on again.</summary>
    public async Task<Outcome<EditAnswer>> OnAsync(Visitor visitor, string resource, Guid holder, bool dryRun)
    {
        if (!AccessLists.Find(visitor, resource).Try(out var found, out var refusal))
            return refusal;
        var edited = await editing.EditAsync<bool>(
            visitor,
            new EditMode(Duties.None, dryRun),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (GivingRules.ForbidsArranging(world, editor.Id, found.Id, write.Today) is { } no)
                    return no;
                if (
                    await write.Rows.SwitchedOff.FirstOrDefaultAsync(s =>
                        s.HolderId == holder && s.ResourceId == found.Id
                    )
                    is not { } row
                )
                    return CommonRefusals.NotFound;
                write.Rows.SwitchedOff.Remove(row);
                write.Record("resource.switched-on", holder, ("resource", found.Name));
                return true;
            }
        );
        return edited.Then(done => new EditAnswer(1, done.Difference));
    }
}
