using System.CommandLine;
using ComeAboard.Client;

namespace ComeAboard.Cli.Invitations;

/// <summary>Which invitations a command is about: those named, or all that match.</summary>
public static class Selection
{
    public static Option<string?> State { get; } =
        new("--state")
        {
            Description =
                "pending, or one of draft, queued, sent, waiting, accepted, refused, declined, expired, revoked, bounced",
        };

    public static Option<string?> Kind { get; } =
        new("--kind") { Description = "staff, guest, partner or client" };

    public static Option<string?> Search { get; } =
        new("--search") { Description = "Any part of a name, address or organisation" };

    public static Option<bool> All { get; } =
        new("--all") { Description = "All that match --state, --kind, --search, --batch or --link" };

    public static Option<Guid?> Batch { get; } = new("--batch") { Description = "Only those of this batch" };

    public static Option<Guid?> Link { get; } =
        new("--link") { Description = "Only those that came by this join link" };

    public static Argument<string[]> Ids { get; } =
        new("ID")
        {
            Description = "Ids of invitations, or the addresses they went to",
            Arity = ArgumentArity.ZeroOrMore,
        };

    /// <summary>The id of an invitation named by its id, or by the address it last went to.</summary>
    public static async Task<Guid> FindAsync(AboardClient client, string name, CancellationToken cancellation)
    {
        if (Guid.TryParse(name, out var id))
            return id;
        var page = await client.InvitationsAsync(search: name, limit: 200, cancellation: cancellation);
        return page.Items.FirstOrDefault(i =>
                string.Equals(i.Address, name, StringComparison.OrdinalIgnoreCase)
            )?.Id
            ?? throw new RefusedException(
                new Problem
                {
                    Title = $"There is no invitation \"{name}\".",
                    Detail = "Look it up with aboard invitations list.",
                    Code = "not-found",
                    Status = 404,
                }
            );
    }
}
