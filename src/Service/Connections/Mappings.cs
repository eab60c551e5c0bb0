using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>Who has what in connected systems: the lines of their mappings.</summary>
public sealed class Mappings(Database database, WorkspaceWriter writer, Targets targets, CarryBell carrying)
{
    private const int MostLines = 200;

    /// <summary>For a system that nothing is carried out to.</summary>
    public static Refusal NoTarget { get; } =
        new(
            "connection.no-target",
            "Nothing is carried out to connections of this type.",
            "People are only read from it; add a connection of another type.",
            RefusalSort.Conflict
        );

    /// <summary>The lines of a mapping.</summary>
    public async Task<Outcome<Page<MappingView>>> ListAsync(Visitor visitor, string connection)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await Connections.FindAsync(rows, connection) is { } row
            ? new Page<MappingView>(await LinesAsync(rows, row.Id, visitor.World), null)
            : Connections.NotFound;
    }

    /// <summary>Adds a line to a mapping; what follows from it is carried out from then on.</summary>
    public async Task<Outcome<MappingView>> AddAsync(
        Visitor visitor,
        string connection,
        MappingRequest request
    )
    {
        var added = await writer.WriteAsync<MappingView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var refusal))
                    return refusal;
                if (await Connections.FindAsync(write.Rows, connection) is not { } row)
                    return Connections.NotFound;
                if (targets.Find(row.Type) is not { } target)
                    return NoTarget;
                var world = await write.WorldAsync();
                if (!Read(world, request, Guid.CreateVersion7(write.Now)).Try(out var line, out refusal))
                    return refusal;
                var lines = await Carrier.MappingOf(write.Rows, row.Id);
                if (lines.Any(one => one with { Id = line.Id } == line))
                    return new Refusal(
                        "mapping.exists",
                        "The mapping has that line already.",
                        "Nothing needs doing.",
                        RefusalSort.Conflict
                    );
                if (lines.Count >= MostLines)
                    return new Refusal(
                        "mapping.too-many",
                        $"A mapping has at most {MostLines} lines.",
                        "Gather people in groups, and map those.",
                        RefusalSort.Conflict
                    );
                write.Rows.ConnectionMapping.Add(
                    new MappingRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        ConnectionId = row.Id,
                        Id = line.Id,
                        Of = line.Of,
                        SubjectId = line.Subject,
                        Least = line.Least,
                        GroupThere = line.GroupThere,
                    }
                );
                var view = ViewOf(line, world);
                write.Record("mapping.added", row.Id, Said(row, view));
                await DueAsync(write, row.Id, target.IsOnlyTold);
                return view;
            }
        );
        carrying.Ring();
        return added;
    }

    /// <summary>Takes a line away; whoever had something there by it alone loses it there.</summary>
    public async Task<Outcome<MappingView>> RemoveAsync(Visitor visitor, string connection, Guid id)
    {
        var removed = await writer.WriteAsync<MappingView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Settings)).Try(out _, out var refusal))
                    return refusal;
                if (await Connections.FindAsync(write.Rows, connection) is not { } row)
                    return Connections.NotFound;
                if (
                    await write.Rows.ConnectionMapping.FirstOrDefaultAsync(m =>
                        m.ConnectionId == row.Id && m.Id == id
                    )
                    is not { } line
                )
                    return CommonRefusals.NotFound;
                write.Rows.ConnectionMapping.Remove(line);
                var view = ViewOf(line.Line, await write.WorldAsync());
                write.Record("mapping.removed", row.Id, Said(row, view));
                await DueAsync(write, row.Id, isOnlyTold: false);
                return view;
            }
        );
        carrying.Ring();
        return removed;
    }

    /// <summary>Reads a line; refuses with <c>mapping.to</c>, <c>mapping.of</c>, <c>level.unknown</c>, or where there is no such thing.</summary>
    public static Outcome<MappingLine> Read(AccessWorld world, MappingRequest request, Guid id)
    {
        if (!MappingLine.ReadTo(request.To).Try(out var to, out var refusal))
            return refusal;
        string?[] said = [request.Role, request.Group, request.Resource];
        if (said.Count(one => !string.IsNullOrWhiteSpace(one)) != 1)
            return new Refusal(
                "mapping.of",
                "A line speaks of a role, or of a group, or of a resource.",
                "Name one of them."
            );
        if (request.Role is { Length: > 0 })
            return world.FindRole(request.Role).Try(out var role, out refusal)
                ? new MappingLine(id, MappedSubject.Role, role.Id, Level.None, to)
                : refusal;
        if (request.Group is { Length: > 0 })
            return world.FindGroup(request.Group).Try(out var group, out refusal)
                ? new MappingLine(id, MappedSubject.Group, group.Id, Level.None, to)
                : refusal;
        if (!world.FindResource(request.Resource).Try(out var resource, out refusal))
            return refusal;
        var least = request.Level is { Length: > 0 } word ? Words.Find<Level>(word) : Level.View;
        return least is { } level and > Level.None
            ? new MappingLine(id, MappedSubject.Resource, resource.Id, level, to)
            : new Refusal(
                "level.unknown",
                $"\"{Words.Short(request.Level)}\" is no level that opens anything.",
                "Say view, contribute, edit or manage.",
                Field: "level"
            );
    }

    /// <summary>Has what a system ought to hold worked out anew; its lane is there from the first line on.</summary>
    private static async Task DueAsync(WorkspaceWrite write, Guid connection, bool isOnlyTold)
    {
        var lane = await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == connection);
        if (lane is null)
        {
            lane = new LaneRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = connection,
                State = LaneState.Resting,
                SweepAt = isOnlyTold ? null : write.Now.Add(Sweeps.Every),
            };
            write.Rows.Lanes.Add(lane);
        }
        (lane.CompareAt, lane.ComparedOn) = (write.Now, null);
    }

    /// <summary>The lines of a mapping, as they are answered.</summary>
    public static async Task<IReadOnlyList<MappingView>> LinesAsync(
        ComeAboardContext rows,
        Guid connection,
        AccessWorld world
    ) => [.. (await Carrier.MappingOf(rows, connection)).Select(line => ViewOf(line, world))];

    private static MappingView ViewOf(MappingLine line, AccessWorld world) =>
        new(
            line.Id,
            line.Of.ToString().ToLowerInvariant(),
            line.Of switch
            {
                MappedSubject.Role => world.Roles.GetValueOrDefault(line.Subject)?.Name,
                MappedSubject.Group => world.Groups.GetValueOrDefault(line.Subject)?.Name,
                _ => world.Resources.GetValueOrDefault(line.Subject)?.Name,
            } ?? "",
            line.Subject,
            line.Least == Level.None ? "" : line.Least.Word(),
            line.To
        );

    private static ReadOnlySpan<(string, object?)> Said(ConnectionRow row, MappingView line) =>
        new (string, object?)[]
        {
            ("name", row.Name),
            ("of", line.Of),
            ("which", line.Subject),
            ("level", line.Level.Length > 0 ? line.Level : null),
            ("to", line.To),
        };
}
