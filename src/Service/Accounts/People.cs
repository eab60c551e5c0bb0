using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Finding members by their address or id.</summary>
public static class People
{
    private const int MostAtOnce = 1_000;

    public static Refusal NotFound { get; } =
        new(
            "person.not-found",
            "There is nobody here by that address or id.",
            "Look the person up in the list of people.",
            RefusalSort.NotFound
        );

    /// <summary>
    /// The member with an id, or at an address: the one not ended if there is one, else the latest; of one who was made one
    /// with another, that other. Tracked, so that a change can go on from it.
    /// </summary>
    public static async Task<MemberRow?> FindAsync(ComeAboardContext rows, string person)
    {
        if (Guid.TryParse(person, out var id))
            return await rows.Members.FirstOrDefaultAsync(m => m.Id == id);
        if (!EmailAddress.Read(person).Try(out var address, out _))
            return null;
        var found = await rows
            .Members.Where(m => m.AddressKey == address.Key)
            .OrderByDescending(m => m.EndedAt == null)
            .ThenByDescending(m => m.MergedIntoId != null)
            .ThenByDescending(m => m.Id)
            .FirstOrDefaultAsync();
        return found?.MergedIntoId is { } into
            ? await rows.Members.FirstOrDefaultAsync(m => m.Id == into)
            : found;
    }

    /// <summary>The member at an address or with an id who has not ended; refuses with <c>person.not-found</c>.</summary>
    public static async Task<Outcome<MemberRow>> HereAsync(ComeAboardContext rows, string person) =>
        await FindAsync(rows, person) is { EndedAt: null } member
            ? member
            : NotFound with
            {
                Sentence = $"There is nobody here by \"{person}\".",
            };

    /// <summary>Reads whom a step is about; refuses with <c>people.how-many</c>.</summary>
    public static Outcome<IReadOnlyList<string>> ReadHowMany(IReadOnlyList<string>? people) =>
        people is { Count: > 0 and <= MostAtOnce }
            ? Outcome.Of(people)
            : new Refusal(
                "people.how-many",
                $"Name 1 to {MostAtOnce} people.",
                "Do it in several steps.",
                Field: "people"
            );

    /// <summary>Reads whom a step is about, each once; refuses with <c>people.how-many</c>.</summary>
    public static Outcome<IReadOnlyList<string>> ReadSeveral(PeopleRequest request) =>
        ReadHowMany(request.People)
            .Then<IReadOnlyList<string>>(people => [.. people.Distinct(StringComparer.OrdinalIgnoreCase)]);

    /// <summary>The active member at an address or with an id; refuses with <c>person.not-found</c> or <c>person.not-active</c>.</summary>
    public static async Task<Outcome<MemberRow>> ActiveAsync(WorkspaceWrite write, string person)
    {
        if (await FindAsync(write.Rows, person) is not { } member)
            return NotFound;
        var world = await write.WorldAsync();
        return EntryRules.Forbids(world, member.Id, write.Today) is null
            ? member
            : new Refusal(
                "person.not-active",
                $"{member.Name} has no access here today.",
                "Choose somebody who has.",
                RefusalSort.Conflict
            );
    }
}
