using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Invitations;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>Everything that would stop an invitation, before anybody writes one.</summary>
public sealed class ReadinessCheck(Database database, TimeProvider clock)
{
    // Mail that waits for so long is a sign that the mail server does not work.
    private static readonly TimeSpan LongWait = TimeSpan.FromMinutes(5);

    /// <summary>What stands in the way, with the way to mend each.</summary>
    public static IReadOnlyList<BlockerView> ViewsOf(IEnumerable<Refusal> blockers, string shortName) =>
        [.. blockers.Select(blocker => ViewOf(blocker, true, shortName))];

    /// <summary>Checks an invitation, or whatever is known of it so far.</summary>
    /// <returns>What stands in its way, or <c>preset.unknown</c>.</returns>
    public async Task<Outcome<ReadinessView>> CheckAsync(Visitor visitor, ReadinessRequest request)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var wish = new InvitationWish(request.Address ?? "somebody@example.org", request.Kind)
        {
            More = Bundles.WishOf(request.Role, null, request.Gives),
            Organisation = request.Organisation,
            Host = request.Host,
            Until = request.Until,
        };
        if (!string.IsNullOrWhiteSpace(request.Preset))
        {
            if (!(await Presets.FindAsync(rows, request.Preset)).Try(out var preset, out var none))
                return none;
            wish = Presets.Of(preset).Fill(wish, visitor.Today);
        }
        var now = clock.Now();
        var blockers = new List<BlockerView>();
        // What cannot be read is left out and said, so that it does not hide what else stands in the way.
        foreach (var fault in Faults(ref wish, visitor.World))
            blockers.Add(ViewOf(fault, true, visitor.Workspace.ShortName));
        if (Offers.Read(wish, visitor.Workspace, visitor.World, now).Try(out var offer, out var refusal))
        {
            var known = await KnownAddresses.ReadAsync(rows, [offer]);
            var facts = offer.FactsFor(visitor.World, visitor.Member.Id, known, visitor.Workspace, now);
            if (request.Address is null)
                facts = facts with { Address = null };
            blockers.AddRange(ViewsOf(Readiness.Blockers(facts), visitor.Workspace.ShortName));
        }
        else
            blockers.Add(ViewOf(refusal, true, visitor.Workspace.ShortName));
        var waiting = now - LongWait;
        if (await rows.Deliveries.AnyAsync(d => d.SettledAt == null && d.Tries > 0 && d.CreatedAt < waiting))
            blockers.Add(
                ViewOf(
                    new Refusal(
                        "mail.waiting",
                        "Mail has been waiting for minutes: the mail server does not take it.",
                        "Look at the mail server. Invitations can be sent meanwhile; their mails wait too."
                    ),
                    false,
                    visitor.Workspace.ShortName
                )
            );
        return new ReadinessView(!blockers.Any(blocker => blocker.Stops), blockers);
    }

    private static List<Refusal> Faults(ref InvitationWish wish, AccessWorld world)
    {
        var faults = new List<Refusal>();
        var gives = wish.Gives;
        wish = wish with
        {
            More = new BundleWish(
                Readable(gives.Roles, role => new BundleWish([role], [], [])),
                Readable(gives.Groups, group => new BundleWish([], [group], [])),
                Readable(gives.Seats, seat => new BundleWish([], [], [seat]))
            ),
        };
        return faults;

        List<T> Readable<T>(IReadOnlyList<T> written, Func<T, BundleWish> alone)
        {
            var good = new List<T>();
            foreach (var one in written)
            {
                if (Bundle.Read(alone(one), world).Try(out _, out var fault))
                    good.Add(one);
                else
                    faults.Add(fault);
            }
            return good;
        }
    }

    private static BlockerView ViewOf(Refusal blocker, bool stops, string shortName)
    {
        var (path, command) = blocker.Code switch
        {
            "role.missing" or "role.unknown" => ("access/roles", "aboard roles list"),
            "role.gone" or "group.gone" or "preset.nothing" => ("invite/presets", "aboard presets list"),
            "resource.unknown" or "resource.gone" => ("access/resources", "aboard resources list"),
            "group.unknown" => ("access/groups", "aboard groups list"),
            "organisation.over" or "organisation.kind" or "organisation.full" => (
                "access/organisations",
                "aboard organisations change NAME"
            ),
            "seat.none-free" or "seat.no-changes" or "pool.unknown" => ("access/seats", "aboard seats list"),
            "right.missing" or "right.beyond-own" or "right.lead-only" => (
                "access/roles",
                "aboard roles compare"
            ),
            "address.invited" => ("invite", "aboard invitations resend ADDRESS"),
            "address.member" => ("people", "aboard people show ADDRESS"),
            "address.bounced" => ("invite/bounced", "aboard invitations bounced"),
            "mail.waiting" => ("", "aboard workspace overview"),
            var code when code.StartsWith("rule.", StringComparison.Ordinal) => (
                "workspace/rules",
                "aboard workspace rules"
            ),
            _ => ((string?)null, (string?)null),
        };
        return new BlockerView(
            blocker.Code,
            blocker.Sentence,
            blocker.Remedy,
            stops,
            path is null ? null : $"/w/{shortName}/{path}".TrimEnd('/'),
            command
        );
    }
}
