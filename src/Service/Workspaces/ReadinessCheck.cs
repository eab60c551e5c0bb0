using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>Everything that would stop an invitation, before anybody writes one.</summary>
public sealed class ReadinessCheck(Database database, MailReach reach, TimeProvider clock)
{
    // Mail that waits for so long is a sign that the mail server does not work.
    private static readonly TimeSpan LongWait = TimeSpan.FromMinutes(5);

    /// <summary>Checks an invitation, or whatever is known of it so far.</summary>
    /// <returns>What stands in its way, or <c>preset.unknown</c>.</returns>
    public async Task<Outcome<ReadinessView>> CheckAsync(Visitor visitor, ReadinessRequest request)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var wish = new InvitationWish(request.Address, request.Kind)
        {
            More = Bundles.WishOf(request.Role, null, request.Gives),
            Organisation = request.Organisation,
            OrganisationAsWritten = request.OrganisationAsWritten,
            Host = request.Host,
            From = request.From,
            Until = request.Until,
            NoEnd = request.NoEnd,
        };
        if (!string.IsNullOrWhiteSpace(request.Preset))
        {
            if (!(await Presets.FindAsync(rows, request.Preset)).Try(out var preset, out var none))
                return none;
            wish = Presets.Of(preset).Fill(wish, visitor.Today);
        }
        var now = clock.Now();
        var blockers = (await BlockersAsync(rows, visitor, wish, now)).ToList();
        var waiting = now - LongWait;
        if (await reach.FaultAsync() is { } fault)
            blockers.Add(
                ViewOf(
                    new Refusal(
                        "mail.away",
                        $"The mail server does not answer: {fault}",
                        "Tell the operator. Invitations can be sent meanwhile; their mails wait."
                    ),
                    false,
                    visitor.Workspace.ShortName,
                    wish
                )
            );
        else if (
            await rows.Deliveries.AnyAsync(d => d.SettledAt == null && d.Tries > 0 && d.CreatedAt < waiting)
        )
            blockers.Add(
                ViewOf(
                    new Refusal(
                        "mail.waiting",
                        "Mail has been waiting for minutes: the mail server does not take it.",
                        "Look at the mail server. Invitations can be sent meanwhile; their mails wait too."
                    ),
                    false,
                    visitor.Workspace.ShortName,
                    wish
                )
            );
        return new ReadinessView(!blockers.Any(blocker => blocker.Stops), blockers);
    }

    /// <summary>All that stands in the way of a wish, what cannot be read first; none of it hides another.</summary>
    public static async Task<IReadOnlyList<BlockerView>> BlockersAsync(
        ComeAboardContext rows,
        Visitor visitor,
        InvitationWish wish,
        DateTimeOffset now
    )
    {
        var readable = wish;
        var faults = Faults(ref readable, visitor.World);
        var (offer, others) = InvitationOffer.ReadThrough(
            readable,
            Offers.UsualIn(visitor.Workspace, now),
            visitor.World
        );
        faults.AddRange(others.Where(fault => wish.Address is not null || fault.Field != "address"));
        var known = await KnownAddresses.ReadAsync(rows, [offer]);
        var facts = offer.FactsFor(visitor.World, visitor.Member.Id, known, visitor.Workspace, now);
        // What could not be read is not judged as well.
        if (others.Any(fault => fault.Field == "address"))
            facts = facts with { Address = null };
        if (others.Any(fault => fault.Field is "until" or "from"))
            facts = facts with { Stay = null };
        var blockers = Readiness
            .Blockers(facts)
            .Where(blocker => faults.Count == 0 || blocker.Code != "role.missing" || wish.Gives.IsNone);
        return
        [
            .. faults.Concat(blockers).Select(one => ViewOf(one, true, visitor.Workspace.ShortName, wish)),
        ];
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

    private static BlockerView ViewOf(Refusal blocker, bool stops, string shortName, InvitationWish wish)
    {
        var (path, command) = blocker.Code switch
        {
            "role.missing" or "role.unknown" => ("access/roles", "aboard roles list"),
            "role.gone" or "group.gone" or "preset.nothing" => ("invite/presets", "aboard presets list"),
            "resource.unknown" or "resource.gone" => ("access/resources", "aboard resources list"),
            "group.unknown" => ("access/groups", "aboard groups list"),
            "organisation.over" => (
                "access/organisations",
                $"aboard organisations change {Quoted(wish.Organisation)} --agreement-ends DAY"
            ),
            "organisation.full" => (
                "access/organisations",
                $"aboard organisations change {Quoted(wish.Organisation)} --cap NUMBER"
            ),
            "organisation.kind" => (
                "access/organisations",
                $"aboard organisations show {Quoted(wish.Organisation)}"
            ),
            "organisation.unknown" => (
                "access/organisations",
                $"aboard organisations add {Quoted(wish.Organisation)} --kind {wish.Kind ?? "KIND"}"
            ),
            "seat.none-free" or "seat.no-changes" or "pool.unknown" => ("access/seats", "aboard seats list"),
            "right.missing" or "right.beyond-own" or "right.lead-only" => (
                "access/roles",
                "aboard roles compare"
            ),
            "address.invited" => ("invite", $"aboard invitations resend {wish.Address}"),
            "address.member" => ("people", $"aboard people show {wish.Address}"),
            "address.bounced" => ("invite/bounced", "aboard invitations bounced"),
            "mail.waiting" or "mail.away" => ("", "aboard workspace overview"),
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

    /// <summary>A word of a command as a shell takes it.</summary>
    private static string Quoted(string? word)
    {
        var text = word?.Trim() ?? "";
        return
            text.Length > 0
            && text.All(sign =>
                char.IsAsciiLetterOrDigit(sign) || "-_.@".Contains(sign, StringComparison.Ordinal)
            )
            ? text
            : "'" + text.Replace("'", "'\\''", StringComparison.Ordinal) + "'";
    }
}
