using System.Globalization;
using ComeAboard.Core;
using ComeAboard.Storage.Invitations;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>The orders in which invitations are listed, and the places in them.</summary>
public static class InvitationOrder
{
    /// <summary>What comes after the cursor, in the order asked for; refuses with <c>sort.unknown</c> or <c>cursor.malformed</c>.</summary>
    public static Outcome<IQueryable<InvitationRow>> Of(IQueryable<InvitationRow> rows, InvitationQuery query)
    {
        (DateTimeOffset At, Guid Id)? after = null;
        if (query.Cursor is { Length: > 0 } cursor)
        {
            if (!ReadCursor(cursor).Try(out var read, out var refusal))
                return refusal;
            after = read;
        }
        var (at, id) = after ?? default;
        switch (query.Sort)
        {
            case null or "" or "newest":
                if (after is not null)
                    rows = rows.Where(i => i.Id.CompareTo(id) < 0);
                return Outcome.Of<IQueryable<InvitationRow>>(rows.OrderByDescending(i => i.Id));
            case "oldest":
                if (after is not null)
                    rows = rows.Where(i => i.Id.CompareTo(id) > 0);
                return Outcome.Of<IQueryable<InvitationRow>>(rows.OrderBy(i => i.Id));
            case "deadline":
                if (after is not null)
                    rows = rows.Where(i => i.Deadline >= at && (i.Deadline > at || i.Id.CompareTo(id) > 0));
                return Outcome.Of<IQueryable<InvitationRow>>(rows.OrderBy(i => i.Deadline).ThenBy(i => i.Id));
            case "last-step":
                if (after is not null)
                    rows = rows.Where(i =>
                        i.LastStepAt <= at && (i.LastStepAt < at || i.Id.CompareTo(id) < 0)
                    );
                return Outcome.Of<IQueryable<InvitationRow>>(
                    rows.OrderByDescending(i => i.LastStepAt).ThenByDescending(i => i.Id)
                );
            default:
                return new Refusal(
                    "sort.unknown",
                    "The list does not come in that order.",
                    "Use newest, oldest, deadline or last-step.",
                    Field: "sort"
                );
        }
    }

    /// <summary>The place of an invitation in an order.</summary>
    public static string CursorOf(InvitationRow last, string? sort)
    {
        var at = sort switch
        {
            "deadline" => last.Deadline,
            "last-step" => last.LastStepAt,
            _ => last.CreatedAt,
        };
        return $"{at.ToUnixTimeMilliseconds().ToString(CultureInfo.InvariantCulture)}.{last.Id:N}";
    }

    private static Outcome<(DateTimeOffset At, Guid Id)> ReadCursor(string cursor)
    {
        var parts = cursor.Split('.');
        return
            parts.Length == 2
            && long.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out var milliseconds)
            && milliseconds < 253_402_300_799_999
            && Guid.TryParseExact(parts[1], "N", out var id)
            ? (DateTimeOffset.FromUnixTimeMilliseconds(milliseconds), id)
            : Keysets.BadCursor;
    }
}
