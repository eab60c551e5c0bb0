using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Seat pools and who holds a seat.</summary>
public static class Seats
{
    private const int Most = 200;
    private const int MostAtOnce = 1_000;

    public static RouteGroupBuilder MapSeats(this RouteGroupBuilder workspace)
    {
        var seats = workspace.MapGroup("/seats").ForMembers(Duties.Seats | Duties.Invite | Duties.People);
        seats.MapGet("", ListAsync).OrCsv("seats").WithName("listPools").Produces<Page<PoolView>>();
        seats.MapGet("/{pool}", ShowAsync).WithName("showPool").Produces<PoolView>();
        seats
            .MapGet("/{pool}/holders", HoldersAsync)
            .OrCsv("holders")
            .WithName("seatHolders")
            .Produces<Page<SeatView>>();
        seats.MapPost("", AddAsync).ForMembers(Duties.Seats).WithName("addPool").Produces<PoolView>(201);
        seats
            .MapPut("/{pool}", ChangeAsync)
            .ForMembers(Duties.Seats)
            .WithName("changePool")
            .Produces<PoolView>();
        seats.MapDelete("/{pool}", RemoveAsync).ForMembers(Duties.Seats).WithName("removePool").Produces(204);
        seats
            .MapPost("/{pool}/holders", GiveAsync)
            .ForMembers(Duties.Seats)
            .WithName("giveSeats")
            .Produces<SeatAnswer>();
        seats
            .MapDelete("/{pool}/holders/{person}", TakeAsync)
            .ForMembers(Duties.Seats)
            .WithName("takeSeat")
            .Produces<SeatAnswer>();
        seats
            .MapPost("/{pool}/pass", PassAsync)
            .ForMembers(Duties.Seats)
            .WithName("passSeat")
            .Produces<SeatAnswer>();
        return workspace;
    }

    private static async Task<Page<PoolView>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.SeatPools.AsNoTracking().OrderBy(p => p.NameKey).ToListAsync();
        return new Page<PoolView>([.. found.Select(p => ViewOf(p, visitor.Today))], null);
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string pool,
        HttpContext http,
        Database database
    )
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var row = await rows.SeatPools.AsNoTracking().FirstAsync(p => p.Id == id);
        http.Response.SayVersion(row.Version);
        return Results.Ok(ViewOf(row, visitor.Today));
    }

    private static async Task<IResult> HoldersAsync(Visitor visitor, string pool, Database database)
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var held = await (
            from seat in rows.Seats
            join member in rows.Members on seat.MemberId equals member.Id
            where seat.PoolId == id
            orderby member.Name
            select new SeatView(member.Id, member.Name, member.Address, false, seat.Since)
        ).ToListAsync();
        var reserved = await (
            from reservation in rows.SeatReservations
            join invitation in rows.Invitations on reservation.InvitationId equals invitation.Id
            where reservation.PoolId == id
            orderby invitation.Address
            select new SeatView(invitation.Id, invitation.Name, invitation.Address, true, null)
        ).ToListAsync();
        return Results.Ok(new Page<SeatView>([.. held, .. reserved], null));
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        PoolRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!Read(request).Try(out var words, out var refusal))
            return refusal.ToResult();
        var empty = new SeatAccount(0) { Year = visitor.Today.Year };
        if (!empty.Resize(request.Total, request.ChangesPerSeat).Try(out var account, out refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<SeatPoolRow>(
            visitor,
            new EditMode(Duties.Seats, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.SeatPools.AnyAsync(p => p.NameKey == Names.KeyOf(words.Name)))
                    return Areas.Taken("seat pool", words.Name);
                if (await write.Rows.SeatPools.CountAsync() >= Most)
                    return new Refusal(
                        "pool.too-many",
                        $"There are {Most} seat pools already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                var row = new SeatPoolRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = words.Name,
                    NameKey = Names.KeyOf(words.Name),
                    About = words.About,
                    Total = account.Total,
                    Account = account,
                };
                write.Rows.SeatPools.Add(row);
                write.Record(
                    "pool.added",
                    row.Id,
                    ("name", row.Name),
                    ("total", row.Total),
                    ("changes per seat", row.ChangesPerSeat)
                );
                return row;
            }
        );
        return edited.ToResult(done =>
            Results.Created($"{http.Request.Path}/{done.Value.Id}", ViewOf(done.Value, visitor.Today))
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string pool,
        PoolRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal.ToResult();
        if (!Read(request).Try(out var words, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<SeatPoolRow>(
            visitor,
            new EditMode(Duties.Seats, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                var key = Names.KeyOf(words.Name);
                if (await write.Rows.SeatPools.AnyAsync(p => p.NameKey == key && p.Id != id))
                    return Areas.Taken("seat pool", words.Name);
                if (
                    !row.AccountOn(write.Today)
                        .Resize(request.Total, request.ChangesPerSeat)
                        .Try(out var account, out var no)
                )
                    return no;
                write.Record(
                    "pool.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", words.Name),
                    ("total before", row.Total),
                    ("total after", account.Total),
                    ("changes per seat before", row.ChangesPerSeat),
                    ("changes per seat after", account.ChangesPerSeat)
                );
                (row.Name, row.NameKey, row.About) = (words.Name, key, words.About);
                row.Account = account;
                row.Version++;
                return row;
            }
        );
        return edited.ToResult(done => Results.Ok(ViewOf(done.Value, visitor.Today)));
    }

    private static async Task<IResult> RemoveAsync(Visitor visitor, string pool, Editing editing)
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal.ToResult();
        var removed = await editing.EditAsync<bool>(
            visitor,
            new EditMode(Duties.Seats),
            async (write, _) =>
            {
                if (await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                if (row.Held + row.Reserved > 0)
                    return new Refusal(
                        "pool.in-use",
                        $"{row.Held} seats of {row.Name} are held and {row.Reserved} reserved.",
                        "Take them first.",
                        RefusalSort.Conflict
                    );
                write.Rows.SeatPools.Remove(row);
                write.Record("pool.removed", row.Id, ("name", row.Name));
                return true;
            }
        );
        return removed.ToResult(_ => Results.NoContent());
    }

    private static async Task<IResult> GiveAsync(
        Visitor visitor,
        string pool,
        PeopleRequest request,
        Editing editing,
        bool dryRun = false
    )
    {
        if (request.People is not { Count: > 0 and <= MostAtOnce })
            return new Refusal(
                "people.how-many",
                $"Name 1 to {MostAtOnce} people.",
                "Do it in several steps.",
                Field: "people"
            ).ToResult();
        return await ChangeHoldersAsync(
            visitor,
            pool,
            editing,
            dryRun,
            async (write, row) =>
            {
                var names = new List<string>();
                foreach (var person in request.People.Distinct(StringComparer.OrdinalIgnoreCase))
                {
                    if (await People.FindAsync(write.Rows, person) is not { EndedAt: null } member)
                        return People.NotFound with { Sentence = $"There is nobody here by \"{person}\"." };
                    if (await write.Rows.Seats.FindAsync(write.Workspace.Id, row.Id, member.Id) is not null)
                        return new Refusal(
                            "seat.held",
                            $"{member.Name} holds a seat of {row.Name} already.",
                            "Leave them out.",
                            RefusalSort.Conflict,
                            "people"
                        );
                    if (Seating.Give(write, row, member.Id, member.Name) is { } full)
                        return full;
                    names.Add(member.Name);
                }
                return names;
            }
        );
    }

    private static Task<IResult> TakeAsync(
        Visitor visitor,
        string pool,
        string person,
        Editing editing,
        bool dryRun = false
    ) =>
        ChangeHoldersAsync(
            visitor,
            pool,
            editing,
            dryRun,
            async (write, row) =>
            {
                if (!(await HeldAsync(write, row, person)).Try(out var found, out var refusal))
                    return refusal;
                Seating.Take(write, row, found.Seat, found.Name);
                return new List<string> { found.Name };
            }
        );

    private static Task<IResult> PassAsync(
        Visitor visitor,
        string pool,
        PassRequest request,
        Editing editing,
        bool dryRun = false
    ) =>
        ChangeHoldersAsync(
            visitor,
            pool,
            editing,
            dryRun,
            async (write, row) =>
            {
                if (!(await HeldAsync(write, row, request.From)).Try(out var found, out var refusal))
                    return refusal;
                if (await People.FindAsync(write.Rows, request.To) is not { EndedAt: null } to)
                    return People.NotFound with { Field = "to" };
                if (await write.Rows.Seats.FindAsync(write.Workspace.Id, row.Id, to.Id) is not null)
                    return new Refusal(
                        "seat.held",
                        $"{to.Name} holds a seat of {row.Name} already.",
                        "Take the seat instead of passing it on.",
                        RefusalSort.Conflict,
                        "to"
                    );
                if (Seating.Pass(write, row, found.Seat, found.Name, to.Id, to.Name) is { } no)
                    return no;
                return new List<string> { found.Name, to.Name };
            }
        );

    private static async Task<Outcome<(SeatRow Seat, string Name)>> HeldAsync(
        WorkspaceWrite write,
        SeatPoolRow pool,
        string person
    )
    {
        if (await People.FindAsync(write.Rows, person) is not { } member)
            return People.NotFound;
        return
            await write.Rows.Seats.FirstOrDefaultAsync(s => s.PoolId == pool.Id && s.MemberId == member.Id)
                is { } seat
            ? (seat, member.Name)
            : new Refusal(
                "seat.not-held",
                $"{member.Name} holds no seat of {pool.Name}.",
                "Look at the list of its holders.",
                RefusalSort.NotFound
            );
    }

    private static async Task<IResult> ChangeHoldersAsync(
        Visitor visitor,
        string pool,
        Editing editing,
        bool dryRun,
        Func<WorkspaceWrite, SeatPoolRow, Task<Outcome<List<string>>>> change
    )
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<SeatAnswer>(
            visitor,
            new EditMode(Duties.Seats, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                var before = ViewOf(row, write.Today);
                return (await change(write, row)).Try(out var names, out var no)
                    ? new SeatAnswer(before, ViewOf(row, write.Today), names)
                    : no;
            }
        );
        return edited.ToResult(done => Results.Ok(done.Value));
    }

    private static Outcome<(string Name, string About)> Read(PoolRequest request)
    {
        if (!Areas.ReadName(request.Name, "seat pool").Try(out var name, out var refusal))
            return refusal;
        return PlainText.ReadMessage(request.About).Try(out var about, out refusal)
            ? (name, about)
            : refusal with
            {
                Field = "about",
            };
    }

    private static PoolView ViewOf(SeatPoolRow row, DateOnly today)
    {
        var account = row.AccountOn(today);
        return new PoolView(
            row.Id,
            row.Name,
            row.About,
            account.Total,
            account.Held,
            account.Reserved,
            account.Free,
            account.ChangesPerSeat,
            account.ChangesUsed,
            account.ReservedChanges,
            account.ChangesLeft,
            account.Year,
            row.Version
        );
    }
}
